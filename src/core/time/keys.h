#pragma once
// Keys: values of a number or a place at moments, and the way from each to the next.

#include <array>
#include <cstddef>
#include <optional>
#include <vector>

#include "core/time/rational.h"

namespace molten {

/// How a value goes from the key before to this one.
struct Ease {
  enum class Way { Linear, Hold, Curve };
  Way way = Way::Linear;
  /// Of a curve: how long it lingers at the key before, and at this one; parts of the time between the two, 0…1.
  double leave = 0, arrive = 0;
  friend bool operator==(const Ease&, const Ease&) = default;
};
/// What `ease` means: as slow at the one end as at the other.
inline constexpr Ease softEase{Ease::Way::Curve, 0.5, 0.5};

/// What can move: a number, x and y, or red, green and blue; what is not needed of it is 0.
using KeyValue = std::array<double, 3>;

struct Key {
  Rational at;       ///< in seconds of the stage's own output
  KeyValue value{};
  Ease ease;
  friend bool operator==(const Key&, const Key&) = default;
};

/// Rising in time, no two at one moment. Empty: no keys.
using KeyTrack = std::vector<Key>;

/// The value at a moment in seconds. Before the first key it is that key's, after the last one that one's. On the way
/// from key a to key b, with u the part of the time between them, the value is a + (b − a)·s(u):
///   Linear  s = u
///   Hold    s = 0
///   Curve   the cubic Bézier curve (0, 0) (leave, 0) (1 − arrive, 1) (1, 1), whose x is u and whose y is s.
/// Requires a track that is not empty.
KeyValue keyedValue(const KeyTrack& track, double seconds);

/// The part of the way that a part u of the time has brought (0…1).
double eased(const Ease& ease, double u);

/// The key at just this moment.
std::optional<std::size_t> keyAt(const KeyTrack& track, Rational at);
/// Sets the value at a moment: of the key there, or of a new one, which goes on like the one after it.
KeyTrack withKey(KeyTrack track, Rational at, KeyValue value);
KeyTrack withoutKeys(const KeyTrack& track, const std::vector<std::size_t>& which);
/// Some keys later by `by` seconds (earlier, if negative), not before 0; a key that is met goes.
KeyTrack movedKeys(const KeyTrack& track, const std::vector<std::size_t>& which, Rational by);
/// Some keys nearer to, or further from, the moment `around`. Requires factor > 0.
KeyTrack scaledKeys(const KeyTrack& track, const std::vector<std::size_t>& which, Rational around, Rational factor);
/// Keys laid into a track with the first of them at a moment; keys between the first and the last of them go.
KeyTrack withPasted(const KeyTrack& track, const KeyTrack& pasted, Rational at);

}  // namespace molten
