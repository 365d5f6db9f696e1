#pragma once
// The arithmetic of the working format, in the widest instructions that the processor has.

#include <cstddef>
#include <cstdint>
#include <span>

#include "core/picture/blend_mode.h"

namespace molten {

/// Y (0…1), Cb and Cr (−0.5…0.5) to R G B and back, in place, for a matrix with Kr = red and Kb = blue:
///   R = Y + 2(1 − Kr)·Cr,  B = Y + 2(1 − Kb)·Cb,  Y = Kr·R + Kg·G + Kb·B.
void toRgb(float* y, float* cb, float* cr, std::size_t count, double red, double blue);
void fromRgb(float* r, float* g, float* b, std::size_t count, double red, double blue);

void multiply(float* values, std::size_t count, float by);
/// values[i] to the power, below nothing as above it (|v|^power with v's sign).
void raise(float* values, std::size_t count, float power);
/// The sRGB curve (IEC 61966-2-1) to linear light and back, below nothing as above it.
void srgbToLinear(float* values, std::size_t count);
void linearToSrgb(float* values, std::size_t count);

/// Roots with the values' signs, in 1/rootOne, up to three times one; and back.
inline constexpr float rootOne = 10922;
void signedRoots(const float* values, std::size_t count, std::int16_t* out);
void signedSquares(const std::int16_t* roots, std::size_t count, float* out);
/// Opaque rows of such roots laid to what has been combined of those before them, one after another: to the bit what
/// combineRow() makes of their squares. Under is laid as a Sum of what still shows. `ahead`: how far on in memory lies what
/// will be asked for next, which is fetched meanwhile.
void combineRoots(BlendMode blend, std::span<const std::int16_t* const> rows, std::ptrdiff_t ahead,
                  std::span<const float> weights, std::size_t count, float* mixed);

}  // namespace molten
