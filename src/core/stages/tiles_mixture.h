#pragma once
// Whole pictures, smaller, side by side.

#include "core/stages/strips_mixture.h"

namespace molten {

/// What each cell of a picture shows.
struct TilePicture {
  static constexpr int nothing = -1;
  std::vector<MixSource> sources;
  std::vector<int> ofCell;  ///< its source, or `nothing`
};

/// Each picture is laid into its cells as large as it fits, in their middle, every sample the mean of the area that it
/// covers; what is left of a cell is black, or empty where there is an alpha. The borders' line lies between cells.
std::unique_ptr<Mixture> tilesMixture(TilePicture what, const StripLayout& cells, const StripBorders& borders,
                                      const MixShapes& shapes);

}  // namespace molten
