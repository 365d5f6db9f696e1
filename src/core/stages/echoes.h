#pragma once

#include "core/stages/stage.h"

namespace molten {

/// Echoes: several moments behind, ahead or both, each of its own strength, combined. With n repeats, spacing s and
/// copy speed v, in seconds, the picture at t is made of V(t) with the weight `present` and of V(t ∓ k·(s + (1 −
/// v)·t)), k = 1…n, with the weights nearest·(farthest/nearest)^((k − 1)/(n − 1)); `copies fps` r steps these moments
/// to floor(moment·r)/r. Nearer ones come first; layers from the earliest on. Where moments are missing: a repeat whose
/// moment lies p seconds within the clip has, where it fades in, min(1, p/(s + (1 − v)·t)) of its weight.
const StageKind& echoes();

}  // namespace molten
