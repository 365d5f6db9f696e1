#include "app/theme/theme.h"

#include <QApplication>
#include <QFile>
#include <QFontDatabase>
#include <QPainter>
#include <QPalette>
#include <QStyleFactory>
#include <algorithm>
#include <cmath>

/// A library's resources are linked in only where they are asked for, and that outside of any namespace.
static void linkResources() {
  Q_INIT_RESOURCE(resources);
}

namespace molten::theme {
namespace {

QColor between(const QColor& a, const QColor& b, double k) {
  return QColor::fromRgbF(static_cast<float>(a.redF() + (b.redF() - a.redF()) * k),
                          static_cast<float>(a.greenF() + (b.greenF() - a.greenF()) * k),
                          static_cast<float>(a.blueF() + (b.blueF() - a.blueF()) * k));
}

}  // namespace

QFont words(double pixels, bool bold) {
  QFont font("B612 Bench");
  font.setPixelSize(static_cast<int>(std::lround(pixels)));
  font.setBold(bold);
  return font;
}

QColor momentColour(double share) {
  share = std::clamp(share, -1.0, 1.0);
  return share < 0 ? between(now, past, -share) : between(now, ahead, share);
}

void frameFocus(QPainter& painter, const QRectF& around) {
  painter.setPen(line.lighter(150));
  painter.setBrush(Qt::NoBrush);
  painter.drawRect(around.adjusted(0.5, 0.5, -0.5, -0.5));
}

void hatch(QPainter& painter, const QRectF& area) {
  painter.save();
  painter.setClipRect(area, Qt::IntersectClip);
  painter.setPen(QPen(outside, 1));
  for (double x = area.left() - area.height(); x < area.right(); x += 5)
    painter.drawLine(QPointF(x, area.bottom()), QPointF(x + area.height(), area.top()));
  painter.restore();
}

void apply(QApplication& application) {
  linkResources();
  for (const char* name : {"B612-Regular", "B612-Bold"})
    QFontDatabase::addApplicationFont(QString(":/fonts/%1.otf").arg(name));
  QApplication::setStyle(QStyleFactory::create("Fusion"));
  QPalette palette;
  const auto set = [&](QPalette::ColorRole role, const QColor& colour) { palette.setColor(role, colour); };
  set(QPalette::Window, panel);
  set(QPalette::WindowText, text);
  set(QPalette::Base, ink);
  set(QPalette::AlternateBase, panel);
  set(QPalette::Text, text);
  set(QPalette::Button, raised);
  set(QPalette::ButtonText, text);
  set(QPalette::BrightText, now);
  set(QPalette::Highlight, now);
  set(QPalette::HighlightedText, ink);
  set(QPalette::ToolTipBase, raised);
  set(QPalette::ToolTipText, text);
  set(QPalette::PlaceholderText, dim);
  set(QPalette::Link, now);
  set(QPalette::Light, raised);
  set(QPalette::Mid, line);
  set(QPalette::Dark, ink);
  for (const auto role : {QPalette::WindowText, QPalette::Text, QPalette::ButtonText})
    palette.setColor(QPalette::Disabled, role, QColor(0x65, 0x64, 0x60));
  application.setPalette(palette);
  application.setFont(words());
  QFile sheet(":/style.qss");
  if (sheet.open(QIODevice::ReadOnly)) application.setStyleSheet(QString::fromUtf8(sheet.readAll()));
}

}  // namespace molten::theme
