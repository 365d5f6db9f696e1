#pragma once
// How the picture moves between two neighbouring frames.

#include <cstdint>
#include <memory>
#include <vector>

#include "core/engine/flow_kernels.h"
#include "core/picture/picture.h"

namespace molten {

struct Vector {
  float x = 0, y = 0;
};

/// Motion from a frame to the one after it and back, on a coarse grid. Immutable once found.
class FlowField {
 public:
  /// No motion is followed further than this, in pixels of the full-size picture.
  static constexpr int farthest = 128;

  /// True if another scene begins: then nothing lies between the two frames.
  bool isCut() const { return cut_; }
  /// One of that kind.
  static std::shared_ptr<const FlowField> cut();
  /// Width and height of a cell, in pixels of the frames that the flow was found in.
  float cellSize() const { return cell_; }
  /// Motion at a place (in pixels, the first pixel's centre at 0.5), in pixels: of what stands there in the first
  /// frame, and of what stands there in the second (backwards).
  Vector forward(float x, float y) const { return at(forward_, x, y); }
  Vector backward(float x, float y) const { return at(backward_, x, y); }
  /// The vectors, as they are kept.
  FlowCells cells() const { return {forward_.data(), backward_.data(), across_, down_, cell_}; }
  std::size_t bytes() const { return (forward_.capacity() + backward_.capacity()) * sizeof(std::int16_t); }

 private:
  friend class FlowFinder;
  Vector at(const std::vector<std::int16_t>& vectors, float x, float y) const;

  int across_ = 0, down_ = 0;
  float cell_ = 1;
  bool cut_ = false;
  std::vector<std::int16_t> forward_, backward_;  ///< x, y in 1/16 pixel, row after row
};

/// A small gray version of a frame, in which motion is looked for.
class SmallLuma {
 public:
  SmallLuma() = default;
  /// From a frame's first plane (green of RGB).
  explicit SmallLuma(const Picture& picture);
  std::size_t bytes() const { return samples_.capacity(); }

 private:
  friend class FlowFinder;
  int width_ = 0, height_ = 0, times_ = 1;  ///< times_: how much smaller each way
  Size full_;
  std::vector<std::uint8_t> samples_;
};

/// Finds flows with OpenCV's dense inverse search (Kroeger et al., Fast Optical Flow using Dense Inverse Search, 2016),
/// forwards and backwards. For one thread at a time; the result depends on the two frames alone.
class FlowFinder {
 public:
  FlowFinder();
  ~FlowFinder();
  /// `scale`: of the frames (scale s: s times smaller each way than the footage).
  std::shared_ptr<const FlowField> find(const SmallLuma& first, const SmallLuma& second, int scale);

 private:
  struct Tools;
  std::unique_ptr<Tools> tools_;
};

}  // namespace molten
