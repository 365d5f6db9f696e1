#pragma once
// Rows of samples as floats, and back.

#include <cstdint>

#include "core/picture/picture_format.h"

namespace molten {

/// out[i] = row[first + i] / top; floats as they are. `top`: the sample value of 1.
void unpackRow(const PictureFormat& format, const std::uint8_t* row, int first, int count, float top, float* out);

/// row[first + i] = (values[i]·span + low) within 0…1, times top, rounded; floats neither kept within nor rounded.
void packRow(const PictureFormat& format, const float* values, int count, float span, float low, float top,
             std::uint8_t* row, int first);

}  // namespace molten
