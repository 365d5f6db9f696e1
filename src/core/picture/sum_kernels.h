#pragma once
// Rows of samples summed up, and rows of pixels combined. Results are the same to the bit on every processor.

#include <cstdint>
#include <span>

#include "core/picture/accumulator.h"

namespace molten {

/// The sum of a row's sample values.
double sumOfRow(const PictureFormat& format, const std::uint8_t* row, int count);

/// sums[i] += Σ weights[k]·(rows[k][i] − black), from the first to the last.
void addWeighted(const PictureFormat& format, std::span<const std::uint8_t* const> rows, std::span<const float> weights,
                 float black, int count, float* sums);
/// out[i] = gain·sums[i] + black, rounded and kept within what a sample can hold.
void putSums(const PictureFormat& format, const float* sums, float gain, float black, int count, std::uint8_t* out);

/// sums[i] += sign·row[i]. Requires a format of whole numbers.
void addWhole(const PictureFormat& format, const std::uint8_t* row, int sign, int count, std::int32_t* sums);

/// out[i] = a[i] + shares[i]·(b[i] − a[i]), rounded. Shares are 0…1.
void mixRow(const PictureFormat& format, const std::uint8_t* a, const std::uint8_t* b, const float* shares, int count,
            std::uint8_t* out);

/// Lays a picture's pixels to what has been combined of those before it: see BlendMode. `whole`: the weight over the
/// largest one. No `alpha`: all of it is opaque, and so is what comes of it; `coverage` is one value then, for Under.
void combineRow(BlendMode blend, const float* const values[3], const float* alpha, float weight, float whole,
                float* const mixed[3], float* coverage, std::size_t count);

}  // namespace molten
