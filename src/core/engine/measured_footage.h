#pragma once
// What is looked at in the background.

#include <memory>

#include "core/engine/sources.h"

namespace molten {

/// Footage as a chain takes it. What is shown comes first where both read the same source.
struct MeasuredFootage {
  std::shared_ptr<Sources> sources;
  InBetween between = InBetween::Whole;
  FollowedSounds sounds = {};  ///< that values of the chain go by
  const std::shared_ptr<const Footage>& footage() const { return sources->footage(); }
  friend bool operator==(const MeasuredFootage&, const MeasuredFootage&) = default;
};

}  // namespace molten
