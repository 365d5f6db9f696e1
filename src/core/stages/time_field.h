#pragma once
// Time Field: V(x, y, t + d(x, y)), d = −back + f·(back + ahead), f a linear field from start (0) to end (1).

#include "core/stages/stage.h"

namespace molten {

const StageKind& timeField();

}  // namespace molten
