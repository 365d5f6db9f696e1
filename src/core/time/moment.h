#pragma once
// Moments as positions among the pictures of a video.

#include <algorithm>
#include <cmath>
#include <cstdint>

#include "core/time/rational.h"

namespace molten {

/// A moment of a video: a position in pictures of its rate, from the first one. Exact.
struct Moment {
  std::int64_t whole = 0;
  Rational rest = 0;  ///< 0 <= rest < 1
  static Moment at(Rational seconds, Rational rate) {
    const Rational pictures = seconds * rate;
    return {pictures.floor(), pictures.part()};
  }
  /// From the beginning of the video.
  Rational seconds(Rational rate) const { return (Rational(whole) + rest) / rate; }
  friend bool operator==(const Moment&, const Moment&) = default;
};

/// A position that went through floating point as a moment: on a picture, if it is within 1e-6 of it.
inline Moment momentNear(double position) {
  const double nearest = std::floor(position + 0.5);
  if (std::abs(position - nearest) < 1e-6) return {static_cast<std::int64_t>(nearest), 0};
  const double below = std::floor(position);
  const auto part = static_cast<std::int64_t>(std::floor((position - below) * 65536 + 0.5));
  const auto whole = static_cast<std::int64_t>(below);
  return part == 65536 ? Moment{whole + 1, 0} : Moment{whole, Rational(part, 65536)};
}

/// Pictures that begin before an end, which is given as a position in pictures; at least one.
inline std::int64_t picturesBefore(Rational end) {
  return std::max<std::int64_t>(1, end.part() == Rational(0) ? end.floor() : end.floor() + 1);
}

/// A position that went through floating point: `whole` + `rest` pictures; may lie outside the video.
struct Position {
  std::int64_t whole = 0;
  double rest = 0;
  double pictures() const { return static_cast<double>(whole) + rest; }
};

}  // namespace molten
