#pragma once
// What a video is, whatever makes its pictures.

#include <cstdint>
#include <memory>

#include "core/picture/picture.h"
#include "core/time/course.h"
#include "core/time/frame_clock.h"
#include "core/time/rational.h"

namespace molten {

/// The video that enters a stage or leaves it.
struct VideoDescription {
  Size size;                 ///< in pixels
  Rational pixelAspect = 1;  ///< width of a pixel over its height
  Rational rate = 25;        ///< pictures a second
  std::int64_t length = 1;   ///< pictures that begin before its end
  bool endless = false;      ///< it repeats: picture n + length is picture n, and nothing lies past its ends
  /// How long it lasts, in pictures, where that is no whole number of them; 0: `length`.
  Rational exactLength = 0;
  InBetween between = InBetween::Whole;  ///< what is seen between two frames of the footage under it
  std::shared_ptr<const Course> course = {};  ///< how its time runs; nullptr: as it was shot

  /// Another length, in pictures.
  void setLength(Rational pictures) {
    length = picturesBefore(pictures);
    exactLength = pictures.den() == 1 ? Rational(0) : pictures;
  }
  Rational pictures() const { return exactLength > Rational(0) ? exactLength : Rational(length); }
  Rational seconds() const { return pictures() / rate; }
};

}  // namespace molten
