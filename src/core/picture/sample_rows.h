#pragma once
// Rows of samples as floats, and back.

#include <cstdint>

#include "core/picture/picture_format.h"

namespace molten {

/// What samples stand for: 0 at `low`, 1 at low + span, both in sample values.
struct SampleScale {
  float low = 0, span = 1;
};

/// out[i] = (row[first + i] − low) / span.
void unpackRow(const PictureFormat& format, const std::uint8_t* row, int first, int count, SampleScale scale, float* out);

/// row[first + i] = values[i]·span + low, rounded, within 0…top; what is no number is 0. Floats neither kept within nor
/// rounded. `top`: the largest sample.
void packRow(const PictureFormat& format, const float* values, int count, SampleScale scale, float top, std::uint8_t* row,
             int first);

}  // namespace molten
