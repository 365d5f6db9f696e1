#include "app/sound/sound_sight.h"

#include <cmath>

namespace molten {
namespace {

/// Pixels: how near a hand takes hold of something, and is drawn to a moment.
constexpr double reach = 6, drawnFrom = 7;
constexpr double inset = 3, buttonSide = 15;
/// Decibels at the top and the bottom of a lane.
constexpr double loudest = 12, softest = -36;

}  // namespace

QRectF SoundSight::laneRect(std::size_t lane) const {
  const double each = size.height() / static_cast<double>(std::max<std::size_t>(1, count()));
  return {0, each * static_cast<double>(lane), size.width(), each};
}

QRectF SoundSight::bodyRect(std::size_t lane) const {
  const QRectF box = laneRect(lane);
  const double left = view.xOf(state.lanes[lane].begin), right = view.xOf(state.lanes[lane].end);
  return {left, box.top() + inset, std::max(0.0, right - left), box.height() - 2 * inset};
}

QRectF SoundSight::buttonRect(std::size_t lane, SoundGrip button) const {
  const QRectF box = laneRect(lane);
  const double left = view.area.left() - 8 - (button == SoundGrip::Mute ? 2 : 1) * (buttonSide + 3);
  const double top = box.height() < 34 ? box.top() + (box.height() - buttonSide) / 2 : box.bottom() - buttonSide - 4;
  return {left, top, buttonSide, buttonSide};
}

QPointF SoundSight::fadePoint(std::size_t lane, bool out) const {
  const SoundLane& sound = state.lanes[lane];
  const double at = out ? sound.end - sound.laid.fadeOut : sound.begin + sound.laid.fadeIn;
  return {view.xOf(at), bodyRect(lane).top()};
}

double SoundSight::gainY(std::size_t lane) const {
  const QRectF body = bodyRect(lane);
  const double share = (std::clamp(state.lanes[lane].gain, softest, loudest) - softest) / (loudest - softest);
  return body.bottom() - share * body.height();
}

double SoundSight::gainAt(std::size_t lane, double y) const {
  const QRectF body = bodyRect(lane);
  const double decibels = softest + (body.bottom() - y) / body.height() * (loudest - softest);
  return std::round(std::clamp(decibels, softest, loudest) * 2) / 2;
}

SoundHold SoundSight::holdAt(const QPointF& at) const {
  for (std::size_t lane = 0; lane < count(); ++lane) {
    if (!laneRect(lane).contains(at)) continue;
    for (const SoundGrip button : {SoundGrip::Mute, SoundGrip::Alone})
      if (buttonRect(lane, button).contains(at)) return {button, lane};
    if (at.x() < view.area.left()) return {SoundGrip::None, lane};
    const QRectF body = bodyRect(lane);
    if (isLaid(lane)) {
      for (const bool out : {false, true}) {
        const QPointF corner = fadePoint(lane, out);
        if (std::abs(corner.x() - at.x()) <= reach && at.y() <= corner.y() + 2 * reach)
          return {out ? SoundGrip::FadeOut : SoundGrip::FadeIn, lane};
      }
      if (std::abs(at.x() - body.left()) <= reach) return {SoundGrip::Start, lane};
      if (std::abs(at.x() - body.right()) <= reach) return {SoundGrip::End, lane};
    }
    if (!body.contains(at)) return {SoundGrip::None, lane};
    if (!state.lanes[lane].gainMoves && std::abs(at.y() - gainY(lane)) <= reach / 2) return {SoundGrip::Gain, lane};
    return {isLaid(lane) ? SoundGrip::Body : SoundGrip::None, lane};
  }
  return {};
}

double SoundSight::snapped(double seconds, std::size_t lane) const {
  double nearest = seconds, off = drawnFrom;
  const auto look = [&](double moment) {
    const double by = std::abs(view.xOf(moment) - view.xOf(seconds));
    if (by < off) off = by, nearest = moment;
  };
  look(0), look(state.length), look(state.playhead);
  for (const double mark : state.marks) look(mark);
  for (std::size_t other = 0; other < count(); ++other) {
    if (other == lane || (isSelected(lane) && isSelected(other))) continue;
    const SoundLane& sound = state.lanes[other];
    for (const double onset : sound.onsets) look(onset);
    if (!sound.which) continue;
    look(sound.begin), look(sound.end);
  }
  return nearest;
}

}  // namespace molten
