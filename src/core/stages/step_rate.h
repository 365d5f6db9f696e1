#pragma once
// Step Rate: V(x, y, floor((t − phase)·rate)/rate + phase): fewer pictures a second, each held.

#include "core/stages/stage.h"

namespace molten {

const StageKind& stepRate();

}  // namespace molten
