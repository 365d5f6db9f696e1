#pragma once
// Frame Order: a written list of frames with holds, in place of a curve. See core/time/frame_order.h.

#include "core/stages/stage.h"

namespace molten {

const StageKind& frameOrder();

}  // namespace molten
