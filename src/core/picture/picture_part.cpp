#include "core/picture/picture_part.h"

#include <algorithm>
#include <array>
#include <cstring>
#include <vector>

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

std::shared_ptr<std::uint8_t> PartMemory::take(std::size_t bytes) {
  bytes = (bytes + 63) / 64 * 64;
  if (!block_ || used_ + bytes > block_->size()) {
    block_ = std::make_shared<std::vector<std::uint8_t>>(std::max(bytes, blockBytes));
    used_ = 0;
  }
  std::shared_ptr<std::uint8_t> piece(block_, block_->data() + used_);
  used_ += bytes;
  return piece;
}

Picture partOf(const Picture& picture, const PixelBox& box, PartMemory& memory) {
  PictureShape shape = picture.shape();
  shape.size = {box.right - box.left, box.bottom - box.top};
  const auto bytes = static_cast<std::size_t>(shape.format.bytesPerSample());
  // Rows close together: a slit is narrow.
  std::array<Picture::Plane, 4> planes{};
  std::array<std::size_t, 4> begins{};
  std::size_t all = 0;
  for (int p = 0; p < shape.format.planes(); ++p) {
    const auto row = static_cast<std::size_t>(shape.format.planeWidth(p, shape.size.width)) * bytes;
    begins[static_cast<std::size_t>(p)] = all;
    planes[static_cast<std::size_t>(p)].stride = static_cast<std::ptrdiff_t>(row);
    all += row * static_cast<std::size_t>(shape.format.planeHeight(p, shape.size.height));
  }
  const auto piece = memory.take(all);
  for (std::size_t p = 0; p < 4; ++p)
    if (planes[p].stride != 0) planes[p].data = piece.get() + begins[p];
  Picture part(shape, planes, piece);
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
