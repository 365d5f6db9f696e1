#pragma once
// Moments as positions among the pictures of a video.

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

/// A position that went through floating point: `whole` + `rest` pictures; may lie outside the video.
struct Position {
  std::int64_t whole = 0;
  double rest = 0;
  double pictures() const { return static_cast<double>(whole) + rest; }
};

}  // namespace molten
