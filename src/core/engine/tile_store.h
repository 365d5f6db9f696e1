#pragma once
// Memory for stored frames, tile by tile.

#include <cstddef>
#include <memory>
#include <mutex>
#include <span>
#include <vector>

#include "core/picture/frame_layout.h"

namespace molten {

/// Tiles of one layout, cut from slabs that ask for huge pages: fields read from many frames at once, and would pay for
/// the look-up of a page at nearly every block. A tile is always taken from the lowest slab that has room, so that
/// slabs run empty and go back to the system. Thread-safe.
class TileStore {
 public:
  explicit TileStore(const FrameLayout& layout);
  ~TileStore();
  TileStore(const TileStore&) = delete;
  TileStore& operator=(const TileStore&) = delete;

  const FrameLayout& layout() const { return layout_; }
  /// Fills `tiles` where they are nullptr and `wanted` (of the same size, or empty: all) says so. Samples undefined.
  void take(std::span<std::uint8_t*> tiles, const std::vector<bool>& wanted);
  /// Gives back those that are not nullptr, and makes them nullptr.
  void giveBack(std::span<std::uint8_t*> tiles);
  void giveBack(std::uint8_t*& tile) { giveBack({&tile, 1}); }

 private:
  struct Slab {
    std::uint8_t* memory = nullptr;  ///< nullptr: given back to the system
    std::uint8_t* mapped = nullptr;
    std::vector<std::uint16_t> free;
  };
  void open(Slab& slab);
  void close(Slab& slab);

  FrameLayout layout_;
  std::size_t slabBytes_, tilesPerSlab_;
  std::mutex mutex_;
  std::vector<Slab> slabs_;
  std::size_t firstWithRoom_ = 0, spare_ = 0;
};

/// One frame, or those of its tiles that are needed. Belongs to one store.
class StoredFrame {
 public:
  explicit StoredFrame(std::shared_ptr<TileStore> store)
      : store_(std::move(store)), tiles_(static_cast<std::size_t>(store_->layout().tiles())) {}
  ~StoredFrame() { store_->giveBack(tiles_); }
  StoredFrame(const StoredFrame&) = delete;
  StoredFrame& operator=(const StoredFrame&) = delete;

  const FrameLayout& layout() const { return store_->layout(); }
  /// One for each of the layout's tiles; nullptr: this part is not held.
  const std::uint8_t* const* tiles() const { return tiles_.data(); }
  const std::uint8_t* tile(int t) const { return tiles_[static_cast<std::size_t>(t)]; }
  /// Takes the wanted tiles (all, if the list is empty) that are not held yet from the frame's picture. Returns how
  /// many.
  int keep(const Picture& picture, const std::vector<bool>& wanted);
  void drop(int t) { store_->giveBack(tiles_[static_cast<std::size_t>(t)]); }
  std::size_t bytes() const;

  /// The picture in rows of its own. Requires all tiles.
  Picture picture() const;

 private:
  std::shared_ptr<TileStore> store_;
  std::vector<std::uint8_t*> tiles_;
};

}  // namespace molten
