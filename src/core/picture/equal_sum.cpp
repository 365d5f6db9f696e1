#include "core/picture/equal_sum.h"

#include <algorithm>

#include "core/parallel.h"
#include "core/picture/accumulator.h"
#include "core/picture/sum_kernels.h"
#include "core/wide.h"

namespace molten {
namespace {

MOLTEN_WIDE void weighed(const std::int32_t* sums, std::int32_t blacks, float weight, int count, float* out) {
  for (int i = 0; i < count; ++i) out[i] = weight * static_cast<float>(sums[i] - blacks);
}

}  // namespace

EqualSum::EqualSum(const PictureShape& shape) : shape_(shape) {
  const PictureFormat& format = shape.format;
  for (int p = 0; p < format.planes(); ++p)
    planes_.emplace_back(static_cast<std::size_t>(format.planeWidth(p, shape.size.width)) *
                         static_cast<std::size_t>(format.planeHeight(p, shape.size.height)));
}

std::size_t EqualSum::bytes() const {
  std::size_t all = 0;
  for (const auto& plane : planes_) all += plane.size() * sizeof(plane[0]);
  return all;
}

void EqualSum::add(std::span<const Picture> pictures, int sign) {
  count_ += sign * static_cast<int>(pictures.size());
  for (int p = 0; p < shape_.format.planes(); ++p) {
    const int width = shape_.format.planeWidth(p, shape_.size.width);
    parallelRows(shape_.format.planeHeight(p, shape_.size.height), 8, [&](int from, int to) {
      for (int y = from; y < to; ++y)
        for (const Picture& picture : pictures)
          addWhole(shape_.format, picture.row(p, y), sign, width,
                   planes_[static_cast<std::size_t>(p)].data() + static_cast<std::ptrdiff_t>(y) * width);
    });
  }
}

Picture EqualSum::mixed(float weight, const Picture* lead, float leadWeight, const Picture* brightness) const {
  Picture out(shape_);
  const PictureFormat& format = shape_.format;
  // Rows are mixed twice where the mean has to be known first: cheaper than to keep them.
  const auto mixRow = [&](int p, int y, float* to) {
    const int width = out.planeWidth(p);
    const std::uint32_t black = blackSample(shape_, p);
    weighed(planes_[static_cast<std::size_t>(p)].data() + static_cast<std::ptrdiff_t>(y) * width,
            count_ * static_cast<std::int32_t>(black), weight, width, to);
    if (!lead) return;
    const std::uint8_t* const row = lead->row(p, y);
    addWeighted(format, {&row, 1}, {&leadWeight, 1}, static_cast<float>(black), width, to);
  };
  float gain = 1;
  if (brightness) {
    const WorkingFormat luma(shape_, Light::Display);
    const bool rgb = format.model == ColourModel::Rgb;
    const auto weights = luma.lumaWeights();
    const double share[] = {rgb ? weights[1] : 1, weights[2], weights[0]};
    std::vector<double> rows(static_cast<std::size_t>(shape_.size.height));
    parallelRows(shape_.size.height, 8, [&](int from, int to) {
      std::vector<float> line(static_cast<std::size_t>(shape_.size.width));
      for (int y = from; y < to; ++y)
        for (int p = 0; p < (rgb ? 3 : 1); ++p) {
          mixRow(p, y, line.data());
          double sum = 0;
          for (const float value : line) sum += static_cast<double>(value);
          rows[static_cast<std::size_t>(y)] += share[p] * sum;
        }
    });
    double sum = 0;
    for (const double row : rows) sum += row;
    const double pixels = static_cast<double>(shape_.size.width) * shape_.size.height;
    const double mean = luma.lumaOf(sum / pixels + blackSample(shape_, 0));
    if (mean > 1e-6) gain = static_cast<float>(std::max(0.0, meanLuma(*brightness)) / mean);
  }
  for (int p = 0; p < format.planes(); ++p) {
    const int width = out.planeWidth(p);
    parallelRows(out.planeHeight(p), 8, [&](int from, int to) {
      std::vector<float> line(static_cast<std::size_t>(width));
      for (int y = from; y < to; ++y) {
        mixRow(p, y, line.data());
        putSums(format, line.data(), gain, static_cast<float>(blackSample(shape_, p)), width, out.writableRow(p, y));
      }
    });
  }
  return out;
}

}  // namespace molten
