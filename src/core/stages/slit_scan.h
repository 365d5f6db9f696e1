#pragma once

#include "core/stages/stage.h"

namespace molten {

/// Slit Scan: a slit crosses the frame in the time of a sweep, T, again and again. The frame is cut into blocks of the
/// slit's width w along its way, E pixels long; the slit passes block b of sweep n at (n + b·w/E)·T (there and back: in
/// odd sweeps the blocks are counted from the other end). Each block keeps the moment at which the slit has passed it:
/// read from its own place, or from where the slit stands in the footage.
const StageKind& slitScan();

}  // namespace molten
