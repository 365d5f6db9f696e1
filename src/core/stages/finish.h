#pragma once

#include "core/stages/stage.h"

namespace molten {

/// Finish: light and colour of the picture, in this order. v: a value as it is shown, L: the light that it stands for.
///   light       L · 2^exposure · w, w = 2^(±warmth/2) for red and blue and 1 for green, over the luma of all three
///   points      (v − black) / (white − black)
///   contrast    middle + (v − middle) · contrast
///   curve       of each colour; beyond 0…1 it goes on by as much
///   colour      Cb and Cr (of the shot's matrix) turned by hue and times saturation; luma stays
///   fades       v · the part of the fade that has passed, from and to black
const StageKind& finish();

}  // namespace molten
