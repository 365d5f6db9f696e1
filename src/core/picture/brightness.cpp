#include "core/picture/brightness.h"

#include <algorithm>
#include <atomic>
#include <cmath>

#include "core/picture/working_format.h"

namespace molten {

Brightness brightnessOf(const Picture& picture) {
  const WorkingFormat format(picture.shape(), Light::Display);
  const auto weights = format.lumaWeights();
  const float red = static_cast<float>(weights[0]), green = static_cast<float>(weights[1]),
              blue = static_cast<float>(weights[2]);
  constexpr float half = 0.5f / 255;
  // Whole numbers, so that the order in which tiles are looked at does not matter.
  std::array<std::atomic<std::int64_t>, Brightness::steps> counts{};
  std::atomic<std::int64_t> burntOut = 0, black = 0;
  overTiles(format.size(), [&](const PixelBox& box, WorkingTile& tile) {
    format.take(picture, box, tile);
    std::array<int, Brightness::steps> own{};
    int white = 0, dark = 0;
    for (int y = 0; y < box.bottom - box.top; ++y) {
      const auto row = [&](int channel) { return tile.row(channel, y + WorkingTile::margin) + WorkingTile::margin; };
      const float *const r = row(0), *const g = row(1), *const b = row(2);
      for (int x = 0; x < box.right - box.left; ++x) {
        const float luma = red * r[x] + green * g[x] + blue * b[x];
        const float most = std::max({r[x], g[x], b[x]});
        const float place = luma * Brightness::steps;
        // What is no number counts as black, as it is shown.
        ++own[place >= 1 ? static_cast<std::size_t>(std::min(place, Brightness::steps - 1.0f)) : 0];
        white += most >= 1 - half;
        dark += most <= half;
      }
    }
    for (std::size_t i = 0; i < own.size(); ++i)
      if (own[i] > 0) counts[i] += own[i];
    burntOut += white, black += dark;
  });
  const double all = static_cast<double>(format.size().width) * format.size().height;
  Brightness found;
  for (std::size_t i = 0; i < found.shares.size(); ++i)
    found.shares[i] = static_cast<float>(static_cast<double>(counts[i]) / all);
  found.burntOut = static_cast<double>(burntOut) / all, found.black = static_cast<double>(black) / all;
  return found;
}

}  // namespace molten
