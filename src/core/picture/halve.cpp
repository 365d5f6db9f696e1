#include "core/picture/halve.h"

#include <algorithm>

#include "core/wide.h"

namespace molten {
namespace {

template <class Sample>
inline __attribute__((always_inline)) void meanOfFours(const Sample* upper, const Sample* lower, Sample* out,
                                                       int count) {
  for (int i = 0; i < count; ++i) {
    if constexpr (std::is_floating_point_v<Sample>)
      out[i] = (upper[2 * i] + upper[2 * i + 1] + lower[2 * i] + lower[2 * i + 1]) / 4;
    else
      out[i] = static_cast<Sample>((upper[2 * i] + upper[2 * i + 1] + lower[2 * i] + lower[2 * i + 1] + 2) / 4);
  }
}

MOLTEN_WIDE void halveRow(const std::uint8_t* upper, const std::uint8_t* lower, std::uint8_t* out, int count) {
  meanOfFours(upper, lower, out, count);
}
MOLTEN_WIDE void halveRow(const std::uint16_t* upper, const std::uint16_t* lower, std::uint16_t* out, int count) {
  meanOfFours(upper, lower, out, count);
}
MOLTEN_WIDE void halveRow(const float* upper, const float* lower, float* out, int count) {
  meanOfFours(upper, lower, out, count);
}

template <class Sample>
void halvePlane(const Picture& from, Picture& to, int plane) {
  const int width = from.planeWidth(plane), height = from.planeHeight(plane);
  for (int y = 0; y < to.planeHeight(plane); ++y) {
    const auto row = [&](int r) { return reinterpret_cast<const Sample*>(from.row(plane, std::min(r, height - 1))); };
    const Sample *const upper = row(2 * y), *const lower = row(2 * y + 1);
    auto* const out = reinterpret_cast<Sample*>(to.writableRow(plane, y));
    halveRow(upper, lower, out, width / 2);
    if (width % 2 == 0) continue;
    const Sample last[2][2] = {{upper[width - 1], upper[width - 1]}, {lower[width - 1], lower[width - 1]}};
    meanOfFours(last[0], last[1], out + width / 2, 1);
  }
}

}  // namespace

PictureShape shapeAtScale(const PictureShape& shape, int scale) {
  PictureShape small = shape;
  small.size = {(shape.size.width + scale - 1) / scale, (shape.size.height + scale - 1) / scale};
  return small;
}

Picture halved(const Picture& picture) {
  Picture out(shapeAtScale(picture.shape(), 2));
  for (int p = 0; p < out.format().planes(); ++p) {
    if (out.format().floating)
      halvePlane<float>(picture, out, p);
    else if (out.format().bytesPerSample() == 2)
      halvePlane<std::uint16_t>(picture, out, p);
    else
      halvePlane<std::uint8_t>(picture, out, p);
  }
  return out;
}

}  // namespace molten
