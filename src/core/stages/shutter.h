#pragma once

#include "core/stages/stage.h"

namespace molten {

/// Shutter: the average over the time that a shutter is open. At rate r (that of the video, or the shutter's own),
/// angle α and phase φ in degrees, N samples: the mean of V(t + (φ + α·(i + ½)/N)/(360·r)), i = 0…N − 1.
const StageKind& shutter();

}  // namespace molten
