#pragma once
// Framing: which part of the picture is seen, how large and how it lies.

#include "core/stages/stage.h"

namespace molten {

const StageKind& framing();

}  // namespace molten
