#include "app/theme/parts.h"

#include <QGuiApplication>
#include <QPainter>
#include <QScreen>
#include <QWidget>

#include "app/theme/theme.h"

namespace molten::theme {

QString shown(const std::string& words) {
  return QString::fromStdString(words);
}

QLabel* note(const QString& content) {
  auto* label = new QLabel(content);
  label->setProperty("dim", true);
  label->setWordWrap(true);
  return label;
}

QWidget* rule() {
  auto* thin = new QWidget;
  thin->setFixedHeight(1);
  thin->setStyleSheet("background:" + line.name());
  return thin;
}

void resizeWithinScreen(QWidget& window, const QSize& wanted) {
  // The window's frame needs some of the screen; under Wayland so do the desktop's bars, whose size no program is told.
  const QSize taken(16, QGuiApplication::platformName().startsWith("wayland") ? 96 : 48);
  window.resize(wanted.boundedTo(window.screen()->availableSize() - taken));
}

OneLine::OneLine(const QString& words, QWidget* parent) : QLabel(parent) {
  setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
  setWords(words);
}

void OneLine::setWords(const QString& words) {
  setText(words);
  setToolTip(words);
}

void OneLine::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setPen(property("dim").toBool() ? dim : palette().color(foregroundRole()));
  painter.drawText(contentsRect(), static_cast<int>(alignment()),
                   fontMetrics().elidedText(text(), Qt::ElideRight, contentsRect().width()));
}

}  // namespace molten::theme
