#include "app/dials/curve_editor.h"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/theme/spoken.h"
#include "app/theme/theme.h"

namespace molten {

CurveEditor::CurveEditor(QWidget* parent) : QWidget(parent) {
  setFixedHeight(92);
  theme::setSpoken(*this, QAccessible::Chart, tr("Curve"));
  setMinimumWidth(120);
  setCursor(Qt::CrossCursor);
  setToolTip(tr("From start to end along, the moment upwards. Drag a point; double-click adds one or takes it away."));
}

QRectF CurveEditor::area() const {
  return QRectF(rect()).adjusted(5, 5, -5, -5);
}

QPointF CurveEditor::pointAt(std::size_t index) const {
  const QRectF box = area();
  return {box.left() + points_[index].x * box.width(), box.bottom() - points_[index].y * box.height()};
}

Place CurveEditor::placeAt(const QPointF& at) const {
  const QRectF box = area();
  return {std::clamp((at.x() - box.left()) / box.width(), 0.0, 1.0),
          std::clamp((box.bottom() - at.y()) / box.height(), 0.0, 1.0)};
}

void CurveEditor::setPoints(const CurvePoints& points) {
  points_ = points;
  if (held_ && *held_ >= points_.size()) held_.reset();
  update();
}

std::optional<std::size_t> CurveEditor::hit(const QPointF& at) const {
  std::optional<std::size_t> nearest;
  double least = 10;
  for (std::size_t i = 0; i < points_.size(); ++i) {
    const QPointF d = pointAt(i) - at;
    if (const double away = std::hypot(d.x(), d.y()); away <= least) least = away, nearest = i;
  }
  return nearest;
}

void CurveEditor::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  const QRectF box = area();
  painter.fillRect(box, theme::ink);
  painter.setPen(theme::line);
  painter.drawRect(box);
  for (const double part : {0.25, 0.5, 0.75}) {
    painter.drawLine(QPointF(box.left() + part * box.width(), box.top()),
                     QPointF(box.left() + part * box.width(), box.bottom()));
    painter.drawLine(QPointF(box.left(), box.top() + part * box.height()),
                     QPointF(box.right(), box.top() + part * box.height()));
  }
  painter.setRenderHint(QPainter::Antialiasing);
  const ResponseCurve curve(points_);
  QPolygonF line;
  for (double x = 0; x <= box.width(); x += 1)
    line << QPointF(box.left() + x, box.bottom() - curve.at(x / box.width()) * box.height());
  painter.setPen(QPen(theme::now, 1.5));
  painter.drawPolyline(line);
  for (std::size_t i = 0; i < points_.size(); ++i) {
    painter.setBrush(held_ == i ? theme::now : theme::panel);
    painter.drawEllipse(pointAt(i), 4, 4);
  }
}

void CurveEditor::mousePressEvent(QMouseEvent* event) {
  if (event->button() == Qt::LeftButton) held_ = hit(event->position());
  update();
}

void CurveEditor::mouseMoveEvent(QMouseEvent* event) {
  if (!held_) return;
  CurvePoints points = points_;
  Place to = placeAt(event->position());
  constexpr double apart = 0.01;
  // The ends stay at their sides; the others between their neighbours.
  if (*held_ == 0)
    to.x = 0;
  else if (*held_ + 1 == points.size())
    to.x = 1;
  else
    to.x = std::clamp(to.x, points[*held_ - 1].x + apart, points[*held_ + 1].x - apart);
  to.x = std::round(to.x * 1000) / 1000, to.y = std::round(to.y * 1000) / 1000;
  points[*held_] = to;
  if (isCurve(points)) emit changed(points, true);
}

void CurveEditor::mouseReleaseEvent(QMouseEvent*) {
  if (held_) emit released();
  held_.reset();
  update();
}

void CurveEditor::mouseDoubleClickEvent(QMouseEvent* event) {
  CurvePoints points = points_;
  const auto on = hit(event->position());
  held_.reset();
  if (on) {
    if (*on == 0 || *on + 1 == points.size()) return;
    points.erase(points.begin() + static_cast<std::ptrdiff_t>(*on));
  } else {
    Place at = placeAt(event->position());
    at.x = std::round(at.x * 1000) / 1000, at.y = std::round(at.y * 1000) / 1000;
    const auto after = std::find_if(points.begin(), points.end(), [&](const Place& p) { return p.x > at.x; });
    points.insert(after, at);
  }
  if (isCurve(points)) emit changed(points, false);
}

}  // namespace molten
