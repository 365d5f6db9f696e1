#include "core/stages/strips_mixture.h"

#include <algorithm>
#include <cmath>
#include <optional>

#include "core/field/plane_sites.h"
#include "core/parallel.h"
#include "core/picture/accumulator.h"
#include "core/picture/sum_kernels.h"

namespace molten {
namespace {

/// Samples are mixed plane by plane, each by where it stands.
class StripsMixture : public Mixture {
 public:
  StripsMixture(std::vector<MixSource> sources, const StripLayout& layout, const StripBorders& borders,
                const MixShapes& shapes)
      : sources_(std::move(sources)), layout_(layout), borders_(borders), shapes_(shapes) {}
  const std::vector<MixSource>& sources() const override { return sources_; }
  void add(std::size_t, std::span<const Picture> pictures) override {
    for (const Picture& picture : pictures) pictures_.push_back(narrowed(picture, shapes_.out));
  }
  Picture finish() override {
    Picture out(shapes_.out);
    const std::vector<float> lined = lineSamples();
    for (int p = 0; p < shapes_.out.format.planes(); ++p) {
      const PlaneSites sites = planeSites(shapes_.out, p, shapes_.scale);
      // Rows that are alike are looked at once.
      Borders once;
      if (const auto row = plainRow(sites)) once = bordersOf(sites, *row);
      parallelRows(sites.height, 8, [&](int from, int to) {
        for (int y = from; y < to; ++y) {
          const bool plain = isPlain(sites, y);
          const Borders own = plain ? Borders() : bordersOf(sites, y);
          makeRow(plain ? once : own, p, y, lined[static_cast<std::size_t>(p)], out);
        }
      });
    }
    return out;
  }

 private:
  /// Of a row of samples.
  struct Borders {
    std::vector<float> others;  ///< how much there is of the neighbour
    struct Lined {
      int x;
      float covered;
    };
    std::vector<Lined> line;
  };

  /// Only what lies across the row is near it.
  bool isPlain(const PlaneSites& sites, int row) const {
    if (layout_.acrossOnly()) return true;
    if (layout_.rows() < 2) return false;
    const double y = sites.y0 + row * sites.stepY, reach = std::max(borders_.feather, borders_.line) / 2 + shapes_.scale + 1;
    for (int i = 1; i < layout_.rows(); ++i)
      if (std::abs(y - layout_.rowBorder(i)) <= reach) return false;
    return true;
  }
  std::optional<int> plainRow(const PlaneSites& sites) const {
    for (int row = 0; row < sites.height; ++row)
      if (isPlain(sites, row)) return row;
    return std::nullopt;
  }

  Borders bordersOf(const PlaneSites& sites, int row) const {
    Borders found;
    found.others.resize(static_cast<std::size_t>(sites.width));
    const double y = sites.y0 + row * sites.stepY, scale = shapes_.scale;
    // A line of an odd width lies on whole pixels.
    const double centre = static_cast<int>(borders_.line) % 2 == 1 ? 0.5 : 0;
    for (int i = 0; i < sites.width; ++i) {
      if (i > 0 && layout_.downOnly()) {
        found.others[static_cast<std::size_t>(i)] = found.others[0];
        if (!found.line.empty()) found.line.push_back({i, found.line[0].covered});
        continue;
      }
      const auto at = layout_.at(sites.x0 + i * sites.stepX, y);
      if (at.other < 0) continue;
      if (pictures_.size() > 1 && std::abs(at.beyond) < borders_.feather / 2)
        found.others[static_cast<std::size_t>(i)] = static_cast<float>(0.5 - std::abs(at.beyond) / borders_.feather);
      if (borders_.line <= 0) continue;
      const double covered = std::clamp((borders_.line / 2 - std::abs(at.beyond - centre)) / scale + 0.5, 0.0, 1.0) *
                             std::min(1.0, borders_.line / scale);
      if (covered > 0) found.line.push_back({i, static_cast<float>(covered)});
    }
    return found;
  }

  void makeRow(const Borders& borders, int plane, int y, float lined, Picture& out) const {
    const PictureFormat& format = shapes_.out.format;
    const std::uint8_t *const own = pictures_[0].row(plane, y), *const other = pictures_.back().row(plane, y);
    std::uint8_t* const to = out.writableRow(plane, y);
    mixRow(format, own, other, borders.others.data(), out.planeWidth(plane), to);
    if (format.floating)
      drawLine<float>(borders, lined, own, other, to);
    else if (format.bytesPerSample() == 2)
      drawLine<std::uint16_t>(borders, lined, own, other, to);
    else
      drawLine<std::uint8_t>(borders, lined, own, other, to);
  }

  /// Over what is mixed, which has not been rounded before.
  template <class Sample>
  static void drawLine(const Borders& borders, float lined, const std::uint8_t* own, const std::uint8_t* other,
                       std::uint8_t* to) {
    for (const auto& [x, covered] : borders.line) {
      const auto a = static_cast<float>(reinterpret_cast<const Sample*>(own)[x]),
                 b = static_cast<float>(reinterpret_cast<const Sample*>(other)[x]);
      const float under = a + borders.others[static_cast<std::size_t>(x)] * (b - a), made = under + covered * (lined - under);
      reinterpret_cast<Sample*>(to)[x] = static_cast<Sample>(std::is_floating_point_v<Sample> ? made : made + 0.5f);
    }
  }

  /// A pixel of the line, opaque, in each plane.
  std::vector<float> lineSamples() const {
    std::vector<float> samples;
    PictureShape few = shapes_.out;
    few.size = {4, 4};
    Picture pixel(few);
    overTiles(few.size, [&](const PixelBox& box, WorkingTile& tile) {
      tile.lay(box);
      const float values[] = {static_cast<float>(borders_.colour.red) / 255, static_cast<float>(borders_.colour.green) / 255,
                              static_cast<float>(borders_.colour.blue) / 255, 1};
      for (std::size_t c = 0; c < 4; ++c) std::fill(tile.channels[c].begin(), tile.channels[c].end(), values[c]);
      const WorkingFormat format(few, Light::Display);
      format.toOneValue(tile);
      format.give(tile, pixel);
    });
    for (int p = 0; p < few.format.planes(); ++p) {
      const std::uint8_t* const row = pixel.row(p, 0);
      samples.push_back(few.format.floating              ? *reinterpret_cast<const float*>(row)
                        : few.format.bytesPerSample() == 2 ? static_cast<float>(*reinterpret_cast<const std::uint16_t*>(row))
                                                           : static_cast<float>(*row));
    }
    return samples;
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
