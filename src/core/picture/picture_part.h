#pragma once
// Rectangles cut out of pictures.

#include <cstdint>
#include <memory>
#include <vector>

#include "core/picture/working_format.h"

namespace molten {

/// A box in pixels of the full size, in those of a picture `scale` times smaller: at least all that it covers, cut
/// along the borders of chroma samples, within the picture. Requires that it touches the picture.
PixelBox partAtScale(const PixelBox& full, const PictureShape& shape, int scale);

/// Memory for many small pictures, in blocks that go when all of theirs have gone. Small pieces that were mixed with
/// whole pictures on the heap would leave holes there that no picture fits. For one thread at a time.
class PartMemory {
 public:
  std::shared_ptr<std::uint8_t> take(std::size_t bytes);

 private:
  static constexpr std::size_t blockBytes = std::size_t(1) << 20;
  std::shared_ptr<std::vector<std::uint8_t>> block_;
  std::size_t used_ = 0;
};

/// A copy of such a box.
Picture partOf(const Picture& picture, const PixelBox& box, PartMemory& memory);

}  // namespace molten
