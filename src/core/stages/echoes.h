#pragma once

#include "core/stages/stage.h"

namespace molten {

/// Echoes: several moments behind, ahead or both, each weaker than the last, combined. With n repeats, spacing s and
/// drift g, in seconds, the picture at t is made of V(t) with weight `lead` and of V(t ∓ k·(s + g·t)), k = 1…n, with
/// weight falloff^k; `own rate` r steps these moments to floor(moment·r)/r. Nearer ones come first.
/// Until it is full: a repeat whose moment lies p seconds within the clip has, where it fades in, min(1, p/(s + g·t))
/// of its weight.
const StageKind& echoes();

}  // namespace molten
