#pragma once

#include "core/stages/stage.h"

namespace molten {

/// Shutter: the average over the time that a shutter is open. At rate r (that of the video, or the shutter's own), open
/// for a part o of a picture's time, N moments: the mean of V(t + (opens + o·(i + ½)/N)/r), i = 0…N − 1, where opens is
/// −o, −o/2 or 0 for what falls before, around or after, plus the offset.
const StageKind& shutter();

}  // namespace molten
