#pragma once
// What a video is, whatever makes its pictures.

#include <cstdint>

#include "core/picture/picture.h"
#include "core/time/rational.h"

namespace molten {

/// The video that enters a stage or leaves it.
struct VideoDescription {
  Size size;                 ///< in pixels
  Rational pixelAspect = 1;  ///< width of a pixel over its height
  Rational rate = 25;        ///< pictures a second
  std::int64_t length = 1;   ///< pictures
  bool endless = false;      ///< it repeats: picture n + length is picture n, and nothing lies past its ends

  Rational seconds() const { return Rational(length) / rate; }
};

}  // namespace molten
