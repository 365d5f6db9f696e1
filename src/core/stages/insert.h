#pragma once
// A second source, laid over the picture at its point of the chain.

#include "core/stages/stage.h"

namespace molten {

const StageKind& insert();

}  // namespace molten
