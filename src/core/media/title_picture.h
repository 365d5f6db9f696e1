#pragma once
// Titles as pictures.

#include <vector>

#include "core/picture/picture.h"
#include "core/picture/title_look.h"

namespace molten {

/// The size of a title's picture, in pixels: its lines as they are laid, with a little room for outline and shade. At
/// least 1 × 1; no side longer than longestTitle. Thread-safe, as all here.
Size titleSize(const TitleLook& look);
/// Where its letters' lines lie in that: what guides show.
struct TitleBox {
  double left = 0, top = 0, right = 0, bottom = 0;
};
TitleBox titleBox(const TitleLook& look);
/// Drawn so many times smaller: R G B with alpha, 8 bits, of that size, sRGB. Letters of every script are shaped; what no
/// typeface has is a box with its number.
Picture titlePicture(const TitleLook& look, int scale);
inline constexpr int longestTitle = 8192;
/// The typefaces that there are, ours among them, by name.
std::vector<std::string> typefaces();
/// Ours: titles have it unless told otherwise.
inline constexpr const char* ownTypeface = "B612 Bench";

}  // namespace molten
