#pragma once
// Flows of neighbouring frames, found once and kept.

#include <list>
#include <map>
#include <stop_token>

#include "core/engine/frame_table.h"
#include "core/memory_budget.h"

namespace molten {

/// For pictures that are looked at: frames are held whole, and their flows are found when they are asked for.
class FlowCache {
 public:
  /// `cuts`: frames, rising, before which another scene begins, whatever they look like.
  explicit FlowCache(std::shared_ptr<MemoryBudget> budget, std::vector<std::int32_t> cuts = {})
      : budget_(std::move(budget)), cuts_(std::move(cuts)) {}

  /// Puts the flow of every two neighbours among a table's frames into it. False if stopped. On the threads of the
  /// caller's ThreadLimit.
  bool complete(FrameTable& table, int scale, std::stop_token stop);

 private:
  struct Key {
    std::int32_t first;
    int scale;
    friend auto operator<=>(const Key&, const Key&) = default;
  };
  struct Entry {
    std::shared_ptr<const FlowField> flow;
    MemoryBudget::Lease lease;
    std::list<Key>::iterator order;
  };
  void keep(Key key, std::shared_ptr<const FlowField> flow);

  std::shared_ptr<MemoryBudget> budget_;
  std::vector<std::int32_t> cuts_;
  std::map<Key, Entry> entries_;
  std::list<Key> order_;            ///< least recently used first
  std::map<Key, SmallLuma> lumas_;  ///< of the frames asked for last
  FlowFinder finder_;
};

}  // namespace molten
