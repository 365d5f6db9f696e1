#pragma once
// Not a stage that is offered: what a mix reads, with in-betweens and with ends of its own.

#include "core/stages/stage.h"

namespace molten {

/// Pictures pass as they are; moments between two of them are made as `inBetween` says, those past the ends as `past`
/// says.
Stage through(InBetween inBetween, PastTheEnds past);

}  // namespace molten
