#pragma once
// Moments as positions among the pictures of a video.

#include <algorithm>
#include <cmath>
#include <compare>
#include <cstdint>

#include "core/time/rational.h"

namespace molten {

/// Positions this close to each other, in pictures, are the same one: on a picture, or on the middle between two.
inline constexpr double samePosition = 1e-6;

/// A moment of a video: a position in pictures of its rate, from the first one; `whole` + `rest` + `off`. Exact as far
/// as `rest` goes; `off` is what went through floating point, in a glide or a displacement, and 0 elsewhere.
struct Moment {
  std::int64_t whole = 0;
  Rational rest = 0;  ///< 0 <= rest < 1
  double off = 0;     ///< pictures

  static Moment at(Rational seconds, Rational rate) { return ofPictures(seconds * rate); }
  static Moment ofPictures(Rational position, double off = 0) { return {position.floor(), position.part(), off}; }
  /// Of a position in doubles: on a picture, if it is all but there.
  static Moment near(double position) {
    const double nearest = std::floor(position + 0.5);
    if (std::abs(position - nearest) < samePosition) return {static_cast<std::int64_t>(nearest)};
    const double below = std::floor(position);
    return {static_cast<std::int64_t>(below), 0, position - below};
  }
  /// What is exact of it, in pictures.
  Rational exact() const { return Rational(whole) + rest; }
  double pictures() const { return static_cast<double>(whole) + part(); }
  /// Beyond `whole`.
  double part() const { return rest.toDouble() + off; }
  /// From the beginning of the video, in seconds.
  double seconds(Rational rate) const { return pictures() / rate.toDouble(); }
  friend bool operator==(const Moment&, const Moment&) = default;
  friend std::partial_ordering operator<=>(const Moment&, const Moment&) = default;
};

/// The greatest whole number that is not above a position; one that is all but reached is.
inline std::int64_t wholeBelow(double position) {
  return static_cast<std::int64_t>(std::floor(position + samePosition));
}
/// The nearest whole number; from the middle between two the greater one.
inline std::int64_t nearestWhole(double position) {
  return static_cast<std::int64_t>(std::floor(position + 0.5 + samePosition));
}

/// Pictures that begin before an end, which is given as a position in pictures; at least one.
inline std::int64_t picturesBefore(Rational end) {
  return std::max<std::int64_t>(1, end.part() == Rational(0) ? end.floor() : end.floor() + 1);
}

}  // namespace molten
