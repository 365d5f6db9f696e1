#include "core/picture/picture_part.h"

#include <algorithm>
#include <cstring>

namespace molten {

PixelBox partAtScale(const PixelBox& full, const PictureShape& shape, int scale) {
  const int across = 1 << shape.format.shiftX, down = 1 << shape.format.shiftY;
  const auto below = [&](int at, int step, int size) { return std::clamp(at / scale, 0, size - 1) / step * step; };
  const auto above = [&](int at, int step, int size) {
    return std::clamp(((at + scale - 1) / scale + step - 1) / step * step, 1, size);
  };
  PixelBox box{below(full.left, across, shape.size.width), below(full.top, down, shape.size.height),
               above(full.right, across, shape.size.width), above(full.bottom, down, shape.size.height)};
  box.right = std::max(box.right, box.left + 1), box.bottom = std::max(box.bottom, box.top + 1);
  return box;
}

Picture partOf(const Picture& picture, const PixelBox& box) {
  PictureShape shape = picture.shape();
  shape.size = {box.right - box.left, box.bottom - box.top};
  Picture part(shape);
  const auto bytes = static_cast<std::size_t>(shape.format.bytesPerSample());
  for (int p = 0; p < shape.format.planes(); ++p) {
    const bool chroma = shape.format.isChromaPlane(p);
    const int left = chroma ? box.left >> shape.format.shiftX : box.left;
    const int top = chroma ? box.top >> shape.format.shiftY : box.top;
    for (int y = 0; y < part.planeHeight(p); ++y)
      std::memcpy(part.writableRow(p, y), picture.row(p, top + y) + static_cast<std::size_t>(left) * bytes,
                  part.rowBytes(p));
  }
  return part;
}

}  // namespace molten
