#pragma once
// How the samples of a stored frame lie in memory.

#include <array>
#include <cstddef>

#include "core/picture/picture.h"

namespace molten {

/// Rows: a tile is a band of whole rows, row after row; best where neighbouring pixels read the same frame over long
/// stretches of a row. Blocks: a tile is 128 × 64 pixels in blocks of 8 × 8 samples, so that a block of 8-bit samples
/// is one line of the processor's cache: a field that slants, curls or is ragged touches far fewer lines of each frame.
enum class Layout { Rows, Blocks };

/// A plane's part of a tile.
struct TilePlane {
  int width = 0, height = 0;  ///< in samples; the last tiles hang over the plane's edge
  std::size_t offset = 0;     ///< in bytes, from the tile's beginning
  std::size_t rowBytes = 0;   ///< Rows: between two rows. Blocks: between two rows of blocks
  std::size_t stride = 0;     ///< the same in samples
};

/// Frames are cut into equal tiles, each with its part of every plane, so that a part that will not be read any more
/// can go while the rest stays.
class FrameLayout {
 public:
  static constexpr int blockSide = 8;  ///< samples
  static constexpr int blockSamples = blockSide * blockSide;

  FrameLayout(const PictureShape& shape, Layout kind);

  Layout kind() const { return kind_; }
  const PictureShape& shape() const { return shape_; }
  int tilesAcross() const { return across_; }
  int tilesDown() const { return down_; }
  int tiles() const { return across_ * down_; }
  /// Bytes of one tile, a multiple of 64.
  std::size_t tileBytes() const { return bytes_; }
  /// Bytes of a whole frame.
  std::size_t frameBytes() const { return bytes_ * static_cast<std::size_t>(tiles()); }
  const TilePlane& plane(int p) const { return planes_[static_cast<std::size_t>(p)]; }

  /// Bytes of a plane's part of a tile.
  std::size_t partBytes(int plane) const;
  /// Samples of a plane's part of a tile, those between rows included.
  int partSamples(int plane) const;
  /// Which of them the sample at x, y of the part is.
  std::size_t sampleInPart(int plane, int x, int y) const {
    const std::size_t stride = this->plane(plane).stride;
    if (kind_ == Layout::Rows) return static_cast<std::size_t>(y) * stride + static_cast<std::size_t>(x);
    return static_cast<std::size_t>(y / blockSide) * stride +
           static_cast<std::size_t>(x / blockSide * blockSamples + y % blockSide * blockSide + x % blockSide);
  }

  /// A plane's part of a tile out of a picture and into one: as much of it as lies in the picture. `part` is where the
  /// plane's part begins, TilePlane::offset included.
  void toPart(const Picture& from, int tile, int plane, std::uint8_t* part) const;
  void fromPart(const std::uint8_t* part, int tile, int plane, Picture& to) const;

  friend bool operator==(const FrameLayout& a, const FrameLayout& b) {
    return a.kind_ == b.kind_ && a.shape_ == b.shape_;
  }

 private:
  template <bool toMemory>
  void move(const Picture& picture, int tile, int plane, std::uint8_t* part) const;

  PictureShape shape_;
  Layout kind_;
  int across_ = 1, down_ = 1;
  std::size_t bytes_ = 0;
  std::array<TilePlane, 4> planes_{};
};

}  // namespace molten
