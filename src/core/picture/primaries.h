#pragma once
// Colours of one set of primaries as another has them.

#include <array>
#include <optional>

#include "core/picture/picture_format.h"
#include "core/picture/working_format.h"

namespace molten {

/// Rows of what red, green and blue become, in linear light.
using ColourMatrix = std::array<std::array<float, 3>, 3>;

/// None where both mean the same primaries, or one does not say. By way of XYZ (ITU-T H.273, table 2; SMPTE RP 177); another
/// white is adapted by Bradford's matrix.
std::optional<ColourMatrix> betweenPrimaries(AVColorPrimaries from, AVColorPrimaries to);
/// A tile in linear light; what the other primaries cannot show is as near as none of a colour.
void apply(const ColourMatrix& matrix, WorkingTile& tile);

}  // namespace molten
