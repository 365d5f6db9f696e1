#include "core/engine/gathering.h"

#include <algorithm>

namespace molten {

Gathering::Gathering(std::shared_ptr<const GatherProgram> program, Meaning meaning, std::optional<std::int32_t> only)
    : program_(std::move(program)), meaning_(std::move(meaning)), only_(only) {
  for (const std::int32_t number : program_->frames())
    if (const auto frame = meaning_(number); frame != noFrame) frames_.push_back(frame);
  std::sort(frames_.begin(), frames_.end());
  frames_.erase(std::unique(frames_.begin(), frames_.end()), frames_.end());
}

FrameLookup Gathering::lookUp(const FrameTable& table) const {
  FrameLookup lookup;
  lookup.least = program_->frames().front();
  lookup.frames.resize(static_cast<std::size_t>(program_->frames().back() - lookup.least + 1));
  for (const std::int32_t number : program_->frames()) {
    const auto frame = meaning_(number);
    if (frame == noFrame) continue;
    const StoredFrame* const held = table.find(frame);
    lookup.frames[static_cast<std::size_t>(number - lookup.least)] = held ? held->tiles() : FrameLookup::later;
  }
  return lookup;
}

}  // namespace molten
