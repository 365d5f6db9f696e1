#include "core/picture/grain.h"

#include <algorithm>
#include <cmath>
#include <vector>

#include "core/scrambled.h"

namespace molten {
namespace {

/// Of variance 1: three dice of ten bits.
float drawOf(std::uint32_t hash) {
  const auto sum = static_cast<float>((hash & 1023) + (hash >> 10 & 1023) + (hash >> 20 & 1023));
  return (sum - 1534.5f) / 512;
}

/// Where places lie between two points of the lattice.
struct Between {
  std::int64_t first = 0;
  std::vector<int> cell;     ///< beyond the first
  std::vector<float> share;  ///< of the next point
  int points = 0;

  Between(int begin, int count, double step, double size) {
    // Of a size of a pixel each pixel has a point.
    double at = (begin + 0.5) * step / size - 0.5;
    first = static_cast<std::int64_t>(std::floor(at));
    for (int i = 0; i < count; ++i) {
      at = (begin + i + 0.5) * step / size - 0.5;
      const double below = std::floor(at), u = at - below;
      cell.push_back(static_cast<int>(below - static_cast<double>(first)));
      share.push_back(static_cast<float>(u * u * (3 - 2 * u)));
    }
    points = cell.back() + 2;
  }
};

/// The noise of one colour in a tile, row after row.
void noiseOf(const Grain& grain, std::uint32_t colour, const Between& columns, const Between& rows,
             std::vector<float>& lattice, std::vector<float>& out) {
  const auto picture = static_cast<std::uint64_t>(grain.picture);
  std::uint32_t base = scrambled(grain.seed * 0x9e3779b9U + colour);
  base = scrambled(base + static_cast<std::uint32_t>(picture));
  base = scrambled(base + static_cast<std::uint32_t>(picture >> 32));
  lattice.resize(static_cast<std::size_t>(columns.points) * static_cast<std::size_t>(rows.points));
  for (int j = 0; j < rows.points; ++j) {
    const std::uint32_t row = scrambled(base + static_cast<std::uint32_t>(rows.first + j));
    for (int i = 0; i < columns.points; ++i)
      lattice[static_cast<std::size_t>(j * columns.points + i)] =
          drawOf(scrambled(row + static_cast<std::uint32_t>(columns.first + i)));
  }
  out.resize(columns.cell.size() * rows.cell.size());
  for (std::size_t y = 0; y < rows.cell.size(); ++y) {
    const float v = rows.share[y], overV = 1 / std::sqrt((1 - v) * (1 - v) + v * v);
    const float *const a = lattice.data() + rows.cell[y] * columns.points, *const b = a + columns.points;
    float* const to = out.data() + y * columns.cell.size();
    for (std::size_t x = 0; x < columns.cell.size(); ++x) {
      const int k = columns.cell[x];
      const float u = columns.share[x], over = overV / std::sqrt((1 - u) * (1 - u) + u * u);
      const float upper = a[k] + (a[k + 1] - a[k]) * u, lower = b[k] + (b[k + 1] - b[k]) * u;
      to[x] = (upper + (lower - upper) * v) * over;
    }
  }
}

}  // namespace

void addGrain(WorkingTile& tile, const Grain& grain, Size full, Size size) {
  constexpr int margin = WorkingTile::margin;
  const double stepX = static_cast<double>(full.width) / size.width, stepY = static_cast<double>(full.height) / size.height;
  const Between columns(tile.box.left - margin, tile.width, stepX, grain.size),
      rows(tile.box.top - margin, tile.height, stepY, grain.size);
  const auto amount = static_cast<float>(2 * grain.amount * std::min(1.0, grain.size / std::sqrt(stepX * stepY)));
  thread_local std::vector<float> lattice, noise;
  for (std::uint32_t c = 0; c < 3; ++c) {
    if (c == 0 || grain.coloured) noiseOf(grain, c, columns, rows, lattice, noise);
    std::vector<float>& values = tile.channels[c];
    for (std::size_t i = 0; i < values.size(); ++i) {
      const float v = values[i], room = v * (1 - v);
      values[i] = v + amount * std::sqrt(room > 0 ? room : 0) * noise[i];
    }
  }
}

}  // namespace molten
