#pragma once
// Rectangles cut out of pictures.

#include "core/picture/working_format.h"

namespace molten {

/// A box in pixels of the full size, in those of a picture `scale` times smaller: at least all that it covers, cut along
/// the borders of chroma samples, within the picture. Requires that it touches the picture.
PixelBox partAtScale(const PixelBox& full, const PictureShape& shape, int scale);

/// A copy of such a box.
Picture partOf(const Picture& picture, const PixelBox& box);

}  // namespace molten
