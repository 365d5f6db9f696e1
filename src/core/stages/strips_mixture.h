#pragma once
// The borders of strips: neighbours that go into each other, and lines between them.

#include "core/stages/mixing.h"
#include "core/stages/strip_layout.h"

namespace molten {

struct StripBorders {
  double feather = 0;  ///< in pixels
  double line = 0;     ///< width in pixels
  Colour colour;
};

/// Of one picture made of the strips themselves and, if there is a feather, one of their neighbours: `sources` in this
/// order.
std::unique_ptr<Mixture> stripsMixture(std::vector<MixSource> sources, const StripLayout& layout,
                                       const StripBorders& borders, const MixShapes& shapes);

}  // namespace molten
