#include "core/picture/frame_layout.h"

#include <algorithm>
#include <cstring>

namespace molten {
namespace {

constexpr int tileWidth = 128, tileHeight = 64;  // of blocks; a chroma tile still is whole blocks at 4:1:0
constexpr int bandHeight = 16;
constexpr std::size_t line = 64;

std::size_t roundedUp(std::size_t bytes) {
  return (bytes + line - 1) / line * line;
}

/// Eight samples a row: of a size known to the compiler, so that they are moved in one go.
template <std::size_t bytes, bool toMemory>
void moveBlock(std::uint8_t* block, std::uint8_t* rows, std::ptrdiff_t stride, int height) {
  for (int y = 0; y < height; ++y, block += bytes, rows += stride)
    toMemory ? std::memcpy(block, rows, bytes) : std::memcpy(rows, block, bytes);
}

}  // namespace

FrameLayout::FrameLayout(const PictureShape& shape, Layout kind) : shape_(shape), kind_(kind) {
  const PictureFormat& format = shape.format;
  const auto sampleBytes = static_cast<std::size_t>(format.bytesPerSample());
  const int width = kind == Layout::Rows ? shape.size.width : tileWidth;
  const int height = kind == Layout::Rows ? bandHeight : tileHeight;
  across_ = (shape.size.width + width - 1) / width;
  down_ = (shape.size.height + height - 1) / height;
  for (int p = 0; p < format.planes(); ++p) {
    TilePlane& plane = planes_[static_cast<std::size_t>(p)];
    plane.width = format.planeWidth(p, width);
    plane.height = format.planeHeight(p, height);
    plane.offset = bytes_;
    const auto rowSamples = static_cast<std::size_t>(plane.width);
    plane.rowBytes = kind == Layout::Rows ? roundedUp(rowSamples * sampleBytes) : rowSamples * sampleBytes * blockSide;
    plane.stride = plane.rowBytes / sampleBytes;
    bytes_ += partBytes(p);
  }
}

template <bool toMemory>
void FrameLayout::move(const Picture& picture, int tile, int p, std::uint8_t* part) const {
  const auto sampleBytes = static_cast<std::size_t>(shape_.format.bytesPerSample());
  const TilePlane& plane = planes_[static_cast<std::size_t>(p)];
  const int left = tile % across_ * plane.width, top = tile / across_ * plane.height;
  const int width = std::min(plane.width, picture.planeWidth(p) - left);
  const int height = std::min(plane.height, picture.planeHeight(p) - top);
  if (width <= 0 || height <= 0) return;
  const std::ptrdiff_t stride = picture.plane(p).stride;
  // Written to only by fromPart(), whose picture is the caller's own.
  std::uint8_t* const corner = picture.plane(p).data + top * stride + left * static_cast<std::ptrdiff_t>(sampleBytes);
  if (kind_ == Layout::Rows) {
    const std::size_t bytes = static_cast<std::size_t>(width) * sampleBytes;
    for (int y = 0; y < height; ++y) {
      std::uint8_t *const at = part + static_cast<std::size_t>(y) * plane.rowBytes, *const row = corner + y * stride;
      toMemory ? std::memcpy(at, row, bytes) : std::memcpy(row, at, bytes);
    }
    return;
  }
  const std::size_t blockBytes = sampleBytes * blockSamples, blockRow = sampleBytes * blockSide;
  for (int y = 0; y < height; y += blockSide) {
    std::uint8_t* block = part + static_cast<std::size_t>(y / blockSide) * plane.rowBytes;
    std::uint8_t* at = corner + y * stride;
    const int rows = std::min(blockSide, height - y);
    for (int x = 0; x < width; x += blockSide, block += blockBytes, at += blockRow) {
      if (x + blockSide <= width) {
        if (sampleBytes == 1)
          moveBlock<blockSide, toMemory>(block, at, stride, rows);
        else if (sampleBytes == 2)
          moveBlock<2 * blockSide, toMemory>(block, at, stride, rows);
        else
          moveBlock<4 * blockSide, toMemory>(block, at, stride, rows);
        continue;
      }
      const std::size_t bytes = static_cast<std::size_t>(width - x) * sampleBytes;
      for (int r = 0; r < rows; ++r) {
        std::uint8_t* const in = block + static_cast<std::size_t>(r) * blockRow;
        toMemory ? std::memcpy(in, at + r * stride, bytes) : std::memcpy(at + r * stride, in, bytes);
      }
    }
  }
}

void FrameLayout::toPart(const Picture& from, int tile, int plane, std::uint8_t* part) const {
  move<true>(from, tile, plane, part);
}

void FrameLayout::fromPart(const std::uint8_t* part, int tile, int plane, Picture& to) const {
  move<false>(to, tile, plane, const_cast<std::uint8_t*>(part));
}

std::size_t FrameLayout::partBytes(int plane) const {
  const TilePlane& part = planes_[static_cast<std::size_t>(plane)];
  return part.rowBytes * static_cast<std::size_t>(kind_ == Layout::Rows ? part.height : part.height / blockSide);
}

int FrameLayout::partSamples(int plane) const {
  return static_cast<int>(partBytes(plane)) / shape_.format.bytesPerSample();
}

}  // namespace molten
