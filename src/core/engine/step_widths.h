#pragma once
// How smooth a field is: the steps from one frame to the next.

#include "core/stages/stage.h"

namespace molten {

/// How wide the steps from one frame to the next are, in pixels, where a field makes them.
struct StepWidths {
  double widest = 0;  ///< 0: there are none
  double usual = 0;   ///< the middle one of those that were measured
  double jump = 0;    ///< the most frames by which two pixels beside each other differ; up to 1: they follow each other
  double torn = 0;    ///< how many neighbours differ by more than that, 0…1
};
/// Measured on a grid over the picture: across and down to the next borders, w = 1 / √(1/across² + 1/down²). What lies
/// at the picture's edge is no step: it has one border only. What is level does not count: it is so on purpose.
StepWidths stepWidths(const Displacement& displacement, Size picture);

}  // namespace molten
