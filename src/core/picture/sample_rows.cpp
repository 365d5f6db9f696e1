#include "core/picture/sample_rows.h"

#include "core/wide.h"

namespace molten {
namespace {

MOLTEN_WIDE void unpack8(const std::uint8_t* row, int count, float top, float* out) {
  for (int i = 0; i < count; ++i) out[i] = static_cast<float>(row[i]) / top;
}
MOLTEN_WIDE void unpack16(const std::uint16_t* row, int count, float top, float* out) {
  for (int i = 0; i < count; ++i) out[i] = static_cast<float>(row[i]) / top;
}

/// The nearest sample; what is no number is 0.
inline __attribute__((always_inline)) std::int32_t sampleOf(float value, float span, float low, float top) {
  const float v = value * span + low;
  const float within = v > 0 ? (v < 1 ? v : 1.0f) : 0.0f;
  return static_cast<std::int32_t>(within * top + 0.5f);
}
MOLTEN_WIDE void pack8(const float* values, int count, float span, float low, float top, std::uint8_t* out) {
  for (int i = 0; i < count; ++i) out[i] = static_cast<std::uint8_t>(sampleOf(values[i], span, low, top));
}
MOLTEN_WIDE void pack16(const float* values, int count, float span, float low, float top, std::uint16_t* out) {
  for (int i = 0; i < count; ++i) out[i] = static_cast<std::uint16_t>(sampleOf(values[i], span, low, top));
}

}  // namespace

void unpackRow(const PictureFormat& format, const std::uint8_t* row, int first, int count, float top, float* out) {
  if (format.floating) {
    const float* const from = reinterpret_cast<const float*>(row) + first;
    for (int i = 0; i < count; ++i) out[i] = from[i];
  } else if (format.bits > 8) {
    unpack16(reinterpret_cast<const std::uint16_t*>(row) + first, count, top, out);
  } else {
    unpack8(row + first, count, top, out);
  }
}

void packRow(const PictureFormat& format, const float* values, int count, float span, float low, float top,
             std::uint8_t* row, int first) {
  if (format.floating) {
    float* const to = reinterpret_cast<float*>(row) + first;
    for (int i = 0; i < count; ++i) to[i] = values[i] * span + low;
  } else if (format.bits > 8) {
    pack16(values, count, span, low, top, reinterpret_cast<std::uint16_t*>(row) + first);
  } else {
    pack8(values, count, span, low, top, row + first);
  }
}

}  // namespace molten
