#pragma once
// Pictures that were made, to be used again.

#include <cmath>
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
    bool light = false;     ///< in the form that KeptLight makes
    friend auto operator<=>(const Key&, const Key&) = default;
  };

  /// The picture, or an empty one.
  Picture find(const Key& key);
  /// A part of a picture, kept close to other parts.
  Picture part(const Picture& picture, const PixelBox& box);
  bool holds(const Key& key);
  /// Which pictures stay: `most`, in so many bytes; those nearest to a moment.
  struct Room {
    double centre = 0;
    std::size_t most = 2, bytes = 0;
  };
  /// Whoever holds decoded frames makes room.
  void keep(const Key& key, Picture picture, const std::shared_ptr<MemoryBudget>& budget, const Room& room);

  /// Likewise pictures cut into tiles of a layout; those in another one are forgotten. Those used least recently go where
  /// they take more than a third of the budget.
  FrameTable::Held findTiles(std::int32_t picture, const FrameLayout& layout);
  FrameTable::Held keepTiles(std::int32_t picture, const Picture& samples, const FrameLayout& layout,
                             const std::shared_ptr<MemoryBudget>& budget);
  /// Of these.
  /// `cuts`: as a FlowCache has them.
  FlowCache& flows(const std::shared_ptr<MemoryBudget>& budget, const std::vector<std::int32_t>& cuts);

 private:
  static double placeOf(const Key& key) { return key.moment.pictures(); }

  template <class Name, class Value>
  class Recent {
   public:
    Value find(const Name& name) {
      const auto at = entries_.find(name);
      if (at == entries_.end()) return {};
      order_.splice(order_.end(), order_, at->second.order);
      return at->second.value;
    }
    void keep(const Name& name, Value value, std::size_t bytes, const std::shared_ptr<MemoryBudget>& budget) {
      if (entries_.contains(name)) return;
      while (!order_.empty() && bytes_ + bytes > budget->limit() / 3) drop(entries_.find(order_.front()));
      add(name, std::move(value), bytes, budget);
    }
    /// One that itself is farther from the centre than all others is not kept.
    void keepNear(const Name& name, Value value, std::size_t bytes, const std::shared_ptr<MemoryBudget>& budget,
                  const Room& room) {
      if (entries_.contains(name)) return;
      const auto far = [&](const Name& one) { return std::abs(placeOf(one) - room.centre); };
      while (!order_.empty() && (bytes_ + bytes > room.bytes || order_.size() >= room.most)) {
        const auto first = entries_.begin(), last = std::prev(entries_.end());
        const auto farthest = far(first->first) > far(last->first) ? first : last;
        if (far(farthest->first) < far(name)) return;
        drop(farthest);
      }
      add(name, std::move(value), bytes, budget);
    }
    bool holds(const Name& name) const { return entries_.contains(name); }
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
    void add(const Name& name, Value value, std::size_t bytes, const std::shared_ptr<MemoryBudget>& budget) {
      const auto order = order_.insert(order_.end(), name);
      entries_.emplace(name, Entry{std::move(value), bytes, {budget, bytes}, order});
      bytes_ += bytes;
    }
    void drop(typename std::map<Name, Entry>::iterator at) {
      bytes_ -= at->second.bytes;
      order_.erase(at->second.order);
      entries_.erase(at);
    }
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
