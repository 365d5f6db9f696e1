#include "app/playback/scrubber.h"

#include <QMouseEvent>
#include <QPainter>
#include <algorithm>
#include <cmath>

#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr double margin = 14, trackTop = 5, trackHeight = 12;

}  // namespace

Scrubber::Scrubber(QWidget* parent) : QWidget(parent) {
  setFixedHeight(36);
  setMouseTracking(true);
  setToolTip(tr("Drag to scrub (← →, with Shift ten frames) · drag the ends for in and out (I, O)"));
  setAccessibleName(tr("Scrub line"));
}

void Scrubber::setState(const ScrubberState& state) {
  state_ = state;
  update();
}

double Scrubber::xOf(std::int64_t frame) const {
  const double room = width() - 2 * margin;
  return margin + room * static_cast<double>(frame) / static_cast<double>(std::max<std::int64_t>(1, state_.length));
}

std::int64_t Scrubber::frameAt(double x) const {
  const double share = (x - margin) / (width() - 2 * margin);
  return std::clamp<std::int64_t>(static_cast<std::int64_t>(std::floor(share * static_cast<double>(state_.length))), 0,
                                  std::max<std::int64_t>(0, state_.length - 1));
}

void Scrubber::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), theme::panel);
  painter.fillRect(0, 0, width(), 1, theme::line);
  const QRectF track(margin, trackTop, width() - 2 * margin, trackHeight);
  painter.fillRect(track, theme::ink);
  if (state_.length < 1) return;
  const double from = xOf(state_.span.first), to = xOf(state_.span.last + 1);
  painter.fillRect(QRectF(QPointF(from, trackTop), QPointF(to, trackTop + trackHeight)), theme::raised);
  for (const OutsideRun& run : state_.outside)
    theme::hatch(painter,
                 QRectF(QPointF(xOf(run.first), trackTop), QPointF(xOf(run.last + 1), trackTop + trackHeight)));
  for (const std::int64_t picture : state_.marked)
    painter.fillRect(QRectF(QPointF(xOf(picture), trackTop - 3),
                            QPointF(std::max(xOf(picture) + 1.5, xOf(picture + 1)), trackTop)),
                     theme::outside);
  // Seconds below, as many as have room.
  painter.setFont(theme::numbers(10));
  const double rate = state_.rate.toDouble(), seconds = static_cast<double>(state_.length) / rate;
  double step = 0.1;
  for (const double next : {0.2, 0.5, 1.0, 2.0, 5.0, 10.0, 30.0, 60.0, 300.0, 600.0, 3600.0}) {
    if ((width() - 2 * margin) * step / seconds >= 56) break;
    step = next;
  }
  for (double s = 0; s <= seconds + 1e-9; s += step) {
    const double x = margin + (width() - 2 * margin) * s / seconds;
    painter.setPen(theme::line);
    painter.drawLine(QPointF(x, trackTop + trackHeight), QPointF(x, trackTop + trackHeight + 3));
    painter.setPen(theme::dim);
    const QString label =
        step < 1 ? QString::number(s, 'f', 1) + " s" : QString::number(static_cast<int>(std::lround(s))) + " s";
    const double at = std::clamp(x, 20.0, width() - 20.0);
    painter.drawText(QRectF(at - 28, trackTop + trackHeight + 3, 56, 14), Qt::AlignHCenter | Qt::AlignTop, label);
  }
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme::text);
  // In and out as brackets.
  for (const auto& [x, way] : {std::pair{from, 1.0}, std::pair{to, -1.0}}) {
    painter.drawRect(QRectF(x - 1, trackTop - 2, 2, trackHeight + 4));
    painter.drawRect(QRectF(way > 0 ? x - 1 : x - 4, trackTop - 2, 5, 1.5));
    painter.drawRect(QRectF(way > 0 ? x - 1 : x - 4, trackTop + trackHeight + 0.5, 5, 1.5));
  }
  const double x = (xOf(state_.frame) + xOf(state_.frame + 1)) / 2;
  painter.setBrush(theme::now);
  painter.drawRect(QRectF(x - 1, 1, 2, trackTop + trackHeight + 4));
  painter.drawPolygon(QPolygonF({{x - 5, 1}, {x + 5, 1}, {x, 7}}));
}

Scrubber::Grip Scrubber::gripAt(const QPointF& point) const {
  const auto near = [&](double x) { return std::abs(point.x() - x) <= 6; };
  const double playhead = (xOf(state_.frame) + xOf(state_.frame + 1)) / 2;
  // The playhead stands over in and out where they meet.
  if (near(playhead) && point.y() < trackTop + 3) return Grip::Playhead;
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
  const double x = event->position().x();
  if (grip_ == Grip::Playhead) emit scrubbed(frameAt(x));
  if (grip_ == Grip::In) emit spanDragged(std::min(frameAt(x), state_.span.last), state_.span.last);
  if (grip_ == Grip::Out) emit spanDragged(state_.span.first, std::max(frameAt(x - 1), state_.span.first));
}

void Scrubber::mouseReleaseEvent(QMouseEvent*) {
  if (grip_ == Grip::In || grip_ == Grip::Out) emit spanReleased();
  grip_ = Grip::None;
}

}  // namespace molten
