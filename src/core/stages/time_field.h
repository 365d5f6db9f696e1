#pragma once
// Time Field: V(x, y, t + d(x, y)), d = −back + f·(back + ahead), f a linear field from start (0) to end (1).

#include "core/stages/stage.h"

namespace molten {

const StageKind& timeField();

/// One that reads a picture: black is `back` seconds before now, white `ahead` after it. `levels`: the values of the
/// picture that stand for the two; none: black and white.
Stage timeFieldOfPicture(const std::string& file, double back, double ahead, const std::optional<Reach>& levels);

}  // namespace molten
