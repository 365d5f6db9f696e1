#pragma once
// The arithmetic of resampling, in the widest instructions that the processor has; with the same results in all of them.

#include <cstddef>

namespace molten {

/// Pixels are four floats: R G B and alpha. Each place is made of six neighbours, pixel k by the weights 4k … 4k + 3,
/// which are the same four times; the first, third and fifth are summed up, and the others, then both.
inline constexpr int sixTaps = 6, sixWeights = 4 * sixTaps;

/// A row of places: place x of pixels firsts[x] … firsts[x] + 5 of a row, by 24 weights each.
void acrossSix(const float* row, const int* firsts, const float* weights, int count, float* out);

/// A row of floats out of six rows that lie `apart` floats from each other; a count of whole fours of pixels.
void downSix(const float* from, std::ptrdiff_t apart, const float* weights, int count, float* out);

/// For each of `phases` + 1 parts of the way from a pixel to the next: six weights and two more that do not count. Between
/// two of them weights go straight.
struct PhaseTable {
  const float* weights;
  int phases;
};
inline constexpr int narrowWeights = 8;

/// Places that lie anywhere, each of six times six pixels: place i at (x + i·stepX, y + i·stepY), in pixels from the middle
/// of the patch's first one, a row of which has `width` pixels.
void anywhereSix(const float* patch, std::ptrdiff_t width, double x, double y, double stepX, double stepY, int count,
                 const PhaseTable& table, float* out);

}  // namespace molten
