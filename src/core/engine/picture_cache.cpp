#include "core/engine/picture_cache.h"

#include <cstdlib>

namespace molten {
Picture PictureCache::find(const Key& key) {
  const std::scoped_lock lock(mutex_);
  return pictures_.find(key);
}

bool PictureCache::holds(const Key& key) {
  const std::scoped_lock lock(mutex_);
  return pictures_.holds(key);
}

Picture PictureCache::part(const Picture& picture, const PixelBox& box) {
  const std::scoped_lock lock(mutex_);
  return partOf(picture, box, parts_);
}

void PictureCache::keep(const Key& key, Picture picture, const std::shared_ptr<MemoryBudget>& budget,
                        const Room& room) {
  // Parts lie closer than whole pictures do.
  std::size_t bytes = 0;
  for (int p = 0; p < picture.format().planes(); ++p)
    bytes +=
        static_cast<std::size_t>(std::abs(picture.plane(p).stride)) * static_cast<std::size_t>(picture.planeHeight(p));
  const std::scoped_lock lock(mutex_);
  pictures_.keepNear(key, std::move(picture), bytes, budget, room);
}

FrameTable::Held PictureCache::findTiles(std::int32_t picture, const FrameLayout& layout) {
  const std::scoped_lock lock(mutex_);
  return store_ && store_->layout() == layout ? tiles_.find(picture) : nullptr;
}

FrameTable::Held PictureCache::keepTiles(std::int32_t picture, const Picture& samples, const FrameLayout& layout,
                                         const std::shared_ptr<MemoryBudget>& budget) {
  const std::scoped_lock lock(mutex_);
  if (!store_ || !(store_->layout() == layout)) {
    tiles_.clear();
    store_ = std::make_shared<TileStore>(layout);
  }
  const auto held = std::make_shared<StoredFrame>(store_);
  held->keep(samples, {});
  tiles_.keep(picture, held, layout.frameBytes(), budget);
  return held;
}

FlowCache& PictureCache::flows(const std::shared_ptr<MemoryBudget>& budget, const std::vector<std::int32_t>& cuts) {
  const std::scoped_lock lock(mutex_);
  if (!flows_) flows_ = std::make_unique<FlowCache>(budget, cuts);
  return *flows_;
}

}  // namespace molten
