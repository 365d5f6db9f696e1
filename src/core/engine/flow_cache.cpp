#include "core/engine/flow_cache.h"

#include <algorithm>

#include "core/parallel.h"

namespace molten {
namespace {

/// The part of the budget that flows may take before the oldest go.
constexpr std::size_t budgetParts = 8;

}  // namespace

void FlowCache::keep(Key key, std::shared_ptr<const FlowField> flow) {
  const std::size_t bytes = flow->bytes();
  while (!order_.empty() && bytes * (entries_.size() + 1) > budget_->limit() / budgetParts) {
    entries_.erase(order_.front());
    order_.pop_front();
  }
  const auto order = order_.insert(order_.end(), key);
  entries_.emplace(key, Entry{std::move(flow), {budget_, bytes}, order});
}

bool FlowCache::complete(FrameTable& table, int scale, std::stop_token stop) {
  std::vector<std::int32_t> missing;
  for (const auto& [frame, held] : table) {
    if (!table.has(frame + 1)) continue;
    if (std::binary_search(cuts_.begin(), cuts_.end(), frame + 1)) {
      table.putFlow(frame, FlowField::cut());
      continue;
    }
    if (const auto known = entries_.find({frame, scale}); known != entries_.end()) {
      table.putFlow(frame, known->second.flow);
      order_.splice(order_.end(), order_, known->second.order);
    } else {
      missing.push_back(frame);
    }
  }
  if (missing.empty()) return true;
  std::sort(missing.begin(), missing.end());
  // Small versions are needed twice, by the flows on either side.
  std::erase_if(lumas_, [&](const auto& luma) { return luma.first.scale != scale || !table.has(luma.first.first); });
  std::vector<std::int32_t> wanted;
  for (const std::int32_t first : missing)
    for (const std::int32_t frame : {first, first + 1})
      if (!lumas_.contains({frame, scale}) && (wanted.empty() || wanted.back() != frame)) wanted.push_back(frame);
  std::vector<SmallLuma> made(wanted.size());
  parallelRows(static_cast<int>(wanted.size()), 1, [&](int from, int to) {
    for (int i = from; i < to; ++i)
      made[static_cast<std::size_t>(i)] = SmallLuma(table.find(wanted[static_cast<std::size_t>(i)])->picture());
  });
  for (std::size_t i = 0; i < wanted.size(); ++i) lumas_[{wanted[i], scale}] = std::move(made[i]);
  for (const std::int32_t first : missing) {
    if (stop.stop_requested()) return false;
    auto flow = finder_.find(lumas_[{first, scale}], lumas_[{first + 1, scale}], scale);
    table.putFlow(first, flow);
    keep({first, scale}, std::move(flow));
  }
  return true;
}

}  // namespace molten
