#include "core/picture/resample.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <vector>

#include "core/picture/resample_kernels.h"
#include "core/picture/working_format.h"

namespace molten {
namespace {

constexpr int lobes = 3, margin = WorkingTile::margin;

/// R G B and alpha of a pixel, the colours times the alpha.
typedef float Pixel __attribute__((vector_size(16)));
static_assert(sizeof(Pixel) == 4 * sizeof(float));
const float* floatsOf(const Pixel* pixels) {
  return reinterpret_cast<const float*>(pixels);
}
float* floatsOf(Pixel* pixels) {
  return reinterpret_cast<float*>(pixels);
}

double window(double d) {
  if (std::abs(d) >= lobes) return 0;
  if (d == 0) return 1;
  const double a = std::acos(-1.0) * d;
  return lobes * std::sin(a) * std::sin(a / lobes) / (a * a);
}

/// The six weights of a place between two pixels, by how far it lies beyond the first; between the places of the table
/// straight (off by 1e-6 at most).
class Phases {
 public:
  static constexpr int count = 1024;
  Phases() : weights_(static_cast<std::size_t>((count + 1) * narrowWeights)) {
    for (int i = 0; i <= count; ++i) {
      std::array<double, sixTaps> exact{};
      double sum = 0;
      for (int k = 0; k < sixTaps; ++k)
        sum += exact[static_cast<std::size_t>(k)] = window(k - (lobes - 1) - static_cast<double>(i) / count);
      for (int k = 0; k < sixTaps; ++k)
        weights_[static_cast<std::size_t>(i * narrowWeights + k)] = static_cast<float>(exact[static_cast<std::size_t>(k)] / sum);
    }
  }
  PhaseTable table() const { return {weights_.data(), count}; }
  /// `part`: 0…1.
  std::array<float, sixTaps> at(double part) const {
    const double place = part * count;
    const int i = static_cast<int>(std::min(place, count - 1.0));
    const auto share = static_cast<float>(place - i);
    const float *const low = weights_.data() + i * narrowWeights, *const high = low + narrowWeights;
    std::array<float, sixTaps> weights;
    for (std::size_t k = 0; k < weights.size(); ++k) weights[k] = low[k] + share * (high[k] - low[k]);
    return weights;
  }

 private:
  std::vector<float> weights_;
};

const Phases& phases() {
  static const Phases table;
  return table;
}

/// The pixels along one direction that a place is made of.
struct Taps {
  int first = 0;
  std::vector<float> weights;
  Pixel sumOf(const Pixel* row) const {
    Pixel sum{};
    for (std::size_t k = 0; k < weights.size(); ++k) sum += row[first + static_cast<int>(k)] * weights[k];
    return sum;
  }
};

/// `place`: in pixels, a pixel's centre lying at its number + 0.5. `stretch` > 1.
void tapsAt(double place, double stretch, Taps& out) {
  const double centre = place - 0.5;
  out.first = static_cast<int>(std::ceil(centre - lobes * stretch));
  const int last = static_cast<int>(std::floor(centre + lobes * stretch));
  std::vector<double> exact;
  double sum = 0;
  for (int k = out.first; k <= last; ++k) sum += exact.emplace_back(window((k - centre) / stretch));
  out.weights.clear();
  for (const double weight : exact) out.weights.push_back(static_cast<float>(weight / sum));
}

double stretchOf(const Affine& way) {
  return std::max(1.0, std::sqrt(std::abs(way.determinant())));
}

/// Where a pixel beyond the edges is taken from; −1: nowhere.
int folded(int at, int size, Beyond beyond) {
  if (at >= 0 && at < size) return at;
  if (beyond == Beyond::Clear) return -1;
  if (beyond == Beyond::StandStill) return std::clamp(at, 0, size - 1);
  const int period = 2 * size;
  const int within = ((at % period) + period) % period;
  return within < size ? within : period - 1 - within;
}

/// A part of a picture, beyond its edges too, as pixels.
class Patch {
 public:
  int left = 0, top = 0, width = 0, height = 0;

  void take(const Picture& picture, const WorkingFormat& format, Beyond beyond) {
    const Size size = picture.shape().size;
    pixels_.resize(static_cast<std::size_t>(width) * static_cast<std::size_t>(height) + 1);
    if (beyond == Beyond::Clear) std::fill(pixels_.begin(), pixels_.end(), Pixel{});
    std::vector<int> across(static_cast<std::size_t>(width)), down(static_cast<std::size_t>(height));
    const auto fold = [beyond](std::vector<int>& places, int first, int limit) {
      int least = limit, most = -1;
      for (std::size_t i = 0; i < places.size(); ++i) {
        places[i] = folded(first + static_cast<int>(i), limit, beyond);
        if (places[i] < 0) continue;
        least = std::min(least, places[i]), most = std::max(most, places[i]);
      }
      return std::pair{least, most};
    };
    const auto [x0, x1] = fold(across, left, size.width);
    const auto [y0, y1] = fold(down, top, size.height);
    if (x1 < 0 || y1 < 0) return;
    const PixelBox box{x0 / 4 * 4, y0 / 4 * 4, std::min(size.width, x1 / 4 * 4 + 4), std::min(size.height, y1 / 4 * 4 + 4)};
    format.take(picture, box, tile_);
    const bool alpha = picture.format().alpha;
    for (int y = 0; y < height; ++y) {
      if (down[static_cast<std::size_t>(y)] < 0) continue;
      const int row = down[static_cast<std::size_t>(y)] - box.top + margin;
      const float *const r = tile_.row(0, row), *const g = tile_.row(1, row), *const b = tile_.row(2, row),
                  *const a = tile_.row(3, row);
      Pixel* const out = pixels_.data() + static_cast<std::ptrdiff_t>(y) * width;
      for (int x = 0; x < width; ++x) {
        if (across[static_cast<std::size_t>(x)] < 0) continue;
        const int k = across[static_cast<std::size_t>(x)] - box.left + margin;
        out[x] = alpha ? Pixel{r[k] * a[k], g[k] * a[k], b[k] * a[k], a[k]} : Pixel{r[k], g[k], b[k], 1};
      }
    }
  }
  const Pixel* row(int y) const { return pixels_.data() + static_cast<std::ptrdiff_t>(y - top) * width - left; }

 private:
  std::vector<Pixel> pixels_;
  WorkingTile tile_;
};

/// What a way shows in a tile, margins too.
class Laid {
 public:
  /// The part of the picture that is needed: added to `patch`.
  static void need(const Affine& way, const WorkingTile& tile, Patch& patch, bool first) {
    const double reach = lobes * stretchOf(way) + 1;
    const double x[] = {tile.box.left - margin + 0.5, tile.box.left - margin + tile.width - 0.5};
    const double y[] = {tile.box.top - margin + 0.5, tile.box.top - margin + tile.height - 0.5};
    double low[2] = {1e300, 1e300}, high[2] = {-1e300, -1e300};
    for (const double px : x)
      for (const double py : y) {
        const double at[2] = {way.x(px, py), way.y(px, py)};
        for (int i = 0; i < 2; ++i) low[i] = std::min(low[i], at[i]), high[i] = std::max(high[i], at[i]);
      }
    int left = static_cast<int>(std::floor(low[0] - reach)), top = static_cast<int>(std::floor(low[1] - reach));
    int right = static_cast<int>(std::ceil(high[0] + reach)), bottom = static_cast<int>(std::ceil(high[1] + reach));
    if (!first) {
      left = std::min(left, patch.left), top = std::min(top, patch.top);
      right = std::max(right, patch.left + patch.width), bottom = std::max(bottom, patch.top + patch.height);
    }
    patch.left = left, patch.top = top, patch.width = right - left, patch.height = bottom - top;
  }

  void lay(const Affine& way, const Patch& patch, WorkingTile& tile) {
    line_.resize(static_cast<std::size_t>(tile.width));
    const bool reduced = stretchOf(way) > 1;
    if (way.upright())
      reduced ? reduceUpright(way, patch, tile) : layUpright(way, patch, tile);
    else
      reduced ? reduceTurned(way, patch, tile) : layTurned(way, patch, tile);
  }

 private:
  void putLine(WorkingTile& tile, int y) const {
    float *const r = tile.row(0, y), *const g = tile.row(1, y), *const b = tile.row(2, y), *const a = tile.row(3, y);
    for (std::size_t x = 0; x < line_.size(); ++x)
      r[x] = line_[x][0], g[x] = line_[x][1], b[x] = line_[x][2], a[x] = line_[x][3];
  }
  static double xOf(const WorkingTile& tile, int x) { return tile.box.left - margin + x + 0.5; }
  static double yOf(const WorkingTile& tile, int y) { return tile.box.top - margin + y + 0.5; }

  /// Across first, then down.
  void layUpright(const Affine& way, const Patch& patch, WorkingTile& tile) {
    firsts_.resize(line_.size()), weights_.resize(line_.size() * sixWeights);
    for (int x = 0; x < tile.width; ++x) {
      const double at = way.x(xOf(tile, x), 0) - 0.5, left = std::floor(at);
      firsts_[static_cast<std::size_t>(x)] = static_cast<int>(left) - (lobes - 1);
      const auto weights = phases().at(at - left);
      for (int k = 0; k < sixWeights; ++k)
        weights_[static_cast<std::size_t>(x * sixWeights + k)] = weights[static_cast<std::size_t>(k / 4)];
    }
    const auto firstRow = [&](int y) { return static_cast<int>(std::floor(way.y(0, yOf(tile, y)) - 0.5)) - (lobes - 1); };
    const int ends[] = {firstRow(0), firstRow(tile.height - 1)};
    const int top = std::min(ends[0], ends[1]), bottom = std::max(ends[0], ends[1]) + sixTaps;
    across_.resize(static_cast<std::size_t>(bottom - top) * line_.size());
    for (int row = top; row < bottom; ++row)
      acrossSix(floatsOf(patch.row(row)), firsts_.data(), weights_.data(), tile.width,
                floatsOf(across_.data() + static_cast<std::ptrdiff_t>(row - top) * tile.width));
    for (int y = 0; y < tile.height; ++y) {
      const double at = way.y(0, yOf(tile, y)) - 0.5;
      const auto down = phases().at(at - std::floor(at));
      downSix(floatsOf(across_.data() + static_cast<std::ptrdiff_t>(firstRow(y) - top) * tile.width),
              4 * static_cast<std::ptrdiff_t>(tile.width), down.data(), 4 * tile.width, floatsOf(line_.data()));
      putLine(tile, y);
    }
  }

  void layTurned(const Affine& way, const Patch& patch, WorkingTile& tile) {
    for (int y = 0; y < tile.height; ++y) {
      const double px = xOf(tile, 0), py = yOf(tile, y);
      anywhereSix(floatsOf(patch.row(patch.top) + patch.left), patch.width, way.x(px, py) - 0.5 - patch.left,
                  way.y(px, py) - 0.5 - patch.top, way.xx, way.yx, tile.width, phases().table(), floatsOf(line_.data()));
      putLine(tile, y);
    }
  }

  void reduceUpright(const Affine& way, const Patch& patch, WorkingTile& tile) {
    const double stretch = stretchOf(way);
    columns_.resize(line_.size());
    for (int x = 0; x < tile.width; ++x) tapsAt(way.x(xOf(tile, x), 0), stretch, columns_[static_cast<std::size_t>(x)]);
    rows_.resize(static_cast<std::size_t>(tile.height));
    int top = patch.top + patch.height, bottom = patch.top;
    for (int y = 0; y < tile.height; ++y) {
      Taps& taps = rows_[static_cast<std::size_t>(y)];
      tapsAt(way.y(0, yOf(tile, y)), stretch, taps);
      top = std::min(top, taps.first), bottom = std::max(bottom, taps.first + static_cast<int>(taps.weights.size()));
    }
    across_.resize(static_cast<std::size_t>(bottom - top) * columns_.size());
    for (int row = top; row < bottom; ++row) {
      const Pixel* const from = patch.row(row);
      Pixel* const to = across_.data() + static_cast<std::ptrdiff_t>(row - top) * tile.width;
      for (int x = 0; x < tile.width; ++x) to[x] = columns_[static_cast<std::size_t>(x)].sumOf(from);
    }
    for (int y = 0; y < tile.height; ++y) {
      const Taps& taps = rows_[static_cast<std::size_t>(y)];
      std::fill(line_.begin(), line_.end(), Pixel{});
      for (std::size_t k = 0; k < taps.weights.size(); ++k) {
        const Pixel* const from = across_.data() + (taps.first - top + static_cast<std::ptrdiff_t>(k)) * tile.width;
        for (std::size_t x = 0; x < line_.size(); ++x) line_[x] += from[x] * taps.weights[k];
      }
      putLine(tile, y);
    }
  }

  void reduceTurned(const Affine& way, const Patch& patch, WorkingTile& tile) {
    const double stretch = stretchOf(way);
    Taps across, down;
    for (int y = 0; y < tile.height; ++y) {
      for (int x = 0; x < tile.width; ++x) {
        tapsAt(way.x(xOf(tile, x), yOf(tile, y)), stretch, across);
        tapsAt(way.y(xOf(tile, x), yOf(tile, y)), stretch, down);
        Pixel sum{};
        for (std::size_t k = 0; k < down.weights.size(); ++k)
          sum += across.sumOf(patch.row(down.first + static_cast<int>(k))) * down.weights[k];
        line_[static_cast<std::size_t>(x)] = sum;
      }
      putLine(tile, y);
    }
  }

  std::vector<Taps> columns_, rows_;
  std::vector<int> firsts_;
  std::vector<float> weights_;  ///< 24 a column
  std::vector<Pixel> across_, line_;
};

/// Colours without their alpha.
void divideByAlpha(WorkingTile& tile) {
  const float* const a = tile.row(3, 0);
  for (int c = 0; c < 3; ++c) {
    float* const values = tile.row(c, 0);
    for (std::size_t i = 0; i < tile.channels[3].size(); ++i) values[i] = a[i] > 0 ? values[i] / a[i] : 0;
  }
}

void addTo(WorkingTile& sum, const WorkingTile& tile, float part, bool alpha) {
  const float* const a = tile.row(3, 0);
  for (int c = 0; c < 4; ++c) {
    const float* const from = tile.row(c, 0);
    float* const to = sum.row(c, 0);
    for (std::size_t i = 0; i < tile.channels[3].size(); ++i)
      to[i] += (alpha && c < 3 ? from[i] * std::max(a[i], 0.0f) : from[i]) * part;
  }
}

}  // namespace

Picture resampled(const Picture& picture, std::span<const Affine> ways, Beyond beyond, const PictureShape& to) {
  Picture out(to);
  const bool several = ways.size() > 1, alpha = picture.format().alpha || beyond == Beyond::Clear;
  const WorkingFormat takes(picture.shape(), Light::Display), gives(to, several ? Light::Linear : Light::Display);
  overTiles(
      to.size,
      [&](const PixelBox& box, WorkingTile& tile) {
        thread_local Patch patch;
        thread_local Laid laid;
        thread_local WorkingTile sum;
        tile.lay(box);
        for (std::size_t i = 0; i < ways.size(); ++i) Laid::need(ways[i], tile, patch, i == 0);
        patch.take(picture, takes, beyond);
        if (several) {
          sum.lay(box);
          for (auto& channel : sum.channels) std::fill(channel.begin(), channel.end(), 0.0f);
        }
        for (const Affine& way : ways) {
          laid.lay(way, patch, tile);
          if (alpha) divideByAlpha(tile);
          if (!several) break;
          gives.fromDisplay(tile);
          addTo(sum, tile, 1 / static_cast<float>(ways.size()), alpha);
        }
        if (several && alpha) divideByAlpha(sum);
        gives.give(several ? sum : tile, out);
      },
      {128, 64});
  return out;
}

}  // namespace molten
