#include "core/stages/strips_mixture.h"

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/parallel.h"

namespace molten {
namespace {

constexpr int across = 128, down = 32, margin = WorkingTile::margin;

class StripsMixture : public Mixture {
 public:
  StripsMixture(std::vector<MixSource> sources, const StripLayout& layout, const StripBorders& borders,
                const MixShapes& shapes)
      : sources_(std::move(sources)), layout_(layout), borders_(borders), shapes_(shapes) {}
  const std::vector<MixSource>& sources() const override { return sources_; }
  void add(std::size_t, std::span<const Picture> pictures) override {
    pictures_.insert(pictures_.end(), pictures.begin(), pictures.end());
  }
  Picture finish() override {
    Picture out(shapes_.out);
    const WorkingFormat takes(shapes_.in, Light::Display), gives(shapes_.out, Light::Display);
    const Size size = shapes_.in.size;
    const int columns = (size.width + across - 1) / across, rows = (size.height + down - 1) / down;
    parallelRows(rows * columns, 1, [&](int from, int to) {
      WorkingTile tile, other;
      for (int i = from; i < to; ++i) {
        const int left = i % columns * across, top = i / columns * down;
        const PixelBox box{left, top, std::min(left + across, size.width), std::min(top + down, size.height)};
        takes.take(pictures_[0], box, tile);
        if (pictures_.size() > 1) takes.take(pictures_[1], box, other);
        mix(tile, other);
        gives.give(tile, out);
      }
    });
    return out;
  }

 private:
  void mix(WorkingTile& tile, const WorkingTile& other) const {
    const Size size = shapes_.in.size;
    const double scale = shapes_.scale;
    const float lined[] = {static_cast<float>(borders_.colour.red) / 255,
                           static_cast<float>(borders_.colour.green) / 255,
                           static_cast<float>(borders_.colour.blue) / 255};
    // A line of an odd width lies on whole pixels.
    const double centre = static_cast<int>(borders_.line) % 2 == 1 ? 0.5 : 0;
    for (int y = 0; y < tile.height; ++y)
      for (int x = 0; x < tile.width; ++x) {
        const int px = std::clamp(tile.box.left - margin + x, 0, size.width - 1),
                  py = std::clamp(tile.box.top - margin + y, 0, size.height - 1);
        const auto at = layout_.at((px + 0.5) * scale, (py + 0.5) * scale);
        if (at.other < 0) continue;
        if (pictures_.size() > 1 && std::abs(at.beyond) < borders_.feather / 2) {
          const auto own = static_cast<float>(0.5 + std::abs(at.beyond) / borders_.feather);
          for (int c = 0; c < 4; ++c) tile.row(c, y)[x] = own * tile.row(c, y)[x] + (1 - own) * other.row(c, y)[x];
        }
        if (borders_.line <= 0) continue;
        const auto covered =
            static_cast<float>(std::clamp((borders_.line / 2 - std::abs(at.beyond - centre)) / scale + 0.5, 0.0, 1.0) *
                               std::min(1.0, borders_.line / scale));
        if (covered <= 0) continue;
        for (int c = 0; c < 3; ++c) tile.row(c, y)[x] += covered * (lined[c] - tile.row(c, y)[x]);
        tile.row(3, y)[x] += covered * (1 - tile.row(3, y)[x]);
      }
  }

  std::vector<MixSource> sources_;
  StripLayout layout_;
  StripBorders borders_;
  MixShapes shapes_;
  std::vector<Picture> pictures_;
};

}  // namespace

std::unique_ptr<Mixture> stripsMixture(std::vector<MixSource> sources, const StripLayout& layout,
                                       const StripBorders& borders, const MixShapes& shapes) {
  return std::make_unique<StripsMixture>(std::move(sources), layout, borders, shapes);
}

}  // namespace molten
