// Key lanes: how they are drawn.
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/chart/key_lanes.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr double keyRadius = 4.5;

}  // namespace

void KeyLanes::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), theme::ink);
  for (std::size_t lane = 0; lane < sight_.state.lanes.size(); ++lane) drawLane(painter, lane);
  const double x = std::floor(sight_.view.xOf(sight_.state.playhead.toDouble())) + 0.5;
  painter.setRenderHint(QPainter::Antialiasing, false);
  painter.setPen(QPen(theme::now, 1));
  if (x >= sight_.view.area.left() - 1) painter.drawLine(QPointF(x, 0), QPointF(x, height()));
  if (const auto both = sight_.brackets()) {
    painter.setPen(QPen(theme::now, 1));
    for (const auto& [box, inner] : {std::pair{both->left, both->left.right()}, {both->right, both->right.left()}}) {
      const double outer = inner == box.right() ? box.left() : box.right();
      const QPointF corners[] = {{inner, box.top()}, {outer, box.top()}, {outer, box.bottom()}, {inner, box.bottom()}};
      painter.drawPolyline(corners, 4);
    }
  }
  if (hasFocus()) theme::frameFocus(painter, rect());
  if (hold_.grip != KeyGrip::Frame) return;
  painter.setPen(QPen(theme::dim, 1, Qt::DashLine));
  painter.setBrush(Qt::NoBrush);
  painter.drawRect(QRectF(pressed_, pointer_).normalized());
}

void KeyLanes::drawLane(QPainter& painter, std::size_t number) const {
  const KeyLane& lane = sight_.state.lanes[number];
  const QRectF box = sight_.laneRect(number);
  const KeySight::Range range = sight_.rangeOf(lane);
  painter.setRenderHint(QPainter::Antialiasing, false);
  painter.setPen(theme::line);
  painter.drawLine(box.topLeft(), box.topRight());
  painter.setFont(theme::words(11));
  painter.setPen(theme::text);
  const double room = sight_.view.area.left() - 14;
  // A low lane has room for its name alone.
  const bool low = box.height() < 36;
  painter.drawText(QRectF(8, box.top() + (low ? (box.height() - 15) / 2 : 4), room, 15),
                   Qt::AlignLeft | Qt::AlignVCenter,
                   painter.fontMetrics().elidedText(lane.label, Qt::ElideRight, static_cast<int>(room)));
  if (!low) {
    painter.setPen(theme::dim);
    painter.setFont(theme::words(10));
    painter.drawText(QRectF(8, box.top() + 20, room, 15), Qt::AlignLeft | Qt::AlignVCenter,
                     lane.known() ? sight_.valueText(lane, lane.at(sight_.described(lane), sight_.state.playhead.toDouble()))
                                  : tr("being measured"));
  }
  painter.save();
  painter.setClipRect(QRectF(sight_.view.area.left() - keyRadius - 1, box.top(), width(), box.height()));
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setBrush(Qt::NoBrush);
  // What keys have alone, where drives make something else of it; then as it will be.
  const auto& described = sight_.described(lane);
  for (const bool whole : {false, true}) {
    if (!whole && (lane.drives.empty() || lane.track.empty())) continue;
    for (std::size_t i = 0; i < lane.curves; ++i) {
      QPolygonF curve;
      const double step = lane.drives.empty() ? 2 : 1;
      for (double x = sight_.view.area.left(); x <= sight_.view.area.right(); x += step) {
        const double seconds = sight_.view.timeAt(x);
        const KeyValue value = whole ? lane.at(described, seconds) : lane.keyedAt(seconds);
        curve << QPointF(x, sight_.yOf(number, range, value[i]));
      }
      painter.setPen(QPen(!whole || !lane.known() ? theme::line : i == 0 ? theme::text : theme::dim, 1.4,
                          i == 0 ? Qt::SolidLine : i == 1 ? Qt::DashLine : Qt::DotLine));
      painter.drawPolyline(curve);
    }
  }
  drawKeys(painter, number);
  painter.restore();
}

/// Selected ones are filled, with the handles of their ways.
void KeyLanes::drawKeys(QPainter& painter, std::size_t number) const {
  const KeyLane& lane = sight_.state.lanes[number];
  const KeySight::Range range = sight_.rangeOf(lane);
  for (std::size_t k = 0; k < lane.track.size(); ++k) {
    const bool chosen = sight_.selected.contains({number, k});
    if (chosen && k > 0 && lane.track[k].ease.way != Ease::Way::Hold) {
      painter.setPen(QPen(theme::dim, 1));
      const QPointF leave = sight_.easePoint(number, k, false), arrive = sight_.easePoint(number, k, true);
      painter.drawLine(sight_.keyPoint(number, k - 1), leave);
      painter.drawLine(sight_.keyPoint(number, k), arrive);
      painter.setBrush(theme::ink);
      painter.setPen(QPen(theme::now, 1.2));
      for (const QPointF& at : {leave, arrive}) painter.drawRect(QRectF(at.x() - 3, at.y() - 3, 6, 6));
    }
    for (std::size_t i = 0; i < lane.curves; ++i) {
      const QPointF at(sight_.view.xOf(lane.track[k].at.toDouble()), sight_.yOf(number, range, lane.track[k].value[i]));
      painter.setPen(QPen(theme::now, 1.4));
      painter.setBrush(chosen ? theme::now : theme::ink);
      painter.drawEllipse(at, keyRadius, keyRadius);
    }
  }
}

}  // namespace molten
