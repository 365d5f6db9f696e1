#include "core/engine/alpha_mix.h"

#include <algorithm>

#include "core/parallel.h"
#include "core/picture/working_format.h"

namespace molten {

void mixWithAlpha(std::span<const Picture> pictures, std::span<const std::vector<float>> weights, Picture& out) {
  const PictureShape& shape = pictures[0].shape();
  const WorkingFormat format(shape, Light::Display);
  constexpr int across = 128, down = 32, margin = WorkingTile::margin;
  const int columns = (shape.size.width + across - 1) / across, rows = (shape.size.height + down - 1) / down;
  parallelRows(rows * columns, 1, [&](int from, int to) {
    std::vector<WorkingTile> tiles(pictures.size());
    for (int i = from; i < to; ++i) {
      const int left = i % columns * across, top = i / columns * down;
      const PixelBox box{left, top, std::min(left + across, shape.size.width), std::min(top + down, shape.size.height)};
      for (std::size_t k = 0; k < pictures.size(); ++k) format.take(pictures[k], box, tiles[k]);
      WorkingTile& mixed = tiles[0];
      for (int y = 0; y < mixed.height; ++y)
        for (int x = 0; x < mixed.width; ++x) {
          const int px = std::clamp(left - margin + x, 0, shape.size.width - 1),
                    py = std::clamp(top - margin + y, 0, shape.size.height - 1);
          const std::size_t at =
              static_cast<std::size_t>(py) * static_cast<std::size_t>(shape.size.width) + static_cast<std::size_t>(px);
          float sums[3] = {}, plain[3] = {}, alpha = 0, all = 0;
          for (std::size_t k = 0; k < tiles.size(); ++k) {
            const float w = weights[k][at], a = tiles[k].row(3, y)[x];
            alpha += w * a, all += w;
            for (int c = 0; c < 3; ++c) {
              const float value = tiles[k].row(c, y)[x];
              sums[c] += w * a * value, plain[c] += w * value;
            }
          }
          for (int c = 0; c < 3; ++c) mixed.row(c, y)[x] = alpha > 0 ? sums[c] / alpha : all > 0 ? plain[c] / all : 0;
          mixed.row(3, y)[x] = alpha;
        }
      format.give(mixed, out);
    }
  });
}

}  // namespace molten
