#pragma once
// Frames held for one use.

#include <memory>
#include <unordered_map>

#include "core/engine/flow_field.h"
#include "core/engine/tile_store.h"

namespace molten {

/// As long as this lives, so do its frames.
class FrameTable {
 public:
  using Held = std::shared_ptr<const StoredFrame>;
  void put(std::int32_t frame, Held held) { frames_.insert_or_assign(frame, std::move(held)); }
  /// The frame, or nullptr if it is not in this table.
  const StoredFrame* find(std::int32_t frame) const {
    const auto at = frames_.find(frame);
    return at == frames_.end() ? nullptr : at->second.get();
  }
  /// The flow from a frame to the one after it, or nullptr.
  const FlowField* flow(std::int32_t first) const {
    const auto at = flows_.find(first);
    return at == flows_.end() ? nullptr : at->second.get();
  }
  void putFlow(std::int32_t first, std::shared_ptr<const FlowField> flow) { flows_[first] = std::move(flow); }
  bool has(std::int32_t frame) const { return frames_.contains(frame); }
  std::size_t size() const { return frames_.size(); }
  auto begin() const { return frames_.begin(); }
  auto end() const { return frames_.end(); }

 private:
  std::unordered_map<std::int32_t, Held> frames_;
  std::unordered_map<std::int32_t, std::shared_ptr<const FlowField>> flows_;
};

}  // namespace molten
