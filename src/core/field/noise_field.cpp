#include "core/field/noise_field.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "core/wide.h"

namespace molten {
namespace {

double fade(double u) {
  return u * u * u * (u * (u * 6 - 15) + 10);
}

/// The twelve directions from the middle of a cube to its edges.
struct Gradient {
  double x, y, z;
};
Gradient gradientAt(std::int64_t x, std::int64_t y, std::int64_t z, std::uint32_t seed) {
  std::uint32_t hash = scrambled(static_cast<std::uint32_t>(x) + seed * 0x9e3779b9U);
  hash = scrambled(hash + static_cast<std::uint32_t>(y));
  hash = scrambled(hash + static_cast<std::uint32_t>(z));
  static constexpr Gradient edges[12] = {{1, 1, 0},  {-1, 1, 0},  {1, -1, 0}, {-1, -1, 0}, {1, 0, 1},  {-1, 0, 1},
                                         {1, 0, -1}, {-1, 0, -1}, {0, 1, 1},  {0, -1, 1},  {0, 1, -1}, {0, -1, -1}};
  return edges[hash % 12];
}

/// At a lattice column, y and z being those of a row: the noise is `value` + `slope`·(distance from the column).
struct Column {
  double value, slope;
};

/// Adds `height`·(value of the cell) for the sites of one cell: those from u = `u0` on in steps of `step`.
MOLTEN_WIDE void addCell(Column left, Column right, double u0, double step, double height, double* sum, int count) {
  for (int i = 0; i < count; ++i) {
    const double u = u0 + i * step;
    const double a = left.value + left.slope * u, b = right.value + right.slope * (u - 1);
    sum[i] += height * (a + (b - a) * (u * u * u * (u * (u * 6 - 15) + 10)));
  }
}

MOLTEN_WIDE void toField(const double* sum, double total, float* out, int count) {
  for (int i = 0; i < count; ++i) out[i] = heldWithin(0.5 + sum[i] / total);
}

}  // namespace

NoiseField::NoiseField(Place origin, double scale, double detail, double depth, std::uint32_t seed,
                       const FieldFrame& frame)
    : ox_(origin.x * frame.size.width),
      oy_(origin.y * frame.size.height),
      across_(frame.pixelAspect / frame.size.height / scale),
      down_(1.0 / frame.size.height / scale),
      detail_(detail),
      depth_(depth),
      seed_(seed) {}

void NoiseField::row(const PlaneSites& sites, int row, std::span<float> out) const {
  const auto count = static_cast<int>(out.size());
  thread_local std::vector<double> sum;
  sum.assign(out.size(), 0.0);
  double total = 0;
  double times = 1, height = 1;
  for (int octave = 0; octave < detail_; ++octave, times *= 2, height /= 2) {
    const double part = height * std::min(1.0, detail_ - octave);
    total += part;
    const std::uint32_t seed = seed_ + static_cast<std::uint32_t>(octave) * 101;
    const double y = (sites.y0 + row * sites.stepY - oy_) * down_ * times, z = depth_ * times;
    const double x0 = (sites.x0 - ox_) * across_ * times, step = sites.stepX * across_ * times;
    const double cellY = std::floor(y), cellZ = std::floor(z), v = y - cellY, w = z - cellZ;
    const double fadeY = fade(v), fadeZ = fade(w);
    const auto column = [&](std::int64_t x) {
      Column at{0, 0};
      for (int dz = 0; dz < 2; ++dz)
        for (int dy = 0; dy < 2; ++dy) {
          const Gradient g =
              gradientAt(x, static_cast<std::int64_t>(cellY) + dy, static_cast<std::int64_t>(cellZ) + dz, seed);
          const double share = (dy ? fadeY : 1 - fadeY) * (dz ? fadeZ : 1 - fadeZ);
          at.slope += share * g.x;
          at.value += share * (g.y * (v - dy) + g.z * (w - dz));
        }
      return at;
    };
    for (int i = 0; i < count;) {
      const double cell = std::floor(x0 + i * step);
      // The sites of this cell; the last of them is found by trial, so that rounding counts alike everywhere.
      int end = std::clamp(static_cast<int>((cell + 1 - x0) / step) + 1, i + 1, count);
      while (end > i + 1 && std::floor(x0 + (end - 1) * step) > cell) --end;
      const auto x = static_cast<std::int64_t>(cell);
      addCell(column(x), column(x + 1), x0 + i * step - cell, step, part, sum.data() + i, end - i);
      i = end;
    }
  }
  toField(sum.data(), total, out.data(), count);
}

}  // namespace molten
