#pragma once
// Pictures that were made, to be used again.

#include <list>
#include <map>
#include <memory>
#include <mutex>

#include "core/engine/flow_cache.h"
#include "core/engine/tile_store.h"
#include "core/picture/picture_part.h"
#include "core/time/moment.h"

namespace molten {

/// Of one plan. Thread-safe.
class PictureCache {
 public:
  struct Key {
    Moment moment;
    int left = 0, top = 0;  ///< of the part that is kept
    friend auto operator<=>(const Key&, const Key&) = default;
  };

  /// The picture, or an empty one.
  Picture find(const Key& key);
  /// A part of a picture, kept close to other parts.
  Picture part(const Picture& picture, const PixelBox& box);
  /// Those used least recently go where they take more than a third of the budget, or where `few` are worth keeping; whoever
  /// holds decoded frames makes room.
  void keep(const Key& key, Picture picture, const std::shared_ptr<MemoryBudget>& budget, bool few);

  /// Likewise pictures cut into tiles of a layout; those in another one are forgotten.
  FrameTable::Held findTiles(std::int32_t picture, const FrameLayout& layout);
  FrameTable::Held keepTiles(std::int32_t picture, const Picture& samples, const FrameLayout& layout,
                             const std::shared_ptr<MemoryBudget>& budget);
  /// Of these.
  FlowCache& flows(const std::shared_ptr<MemoryBudget>& budget);

 private:
  template <class Name, class Value>
  class Recent {
   public:
    Value find(const Name& name) {
      const auto at = entries_.find(name);
      if (at == entries_.end()) return {};
      order_.splice(order_.end(), order_, at->second.order);
      return at->second.value;
    }
    void keep(const Name& name, Value value, std::size_t bytes, const std::shared_ptr<MemoryBudget>& budget,
              std::size_t most) {
      if (entries_.contains(name)) return;
      while (!order_.empty() && (bytes_ + bytes > budget->limit() / 3 || order_.size() >= most)) {
        const auto oldest = entries_.find(order_.front());
        bytes_ -= oldest->second.bytes;
        entries_.erase(oldest);
        order_.pop_front();
      }
      const auto order = order_.insert(order_.end(), name);
      entries_.emplace(name, Entry{std::move(value), bytes, {budget, bytes}, order});
      bytes_ += bytes;
    }
    void clear() {
      entries_.clear();
      order_.clear();
      bytes_ = 0;
    }

   private:
    struct Entry {
      Value value;
      std::size_t bytes;
      MemoryBudget::Lease lease;
      typename std::list<Name>::iterator order;
    };
    std::map<Name, Entry> entries_;
    std::list<Name> order_;  ///< least recently used first
    std::size_t bytes_ = 0;
  };

  std::mutex mutex_;
  Recent<Key, Picture> pictures_;
  PartMemory parts_;
  std::shared_ptr<TileStore> store_;
  Recent<std::int32_t, FrameTable::Held> tiles_;
  std::unique_ptr<FlowCache> flows_;
};

}  // namespace molten
