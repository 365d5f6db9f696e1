#include "app/chart/key_sight.h"

#include <algorithm>
#include <cmath>

namespace molten {
namespace {

constexpr double bracketWidth = 5, bracketOff = 11;
constexpr double grabbed = 9;

}  // namespace

std::vector<std::size_t> keysOfLane(const std::set<KeyName>& keys, std::size_t lane) {
  std::vector<std::size_t> which;
  for (const KeyName& key : keys)
    if (key.first == lane) which.push_back(key.second);
  return which;
}

std::vector<std::size_t> KeySight::selectedOf(std::size_t lane) const {
  return keysOfLane(selected, lane);
}

QRectF KeySight::laneRect(std::size_t lane) const {
  const double each = size.height() / static_cast<double>(std::max<std::size_t>(1, state.lanes.size()));
  return {0, each * static_cast<double>(lane), size.width(), each};
}

KeySight::Range KeySight::rangeOf(const KeyLane& lane) const {
  if (heldRange && heldRange->first == lane.parameter) return heldRange->second;
  Range range{1e300, -1e300};
  const auto take = [&](const KeyValue& least, const KeyValue& most) {
    const auto [low, high] = drivenBounds(least, most, lane.drives);
    for (std::size_t i = 0; i < lane.curves; ++i)
      range = {std::min(range.low, keyValue(keyedParameter(described(lane), low))[i]),
               std::max(range.high, keyValue(keyedParameter(described(lane), high))[i])};
  };
  if (lane.track.empty()) take(lane.value, lane.value);
  for (const Key& key : lane.track) take(key.value, key.value);
  if (range.high - range.low < 1e-9) {
    const double around = std::max(0.1, std::abs(range.high) / 2);
    range = {range.low - around, range.high + around};
  }
  return range;
}

double KeySight::yOf(std::size_t lane, const Range& range, double value) const {
  const QRectF box = laneRect(lane).adjusted(0, 8, 0, -8);
  return box.bottom() - (value - range.low) / (range.high - range.low) * box.height();
}

QPointF KeySight::keyPoint(std::size_t lane, std::size_t key) const {
  const KeyLane& of = state.lanes[lane];
  return {view.xOf(of.track[key].at.toDouble()), yOf(lane, rangeOf(of), of.track[key].value[0])};
}

QPointF KeySight::easePoint(std::size_t lane, std::size_t key, bool arriving) const {
  const KeyLane& of = state.lanes[lane];
  const Key &from = of.track[key - 1], &to = of.track[key];
  const double span = (to.at - from.at).toDouble();
  const Range range = rangeOf(of);
  // Their rests stand a little off the keys, so that they can be told from them.
  constexpr double rest = 14;
  const double way = view.xOf(to.at.toDouble()) - view.xOf(from.at.toDouble());
  const double least = std::min(rest, way / 3);
  if (arriving)
    return {view.xOf(to.at.toDouble() - to.ease.arrive * span) - (1 - to.ease.arrive) * least,
            yOf(lane, range, to.value[0])};
  return {view.xOf(from.at.toDouble() + to.ease.leave * span) + (1 - to.ease.leave) * least,
          yOf(lane, range, from.value[0])};
}

Rational KeySight::pictureAt(double x) const {
  const auto picture = static_cast<std::int64_t>(std::llround(std::max(0.0, view.timeAt(x)) * state.rate.toDouble()));
  return Rational(picture) / state.rate;
}

std::optional<KeySight::Brackets> KeySight::brackets() const {
  if (selected.size() < 2) return std::nullopt;
  std::optional<Brackets> found;
  QRectF rows;
  for (const auto& [lane, key] : selected) {
    if (lane >= state.lanes.size() || key >= state.lanes[lane].track.size()) return std::nullopt;
    const Rational at = state.lanes[lane].track[key].at;
    if (!found) found = Brackets{at, at, {}, {}};
    found->first = std::min(found->first, at), found->last = std::max(found->last, at);
    rows = rows.united(laneRect(lane));
  }
  if (found->first == found->last) return std::nullopt;
  const auto beside = [&](Rational at, double off) {
    return QRectF(view.xOf(at.toDouble()) + off - bracketWidth / 2, rows.top() + 4, bracketWidth, rows.height() - 8);
  };
  found->left = beside(found->first, -bracketOff), found->right = beside(found->last, bracketOff);
  return found;
}

KeyHold KeySight::holdAt(const QPointF& at) const {
  if (const auto both = brackets()) {
    if (both->left.adjusted(-3, 0, 3, 0).contains(at)) return {KeyGrip::First, {}};
    if (both->right.adjusted(-3, 0, 3, 0).contains(at)) return {KeyGrip::Last, {}};
  }
  KeyHold nearest;
  double least = grabbed;
  const auto consider = [&](const QPointF& point, KeyGrip grip, KeyName key) {
    const double away = std::hypot(point.x() - at.x(), point.y() - at.y());
    if (away < least) least = away, nearest = {grip, key};
  };
  for (const KeyName& key : selected) {
    if (key.second == 0) continue;
    consider(easePoint(key.first, key.second, false), KeyGrip::Leave, key);
    consider(easePoint(key.first, key.second, true), KeyGrip::Arrive, key);
  }
  for (std::size_t lane = 0; lane < state.lanes.size(); ++lane)
    for (std::size_t key = 0; key < state.lanes[lane].track.size(); ++key) {
      consider(keyPoint(lane, key), KeyGrip::Key, {lane, key});
      const Key& of = state.lanes[lane].track[key];
      for (std::size_t i = 1; i < state.lanes[lane].curves; ++i)
        consider({view.xOf(of.at.toDouble()), yOf(lane, rangeOf(state.lanes[lane]), of.value[i])}, KeyGrip::Key,
                 {lane, key});
    }
  return nearest;
}

QString KeySight::valueText(const KeyLane& lane, const KeyValue& value) const {
  return QString::fromStdString(valueLabel(described(lane), keyedParameter(described(lane), value)));
}

bool KeyLane::known() const {
  return std::none_of(drives.begin(), drives.end(), [&](const Drive& drive) {
    const auto* const follow = std::get_if<Follow>(&drive);
    return follow && follow->what != Follow::What::Speed && (!followed || followed->isBeingMeasured(*follow));
  });
}

KeyValue KeyLane::at(const ParameterDescription& described, double seconds) const {
  if (drives.empty()) return keyedAt(seconds);
  return keyValue(keyedParameter(
      described, driven(keyedAt(seconds), drives, seconds, saltOf(described.id), followed.get())));
}

}  // namespace molten
