#include "core/time/keys.h"

#include <algorithm>

namespace molten {
namespace {

bool among(const std::vector<std::size_t>& which, std::size_t i) {
  return std::find(which.begin(), which.end(), i) != which.end();
}

/// Sorted; of keys at one moment the one that was moved stays.
KeyTrack inOrder(const KeyTrack& still, const KeyTrack& moved) {
  KeyTrack track = moved;
  std::stable_sort(track.begin(), track.end(), [](const Key& a, const Key& b) { return a.at < b.at; });
  track.erase(std::unique(track.begin(), track.end(), [](const Key& a, const Key& b) { return a.at == b.at; }),
              track.end());
  for (const Key& key : still)
    if (!keyAt(track, key.at))
      track.insert(std::upper_bound(track.begin(), track.end(), key.at,
                                    [](Rational at, const Key& other) { return at < other.at; }),
                   key);
  return track;
}

template <class Move>
KeyTrack withMoved(const KeyTrack& track, const std::vector<std::size_t>& which, Move move) {
  KeyTrack still, moved;
  for (std::size_t i = 0; i < track.size(); ++i) {
    if (!among(which, i)) {
      still.push_back(track[i]);
      continue;
    }
    moved.push_back(track[i]);
    moved.back().at = std::max(Rational(0), move(track[i].at));
  }
  return inOrder(still, moved);
}

}  // namespace

double eased(const Ease& ease, double u) {
  if (ease.way == Ease::Way::Hold) return u < 1 ? 0 : 1;
  if (ease.way == Ease::Way::Linear || u <= 0 || u >= 1) return std::clamp(u, 0.0, 1.0);
  // x(p) = 3(1−p)²p·leave + 3(1−p)p²·(1 − arrive) + p³ rises with p: halved 52 times it is found to the last bit.
  double low = 0, high = 1;
  for (int i = 0; i < 52; ++i) {
    const double p = (low + high) / 2, q = 1 - p;
    const double x = 3 * q * q * p * ease.leave + 3 * q * p * p * (1 - ease.arrive) + p * p * p;
    (x < u ? low : high) = p;
  }
  const double p = (low + high) / 2;
  return p * p * (3 - 2 * p);
}

KeyValue keyedValue(const KeyTrack& track, double seconds) {
  const auto after = std::upper_bound(track.begin(), track.end(), seconds,
                                      [](double at, const Key& key) { return at < key.at.toDouble(); });
  if (after == track.begin()) return track.front().value;
  if (after == track.end()) return track.back().value;
  const Key &a = *(after - 1), &b = *after;
  const double from = a.at.toDouble(), s = eased(b.ease, (seconds - from) / (b.at.toDouble() - from));
  KeyValue value;
  for (std::size_t i = 0; i < value.size(); ++i) value[i] = a.value[i] + (b.value[i] - a.value[i]) * s;
  return value;
}

std::optional<std::size_t> keyAt(const KeyTrack& track, Rational at) {
  for (std::size_t i = 0; i < track.size(); ++i)
    if (track[i].at == at) return i;
  return std::nullopt;
}

KeyTrack withKey(KeyTrack track, Rational at, KeyValue value) {
  if (const auto here = keyAt(track, at)) {
    track[*here].value = value;
    return track;
  }
  const auto after =
      std::upper_bound(track.begin(), track.end(), at, [](Rational moment, const Key& key) { return moment < key.at; });
  const Ease ease = after != track.end() ? after->ease : track.empty() ? Ease{} : track.back().ease;
  track.insert(after, {at, value, ease});
  return track;
}

KeyTrack withoutKeys(const KeyTrack& track, const std::vector<std::size_t>& which) {
  KeyTrack left;
  for (std::size_t i = 0; i < track.size(); ++i)
    if (!among(which, i)) left.push_back(track[i]);
  return left;
}

KeyTrack movedKeys(const KeyTrack& track, const std::vector<std::size_t>& which, Rational by) {
  // All of them by as much as the first of them can go.
  for (const std::size_t i : which) by = std::max(by, Rational(0) - track[i].at);
  return withMoved(track, which, [&](Rational at) { return at + by; });
}

KeyTrack scaledKeys(const KeyTrack& track, const std::vector<std::size_t>& which, Rational around, Rational factor) {
  return withMoved(track, which, [&](Rational at) { return around + (at - around) * factor; });
}

KeyTrack withPasted(const KeyTrack& track, const KeyTrack& pasted, Rational at) {
  if (pasted.empty()) return track;
  KeyTrack moved = pasted;
  for (Key& key : moved) key.at = key.at - pasted.front().at + at;
  KeyTrack still;
  for (const Key& key : track)
    if (key.at < moved.front().at || key.at > moved.back().at) still.push_back(key);
  return inOrder(still, moved);
}

}  // namespace molten
