#include "core/stages/tiles_mixture.h"

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/parallel.h"
#include "core/picture/accumulator.h"
#include "core/picture/halve.h"

namespace molten {
namespace {

/// A rectangle of samples of a plane; right and bottom are outside.
struct Rectangle {
  int left, top, right, bottom;
  int width() const { return right - left; }
  int height() const { return bottom - top; }
};

/// What a sample of a smaller row covers of a larger one: the first sample, and the weights of those from it on.
struct Covered {
  int first = 0;
  std::vector<float> weights;
};
std::vector<Covered> coveredBy(int small, int large) {
  std::vector<Covered> all;
  const double each = static_cast<double>(large) / small;
  for (int i = 0; i < small; ++i) {
    const double from = i * each, to = std::min((i + 1) * each, static_cast<double>(large));
    Covered covered{static_cast<int>(from), {}};
    for (int k = covered.first; k < large && k < to - 1e-9; ++k)
      covered.weights.push_back(static_cast<float>((std::min(k + 1.0, to) - std::max<double>(k, from)) / (to - from)));
    all.push_back(std::move(covered));
  }
  return all;
}

class TilesMixture : public Mixture {
 public:
  TilesMixture(TilePicture what, const StripLayout& cells, const StripBorders& borders, const MixShapes& shapes)
      : what_(std::move(what)), cells_(cells), borders_(borders), shapes_(shapes), out_(shapes.out) {
    for (int p = 0; p < shapes.out.format.planes(); ++p)
      for (int y = 0; y < out_.planeHeight(p); ++y)
        fillSamples(out_.writableRow(p, y), out_.planeWidth(p), shapes.out.format, blackSample(shapes.out, p));
  }
  const std::vector<MixSource>& sources() const override { return what_.sources; }

  void add(std::size_t first, std::span<const Picture> pictures) override {
    for (std::size_t i = 0; i < pictures.size(); ++i) {
      PictureShape same = shapes_.out;
      same.format.alpha = pictures[i].format().alpha;
      const Picture picture = pictures[i].format() == same.format ? pictures[i] : narrowed(pictures[i], same);
      Picture half;
      for (std::size_t cell = 0; cell < what_.ofCell.size(); ++cell) {
        if (what_.ofCell[cell] != static_cast<int>(first + i)) continue;
        if (isHalf(picture, static_cast<int>(cell))) {
          // The mean of two by two, rounded alike.
          if (!half) half = halved(picture);
          copy(half, static_cast<int>(cell));
          continue;
        }
        for (int p = 0; p < shapes_.out.format.planes(); ++p) draw(picture, p, static_cast<int>(cell));
      }
    }
  }
  Picture finish() override {
    if (borders_.line <= 0) return std::move(out_);
    // Between cells the line lies as it does between strips.
    MixShapes shapes = shapes_;
    shapes.in = shapes_.out;
    const auto lines = stripsMixture({{0, {}}}, cells_, borders_, shapes);
    lines->add(0, {&out_, 1});
    return lines->finish();
  }

 private:
  /// Where a cell's picture lies in a plane.
  Rectangle placeOf(int cell, int plane) const {
    const int column = cell % cells_.columns(), row = cell / cells_.columns();
    const double left = cells_.border(column), right = cells_.border(column + 1), top = cells_.rowBorder(row),
                 bottom = cells_.rowBorder(row + 1);
    const Size full{shapes_.in.size.width * shapes_.scale, shapes_.in.size.height * shapes_.scale};
    const double times = std::min((right - left) / full.width, (bottom - top) / full.height);
    const double width = full.width * times, height = full.height * times;
    const double x = (left + right - width) / 2, y = (top + bottom - height) / 2;
    const bool chroma = shapes_.out.format.isChromaPlane(plane);
    const double perX = shapes_.scale * (chroma ? 1 << shapes_.out.format.shiftX : 1),
                 perY = shapes_.scale * (chroma ? 1 << shapes_.out.format.shiftY : 1);
    const auto at = [](double value, double per, int most) {
      return std::clamp(static_cast<int>(std::floor(value / per + 0.5)), 0, most);
    };
    return {at(x, perX, out_.planeWidth(plane)), at(y, perY, out_.planeHeight(plane)),
            at(x + width, perX, out_.planeWidth(plane)), at(y + height, perY, out_.planeHeight(plane))};
  }

  bool isHalf(const Picture& picture, int cell) const {
    if (!(picture.format() == shapes_.out.format) || picture.format().floating) return false;
    for (int p = 0; p < picture.format().planes(); ++p) {
      const Rectangle place = placeOf(cell, p);
      if (place.width() * 2 != picture.planeWidth(p) || place.height() * 2 != picture.planeHeight(p)) return false;
    }
    return true;
  }

  void copy(const Picture& small, int cell) {
    for (int p = 0; p < small.format().planes(); ++p) {
      const Rectangle place = placeOf(cell, p);
      const int each = small.format().bytesPerSample();
      for (int y = 0; y < place.height(); ++y)
        std::memcpy(out_.writableRow(p, place.top + y) + place.left * each, small.row(p, y), small.rowBytes(p));
    }
  }

  void draw(const Picture& picture, int plane, int cell) {
    const PictureFormat& format = shapes_.out.format;
    const Rectangle place = placeOf(cell, plane);
    if (place.width() <= 0 || place.height() <= 0) return;
    if (plane >= picture.format().planes()) {
      for (int y = place.top; y < place.bottom; ++y)
        fillSamples(out_.writableRow(plane, y) + place.left * format.bytesPerSample(), place.width(), format,
                    format.floating ? 1 : opaqueSample(format));
      return;
    }
    if (format.floating)
      shrink<float>(picture, plane, place);
    else if (format.bytesPerSample() == 2)
      shrink<std::uint16_t>(picture, plane, place);
    else
      shrink<std::uint8_t>(picture, plane, place);
  }

  template <class Sample>
  void shrink(const Picture& picture, int plane, const Rectangle& place) {
    const int fromWidth = picture.planeWidth(plane), fromHeight = picture.planeHeight(plane);
    const auto across = coveredBy(place.width(), fromWidth), down = coveredBy(place.height(), fromHeight);
    parallelRows(place.height(), 8, [&](int from, int to) {
      std::vector<float> line(static_cast<std::size_t>(fromWidth));
      for (int y = from; y < to; ++y) {
        const Covered& rows = down[static_cast<std::size_t>(y)];
        std::fill(line.begin(), line.end(), 0.0f);
        for (std::size_t k = 0; k < rows.weights.size(); ++k) {
          const auto* const row = reinterpret_cast<const Sample*>(picture.row(plane, rows.first + static_cast<int>(k)));
          for (int x = 0; x < fromWidth; ++x)
            line[static_cast<std::size_t>(x)] += rows.weights[k] * static_cast<float>(row[x]);
        }
        auto* const out = reinterpret_cast<Sample*>(out_.writableRow(plane, place.top + y)) + place.left;
        for (int x = 0; x < place.width(); ++x) {
          const Covered& columns = across[static_cast<std::size_t>(x)];
          float sum = 0;
          for (std::size_t k = 0; k < columns.weights.size(); ++k)
            sum += columns.weights[k] * line[static_cast<std::size_t>(columns.first) + k];
          if constexpr (std::is_floating_point_v<Sample>)
            out[x] = sum;
          else
            out[x] = static_cast<Sample>(sum + 0.5f);
        }
      }
    });
  }

  TilePicture what_;
  StripLayout cells_;
  StripBorders borders_;
  MixShapes shapes_;
  Picture out_;
};

}  // namespace

std::unique_ptr<Mixture> tilesMixture(TilePicture what, const StripLayout& cells, const StripBorders& borders,
                                      const MixShapes& shapes) {
  return std::make_unique<TilesMixture>(std::move(what), cells, borders, shapes);
}

}  // namespace molten
