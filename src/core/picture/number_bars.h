#pragma once
// A number inside a picture, which can be read from any of its columns, and from any of its rows.

#include <cstdint>
#include <optional>

#include "core/picture/picture.h"

namespace molten {

/// Twenty-four bars lie across the picture at its lower edge, the lowest bit lowest, white for 1 and black for 0; above them
/// twenty-four stand at its left edge, the lowest bit at the very left. Requires YUV or gray of 8 bits.
inline constexpr int numberBits = 24;
/// Of one bar, in pixels: even, so that chroma is its own.
int numberBarWidth(Size size);
void drawNumber(Picture& picture, std::uint32_t number);
/// The number that a column shows at the lower edge, and a row at the left one; none: a bar is neither black nor white.
std::optional<std::uint32_t> numberInColumn(const Picture& picture, int x);
/// Requires a row above the lower bars.
std::optional<std::uint32_t> numberInRow(const Picture& picture, int y);

}  // namespace molten
