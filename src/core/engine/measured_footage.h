#pragma once
// What is looked at in the background.

#include <memory>

#include "core/media/footage.h"
#include "core/memory_budget.h"

namespace molten {

/// Footage as a chain takes it. A part of the budget is taken while it is looked at.
struct MeasuredFootage {
  std::shared_ptr<const Footage> footage;
  InBetween between = InBetween::Whole;
  std::shared_ptr<MemoryBudget> budget;
  friend bool operator==(const MeasuredFootage&, const MeasuredFootage&) = default;
};

}  // namespace molten
