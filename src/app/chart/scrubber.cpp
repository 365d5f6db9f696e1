#include "app/chart/scrubber.h"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/chart/chart_measures.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr double trackHeight = 5;  ///< what is read outside stands along the lower edge

}  // namespace

Scrubber::Scrubber(QWidget* parent) : QWidget(parent) {
  setFixedHeight(static_cast<int>(chart::rulerHeight));
  setMouseTracking(true);
  setToolTip(tr("Drag to scrub (← →, with Shift ten frames) · drag the brackets for in and out (I, O)"));
  theme::setSpoken(*this, QAccessible::Slider, tr("Scrub line"));
}

void Scrubber::setState(const ScrubberState& state) {
  const bool moved = state.frame != state_.frame;
  state_ = state;
  if (moved) theme::tellNumber(*this, spoken());
  update();
}

void Scrubber::setView(const ChartView& view) {
  if (view == view_) return;
  view_ = view;
  update();
}

double Scrubber::xOf(std::int64_t frame) const {
  return view_.xOf(static_cast<double>(frame) / state_.rate.toDouble());
}

std::int64_t Scrubber::frameAt(double x) const {
  const double picture = view_.timeAt(x) * state_.rate.toDouble();
  return std::clamp<std::int64_t>(static_cast<std::int64_t>(std::floor(picture + 0.5)), 0,
                                  std::max<std::int64_t>(0, state_.length - 1));
}

void Scrubber::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), theme::panel);
  painter.fillRect(0, 0, width(), 1, theme::line);
  painter.fillRect(0, height() - 1, width(), 1, theme::line);
  if (state_.length < 1) return;
  painter.setClipRect(QRectF(view_.area.left() - 8, 0, width(), height()));
  drawRuns(painter);
  drawTimes(painter);
  drawEnds(painter);
  const double x = std::floor(xOf(state_.frame)) + 0.5;
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme::now);
  painter.drawPolygon(QPolygonF({{x - 6, 1}, {x + 6, 1}, {x, 9}}));
  painter.setRenderHint(QPainter::Antialiasing, false);
  painter.fillRect(QRectF(x - 0.5, 1, 1, height() - 1.0), theme::now);
}

/// What is left out, what reads outside, and what was asked for.
void Scrubber::drawRuns(QPainter& painter) const {
  const double low = height() - 1.0, from = xOf(state_.span.first), to = xOf(state_.span.last + 1);
  const double begin = xOf(0), end = xOf(state_.length);
  painter.fillRect(QRectF(QPointF(begin, 1), QPointF(from, low)), theme::ink);
  painter.fillRect(QRectF(QPointF(to, 1), QPointF(end, low)), theme::ink);
  for (const OutsideRun& run : state_.outside)
    theme::hatch(painter, QRectF(QPointF(xOf(run.first), low - trackHeight), QPointF(xOf(run.last + 1), low)));
  for (const std::int64_t picture : state_.marked)
    painter.fillRect(QRectF(QPointF(xOf(picture), 1), QPointF(std::max(xOf(picture) + 1.5, xOf(picture + 1)), 4)),
                     theme::outside);
}

void Scrubber::drawTimes(QPainter& painter) const {
  painter.setFont(theme::words(10));
  const double step = timeStep((view_.right - view_.left) / view_.area.width(), 64);
  const double end = static_cast<double>(state_.length) / state_.rate.toDouble();
  for (double t = std::max(0.0, std::ceil(view_.left / step) * step); t <= std::min(view_.right, end) + 1e-9;
       t += step) {
    const double x = std::floor(view_.xOf(t)) + 0.5;
    painter.setPen(theme::line.lighter(130));
    painter.drawLine(QPointF(x, height() - 7), QPointF(x, height() - 2));
    painter.setPen(theme::dim);
    // The first and the last one stay on the ruler.
    const QString label = secondsLabel(t, step);
    const double half = painter.fontMetrics().horizontalAdvance(label) / 2.0 + 2;
    const double at = std::clamp(x, view_.area.left() + half, width() - half);
    painter.drawText(QRectF(at - 40, 1, 80, 12), Qt::AlignCenter, label);
  }
}

/// In and out as brackets.
void Scrubber::drawEnds(QPainter& painter) const {
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme::text);
  const double high = height() - 2.0, top = high - 9;
  for (const auto& [x, way] : {std::pair{xOf(state_.span.first), 1.0}, {xOf(state_.span.last + 1), -1.0}}) {
    painter.drawRect(QRectF(x - 1, top, 2, high - top));
    painter.drawRect(QRectF(way > 0 ? x - 1 : x - 4, top, 5, 1.5));
    painter.drawRect(QRectF(way > 0 ? x - 1 : x - 4, high - 1.5, 5, 1.5));
  }
}

Scrubber::Grip Scrubber::gripAt(const QPointF& point) const {
  const auto near = [&](double x) { return std::abs(point.x() - x) <= 6; };
  // Brackets stand in the lower half; above them is always the playhead's.
  if (point.y() < height() / 2.0) return Grip::Playhead;
  if (near(xOf(state_.span.first))) return Grip::In;
  if (near(xOf(state_.span.last + 1))) return Grip::Out;
  return Grip::Playhead;
}

void Scrubber::mousePressEvent(QMouseEvent* event) {
  if (event->button() != Qt::LeftButton || state_.length < 1) return;
  grip_ = gripAt(event->position());
  mouseMoveEvent(event);
}

void Scrubber::mouseMoveEvent(QMouseEvent* event) {
  if (state_.length < 1) return;
  if (!(event->buttons() & Qt::LeftButton)) {
    const Grip over = gripAt(event->position());
    setCursor(over == Grip::In || over == Grip::Out ? Qt::SizeHorCursor : Qt::ArrowCursor);
    return;
  }
  const std::int64_t frame = frameAt(event->position().x());
  if (grip_ == Grip::Playhead) emit scrubbed(frame);
  if (grip_ == Grip::In) emit spanDragged(std::min(frame, state_.span.last), state_.span.last);
  // Out is the end of its picture.
  if (grip_ == Grip::Out) {
    const double end = view_.timeAt(event->position().x()) * state_.rate.toDouble();
    const auto last = static_cast<std::int64_t>(std::floor(end + 0.5)) - 1;
    emit spanDragged(state_.span.first, std::clamp(last, state_.span.first, state_.length - 1));
  }
}

void Scrubber::mouseReleaseEvent(QMouseEvent*) {
  if (grip_ == Grip::In || grip_ == Grip::Out) emit spanReleased();
  grip_ = Grip::None;
}

}  // namespace molten
