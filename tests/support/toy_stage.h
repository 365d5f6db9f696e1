#pragma once
// A stage that is not the program's: what a new one takes.

#include "core/stages/stage.h"

namespace molten::test {

/// Rows below the pivot read ahead, those above it behind: two numbers, an action that picks the pivot, and what is
/// measured of its field.
const StageKind& lean();
/// How often this thread has walked a chain with it.
int walksOfLean();

/// As long as it lives, Lean is offered after the program's kinds. Beside lean() this line of the registry's list is
/// all that a stage needs.
class WithLean {
 public:
  WithLean();
  ~WithLean() { offerStageKinds({}); }

 private:
  std::vector<const StageKind*> offered_;
};

}  // namespace molten::test
