#pragma once
// Pictures put together of slits, or left empty where the slit has not been.

#include "core/stages/mixing.h"
#include "core/stages/slit_sweep.h"

namespace molten {

/// What each block of a picture shows.
struct SlitPicture {
  static constexpr int nothing = -1;
  std::vector<MixSource> sources;
  std::vector<int> ofBlock;  ///< its source, or `nothing`
  int live = nothing;        ///< the source that is a whole picture, shown at its own place
};

/// Where a slit that stands still is in the footage: along its way, in pixels.
struct StandingSlit {
  StripLayout footage;  ///< the same direction, over the footage
  double at = 0;        ///< its beginning
  /// The place of the footage that a place of the picture shows; `u`: how far along the picture's way that is,
  /// `within`: how far within its block.
  Place sourceOf(double x, double y, double u, double within, bool sameSize, const Size& size) const;
};

/// Of the trail and the live picture: how much of the live one there is in each block, 0…1.
std::unique_ptr<Mixture> fadingTrail(std::vector<MixSource> both, const StripLayout& blocks, std::vector<float> liveOfBlock,
                                     const MixShapes& shapes);

/// `standing`: none where blocks are read from their own place.
std::unique_ptr<Mixture> slitMixture(SlitPicture what, const StripLayout& blocks,
                                     const std::optional<StandingSlit>& standing, const MixShapes& shapes);

}  // namespace molten
