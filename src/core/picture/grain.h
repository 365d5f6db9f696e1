#pragma once
// Grain: noise that is the same wherever a picture is made, and however much of it.

#include <cstdint>

#include "core/picture/working_format.h"

namespace molten {

/// What a grain of one picture is.
struct Grain {
  double amount = 0;        ///< standard deviation at middle gray, of values as they are shown
  double size = 1.5;        ///< from grain to grain, in pixels of the full size; 1 or more
  bool coloured = false;    ///< of its own in red, green and blue
  std::uint32_t seed = 1;
  std::int64_t picture = 0;  ///< another one for each number
};

/// Adds amount·2·√(v(1 − v))·n to each colour v, n a noise of variance 1: draws d of three dice each, from −√3 … √3 in all
/// but corners, stand in a lattice of the grain's size; between them n = Σw·d / √Σw², w going from one to the next by
/// 3u² − 2u³ each way. Draws are hashes of (seed, picture, colour, place). In a picture so many times smaller that several
/// grains fall on a pixel the amount is as much less as their mean is.
void addGrain(WorkingTile& tile, const Grain& grain, Size full, Size size);

}  // namespace molten
