#pragma once
// A piece of a stored frame's plane, cut out to be read at any place.

#include <algorithm>
#include <cstring>
#include <vector>

#include "core/engine/flow_kernels.h"
#include "core/engine/tile_store.h"

namespace molten {

/// A rectangle of a plane, in samples; right and bottom are outside.
struct PlaneBox {
  int left = 0, top = 0, right = 0, bottom = 0;
  void add(int x, int y) {
    if (right == left) {
      *this = {x, y, x + 1, y + 1};
      return;
    }
    left = std::min(left, x), top = std::min(top, y), right = std::max(right, x + 1), bottom = std::max(bottom, y + 1);
  }
  int width() const { return right - left; }
  int height() const { return bottom - top; }
};

/// Samples of a frame around a box, row after row; what lies outside the plane is its edge. One that is used again
/// keeps its memory.
template <class Sample>
class PlanePatch {
 public:
  /// Takes the box and `margin` samples around it.
  void cut(const StoredFrame& frame, int plane, const PlaneBox& box, int margin) {
    const FrameLayout& layout = frame.layout();
    const PictureShape& shape = layout.shape();
    const int width = shape.format.planeWidth(plane, shape.size.width);
    const int height = shape.format.planeHeight(plane, shape.size.height);
    left_ = box.left - margin, top_ = box.top - margin;
    stride_ = box.width() + 2 * margin;
    const int rows = box.height() + 2 * margin;
    // Kernels look at many at once.
    samples_.resize(static_cast<std::size_t>(stride_) * static_cast<std::size_t>(rows) + 64 / sizeof(Sample));
    const TilePlane& part = layout.plane(plane);
    const int from = std::clamp(left_, 0, width - 1), to = std::clamp(left_ + stride_, from + 1, width);
    for (int r = 0; r < rows; ++r) {
      const int y = std::clamp(top_ + r, 0, height - 1);
      Sample* const row = samples_.data() + static_cast<std::ptrdiff_t>(r) * stride_;
      for (int x = from; x < to;) {
        const int tile = y / part.height * layout.tilesAcross() + x / part.width, inX = x % part.width,
                  inY = y % part.height;
        const std::uint8_t* const at = frame.tile(tile) + part.offset;
        int length;
        const Sample* source;
        if (layout.kind() == Layout::Rows) {
          source = reinterpret_cast<const Sample*>(at + static_cast<std::size_t>(inY) * part.rowBytes) + inX;
          length = part.width - inX;
        } else {
          constexpr int side = FrameLayout::blockSide;
          source = reinterpret_cast<const Sample*>(at + static_cast<std::size_t>(inY / side) * part.rowBytes) +
                   inX / side * FrameLayout::blockSamples + inY % side * side + inX % side;
          length = side - inX % side;
        }
        length = std::min(length, to - x);
        std::memcpy(row + (x - left_), source, static_cast<std::size_t>(length) * sizeof(Sample));
        x += length;
      }
      std::fill(row, row + (from - left_), row[from - left_]);
      std::fill(row + (to - left_), row + stride_, row[to - 1 - left_]);
    }
  }
  /// Of the plane, within what was cut out.
  Sample exact(int x, int y) const { return samples_[static_cast<std::size_t>((y - top_) * stride_ + x - left_)]; }
  PatchView<Sample> view() const { return {samples_.data(), stride_, left_, top_}; }

 private:
  int left_ = 0, top_ = 0, stride_ = 0;
  std::vector<Sample> samples_;
};

}  // namespace molten
