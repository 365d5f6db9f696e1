#include "app/theme/parts.h"

#include <QLabel>
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

}  // namespace molten::theme
