#pragma once
// Loop: makes a clip endless. One period of it is a loop; what follows never runs out of pictures.

#include "core/stages/stage.h"

namespace molten {

/// With L the pictures of the round, from its first to its last one, and t the moment within a period:
///   there and back    t up to the last picture, then back: a period of 2L − 2. Ends twice: each turn lasts a picture
///                     more. With an ease of e pictures the speed comes up from 0 and goes down to 0 in e pictures on
///                     either side of each turn, after C(u) = u³ − u⁴/2: a period of 2(L − 1) + 2e
///   round             t, a period of L
///   dissolve          t, a period of L − d; while t < d the end goes on under the beginning, with the weight
///                     (d − t)/(d + 1)
const StageKind& loop();

}  // namespace molten
