#pragma once
// Mixing pictures with an alpha of their own: what is clear weighs nothing.

#include <span>
#include <vector>

#include "core/picture/picture.h"

namespace molten {

/// out = Σ wₖ·aₖ·cₖ / Σ wₖ·aₖ in every colour, Σ wₖ·aₖ in alpha, pixel by pixel in the working format (display light);
/// where all is clear, Σ wₖ·cₖ / Σ wₖ. All pictures of one shape, with alpha. `weights`: 0…1, for each picture one a
/// pixel. Where one picture alone has weight in the pixels around, its samples come out to the bit. On several threads.
void mixWithAlpha(std::span<const Picture> pictures, std::span<const std::vector<float>> weights, Picture& out);

}  // namespace molten
