#pragma once
// Rows of 8-bit video as red, green and blue in whole numbers of 1/4096, and the brightest or darkest of some: within a fifth
// of a sample of what floats give, in a small part of their time. The same to the bit on every processor.

#include <cstddef>
#include <cstdint>

namespace molten {

inline constexpr int shortOne = 4096;  ///< white
/// Samples past the end of a row that kernels may read and write.
inline constexpr int shortSpare = 64;

/// From samples of video to those numbers: in 1/65536, for luma less its black times 128, and for chroma times 256.
struct ShortMatrix {
  std::int16_t black = 16;
  std::int16_t luma = 0, redOfCr = 0, greenOfCr = 0, greenOfCb = 0, blueOfCb = 0;
};

/// out[i] = 16·(near[i]·(4 − share) + far[i]·share)/4 less its middle, 128. `share`: 0…4.
void blendShort(const std::uint8_t* near, const std::uint8_t* far, int share, int count, std::int16_t* out);
/// Straight between sites, as spreadAcross(): on the first of two pixels, or between them. sites[−1] and sites[count / 2] count.
void spreadShortFirst(const std::int16_t* sites, int count, std::int16_t* out);
void spreadShortBetween(const std::int16_t* sites, int count, std::int16_t* out);

/// mixed[c][i] = the larger (or the smaller) of itself and weight·v, or 1 − weight·(1 − v) for the smaller. `weight` in
/// 1/32768; 32768: v as it is.
void winShort(const std::uint8_t* luma, const std::int16_t* cb, const std::int16_t* cr, const ShortMatrix& matrix, int weight,
              bool brightest, int count, std::int16_t* const mixed[3]);
/// As floats in which white is 1.
void floatsOfShort(const std::int16_t* from, int count, float* out);

}  // namespace molten
