#pragma once
// Chroma spread from its sites to pixels and gathered again, along one direction.

#include <cstddef>

namespace molten {

/// Where along a direction a chroma sample lies: each pixel has its own; it lies on the first, between, or on the second
/// of two pixels; or it stands for four.
enum class ChromaSite { Own, First, Between, Second, Group };

/// `shift`: 0, 1, 2 for a sample a pixel, two, four. `first`, `second`: on which of two pixels it lies, if on one.
ChromaSite chromaSite(int shift, bool first, bool second);

/// The row of sites beside its own that a row of pixels lies between, and its share.
struct OtherRow {
  int step = 0;  ///< −1, 1, or 0: none
  float share = 0;
};
OtherRow otherRow(ChromaSite down, int y);

/// out[i] = near[i]·(1 − share) + far[i]·share.
void blendRows(const float* near, const float* far, float share, int count, float* out);
/// Straight between the sites: out[0] is the first pixel of sites[0], which has neighbours on both sides; `count` is even
/// for two pixels a site and a multiple of four for four.
void spreadAcross(ChromaSite across, const float* sites, int count, float* out);

/// What spread it is undone, for `count` sites: by what stands in the two pixels' rows (or four) from `rows` on and those
/// around, `apart` floats from each other; and along a row, whose first pixel `row` is.
void gatherDown(ChromaSite down, const float* rows, std::ptrdiff_t apart, int count, float* out);
void gatherAcross(ChromaSite across, const float* row, int count, float* out);

}  // namespace molten
