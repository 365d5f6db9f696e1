#pragma once
// Pictures half the size, quickly: for looking at, and for finding motion in.

#include "core/picture/picture.h"

namespace molten {

/// The shape of a picture `scale` (a power of two) times smaller each way, sizes rounded up.
PictureShape shapeAtScale(const PictureShape& shape, int scale);

/// Each sample is the mean of the two by two that it stands for, rounded to the nearest, halves up; an odd last row or
/// column is counted twice.
Picture halved(const Picture& picture);

}  // namespace molten
