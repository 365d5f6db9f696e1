#include "core/picture/picture_key.h"

#include <algorithm>
#include <cmath>
#include <cstring>
#include <opencv2/imgproc.hpp>

#include "core/opencv_threads.h"
#include "core/parallel.h"

namespace molten {
namespace {

/// What is surely of the key's colour: its hue no farther off than this, its light between these parts of it.
constexpr float surelyBeside = 0.3f, surelyDim = 0.35f, surelyBright = 2.2f;
/// A cell is known where so many of its pixels are.
constexpr float knownPart = 0.25f;
constexpr int cellPixels = 16;

using Rgb = std::array<float, 3>;

float dot(const Rgb& a, const Rgb& b) {
  return a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
}
Rgb unit(const Rgb& v) {
  const float length = std::sqrt(dot(v, v));
  return length > 0 ? Rgb{v[0] / length, v[1] / length, v[2] / length} : v;
}

/// Four values at once.
typedef float Four __attribute__((vector_size(16)));
Four fourAt(const float* values) {
  Four four;
  std::memcpy(&four, values, sizeof four);
  return four;
}
/// 1 where a value is surely of the key's colour, else 0.
Four surely(const Four& along, const Four& beside, float strength) {
  const auto is = (along > surelyDim * strength) & (along < surelyBright * strength) & (beside < surelyBeside * along);
  return is ? Four{1, 1, 1, 1} : Four{};
}

/// Smallest or largest values within a radius, in pixels; between whole ones by the part.
void spread(cv::Mat& matte, double radius, bool smallest) {
  const auto by = [&](int whole) {
    if (whole == 0) return matte.clone();
    cv::Mat out;
    const cv::Mat element = cv::getStructuringElement(cv::MORPH_ELLIPSE, {2 * whole + 1, 2 * whole + 1});
    smallest ? cv::erode(matte, out, element) : cv::dilate(matte, out, element);
    return out;
  };
  const int whole = static_cast<int>(radius);
  const double part = radius - whole;
  cv::Mat low = by(whole);
  if (part > 0) {
    const cv::Mat high = by(whole + 1);
    low = low * (1 - part) + high * part;
  }
  low.copyTo(matte);
}

}  // namespace

PictureKey::PictureKey(const Picture& picture, const KeyRecipe& recipe, int scale)
    : recipe_(recipe), size_(picture.shape().size), matte_(static_cast<std::size_t>(size_.width) * static_cast<std::size_t>(size_.height)) {
  const WorkingFormat format(picture.shape(), light());
  recipe_.byBrightness ? byBrightness(picture, format) : (cell_ = std::max(4, cellPixels / scale), byColour(picture, format));
  tidy(scale);
  findThere();
}

void PictureKey::byBrightness(const Picture& picture, const WorkingFormat& format) {
  const auto weights = format.lumaWeights();
  const Rgb w{static_cast<float>(weights[0]), static_cast<float>(weights[1]), static_cast<float>(weights[2])};
  const float middle = dot(recipe_.colour, w), near = static_cast<float>(recipe_.near);
  const float soft = static_cast<float>(std::max(recipe_.soft, 1e-3));
  overTiles(size_, [&](const PixelBox& box, WorkingTile& tile) {
    format.take(picture, box, tile);
    for (int y = box.top; y < box.bottom; ++y) {
      const float* const rows[] = {tile.row(0, y - box.top + WorkingTile::margin), tile.row(1, y - box.top + WorkingTile::margin),
                                   tile.row(2, y - box.top + WorkingTile::margin)};
      float* const out = matte_.data() + static_cast<std::ptrdiff_t>(y) * size_.width;
      for (int x = box.left; x < box.right; ++x) {
        const int i = x - box.left + WorkingTile::margin;
        const float luma = rows[0][i] * w[0] + rows[1][i] * w[1] + rows[2][i] * w[2];
        out[x] = std::clamp((std::abs(luma - middle) - near) / soft, 0.0f, 1.0f);
      }
    }
  });
}

void PictureKey::byColour(const Picture& picture, const WorkingFormat& format) {
  {
    WorkingTile one;
    one.lay({0, 0, 4, 4});
    for (std::size_t c = 0; c < 3; ++c) std::fill(one.channels[c].begin(), one.channels[c].end(), recipe_.colour[c]);
    format.fromDisplay(one);
    for (std::size_t c = 0; c < 3; ++c) colour_[c] = one.channels[c][0];
  }
  const float mean = (colour_[0] + colour_[1] + colour_[2]) / 3;
  along_ = unit({colour_[0] - mean, colour_[1] - mean, colour_[2] - mean});
  // Square to gray and to it.
  beside_ = unit({along_[1] - along_[2], along_[2] - along_[0], along_[0] - along_[1]});
  const float strength = dot(colour_, along_);
  if (!(strength > 1e-4f)) {
    // A gray has no colour that anything could be near to.
    std::fill(matte_.begin(), matte_.end(), 1.0f);
    cloth_ = {colour_};
    return;
  }
  across_ = (size_.width + cell_ - 1) / cell_, down_ = (size_.height + cell_ - 1) / cell_;
  cloth_.assign(static_cast<std::size_t>(across_ * down_), Rgb{});
  std::vector<float> weights(cloth_.size());
  // Tiles end where cells do, so that each cell is summed up by one thread, in order. What of the colour is in a pixel stands
  // where its alpha will.
  overTiles(size_, [&](const PixelBox& box, WorkingTile& tile) {
    format.take(picture, box, tile);
    const int width = box.right - box.left;
    std::array<float, 256> alongs, besides;
    for (int y = box.top; y < box.bottom; ++y) {
      const int row = y - box.top + WorkingTile::margin;
      const float *const r = tile.row(0, row) + WorkingTile::margin, *const g = tile.row(1, row) + WorkingTile::margin,
                  *const b = tile.row(2, row) + WorkingTile::margin;
      float *const p = alongs.data(), *const c = besides.data();
      const Rgb u = along_, v = beside_;
      for (int x = 0; x < width; ++x) {
        p[x] = r[x] * u[0] + g[x] * u[1] + b[x] * u[2];
        c[x] = std::abs(r[x] * v[0] + g[x] * v[1] + b[x] * v[2]);
      }
      float* const out = matte_.data() + static_cast<std::ptrdiff_t>(y) * size_.width + box.left;
      for (int x = 0; x < width; ++x) out[x] = p[x] - c[x] * 0.5f;
      // Every other row tells as much of what lies around.
      if (y % 2 == 1) continue;
      for (int from = 0; from < width; from += cell_) {
        const auto cell = static_cast<std::size_t>(y / cell_ * across_ + (box.left + from) / cell_);
        Four sums[4] = {};
        for (int x = from; x + 4 <= std::min(width, from + cell_); x += 4) {
          const Four along = fourAt(p + x), sure = surely(along, fourAt(c + x), strength);
          sums[0] += sure * fourAt(r + x), sums[1] += sure * fourAt(g + x), sums[2] += sure * fourAt(b + x);
          sums[3] += sure;
        }
        const auto all = [](const Four& four) { return (four[0] + four[1]) + (four[2] + four[3]); };
        for (std::size_t i = 0; i < 3; ++i) cloth_[cell][i] += all(sums[i]);
        weights[cell] += all(sums[3]);
      }
    }
  });
  fillCloth(weights);
  const float near = static_cast<float>(recipe_.near), soft = static_cast<float>(std::max(recipe_.soft, 1e-3));
  std::vector<std::array<float, 1>> whole;
  for (const Rgb& one : cloth_) whole.push_back({dot(one, along_)});
  parallelRows(size_.height, 16, [&](int from, int to) {
    std::vector<float> cloth;
    for (int y = from; y < to; ++y) {
      clothRow(whole, y, 0, size_.width, cloth);
      const auto at = static_cast<std::ptrdiff_t>(y) * size_.width;
      const float* const k = cloth.data();
      float* const out = matte_.data() + at;
      for (int x = 0; x < size_.width; ++x) {
        const float q = out[x] / std::max(k[x], 1e-6f);
        out[x] = std::min(std::max((1 - near - q) / soft, 0.0f), 1.0f);
      }
    }
  });
}

/// Cells in which nothing is surely of the key's colour take it from those around, farther and farther off.
void PictureKey::fillCloth(std::vector<float>& weights) {
  struct Level {
    int across, down;
    std::vector<Rgb> values;
    std::vector<float> known;
  };
  const float enough = knownPart * static_cast<float>(cell_ * cell_ / 2);
  Level level{across_, down_, cloth_, weights};
  for (std::size_t i = 0; i < level.values.size(); ++i) {
    const bool has = weights[i] >= enough;
    for (float& v : level.values[i]) v = has ? v / weights[i] : 0;
    level.known[i] = has ? 1.0f : 0.0f;
  }
  std::vector<Level> levels{std::move(level)};
  while (levels.back().across > 1 || levels.back().down > 1) {
    const Level& fine = levels.back();
    Level coarse{(fine.across + 1) / 2, (fine.down + 1) / 2, {}, {}};
    for (int y = 0; y < coarse.down; ++y)
      for (int x = 0; x < coarse.across; ++x) {
        Rgb sum{};
        float count = 0;
        for (int dy = 0; dy < 2 && 2 * y + dy < fine.down; ++dy)
          for (int dx = 0; dx < 2 && 2 * x + dx < fine.across; ++dx) {
            const auto i = static_cast<std::size_t>((2 * y + dy) * fine.across + 2 * x + dx);
            for (std::size_t c = 0; c < 3; ++c) sum[c] += fine.values[i][c] * fine.known[i];
            count += fine.known[i];
          }
        for (float& v : sum) v = count > 0 ? v / count : 0;
        coarse.values.push_back(sum);
        coarse.known.push_back(count > 0 ? 1.0f : 0.0f);
      }
    levels.push_back(std::move(coarse));
  }
  if (levels.back().known[0] == 0) levels.back().values[0] = colour_;
  for (std::size_t k = levels.size() - 1; k-- > 0;) {
    Level& fine = levels[k];
    const Level& coarse = levels[k + 1];
    for (int y = 0; y < fine.down; ++y)
      for (int x = 0; x < fine.across; ++x) {
        const auto i = static_cast<std::size_t>(y * fine.across + x);
        if (fine.known[i] == 0) fine.values[i] = coarse.values[static_cast<std::size_t>(y / 2 * coarse.across + x / 2)];
      }
  }
  // Softened once, so that noise and the steps of what was filled in do not show.
  const std::vector<Rgb>& from = levels.front().values;
  for (int y = 0; y < down_; ++y)
    for (int x = 0; x < across_; ++x) {
      Rgb sum{};
      float count = 0;
      for (int dy = -1; dy <= 1; ++dy)
        for (int dx = -1; dx <= 1; ++dx) {
          if (y + dy < 0 || y + dy >= down_ || x + dx < 0 || x + dx >= across_) continue;
          const float w = static_cast<float>((2 - std::abs(dx)) * (2 - std::abs(dy)));
          const Rgb& one = from[static_cast<std::size_t>((y + dy) * across_ + x + dx)];
          for (std::size_t c = 0; c < 3; ++c) sum[c] += w * one[c];
          count += w;
        }
      for (std::size_t c = 0; c < 3; ++c) cloth_[static_cast<std::size_t>(y * across_ + x)][c] = sum[c] / count;
    }
}

/// Straight between the middles of cells.
template <std::size_t count>
void PictureKey::clothRow(const std::vector<std::array<float, count>>& cells, int y, int left, int width,
                          std::vector<float>& row) const {
  row.resize(count * static_cast<std::size_t>(width));
  const auto place = [&](int pixel) { return (static_cast<float>(pixel) + 0.5f) / static_cast<float>(cell_) - 0.5f; };
  const float v = std::clamp(place(std::clamp(y, 0, size_.height - 1)), 0.0f, static_cast<float>(down_ - 1));
  const int top = std::min(static_cast<int>(v), std::max(0, down_ - 2)), below = std::min(top + 1, down_ - 1);
  const float down = v - static_cast<float>(top);
  const auto valueAt = [&](int i, std::size_t c) {
    const auto column = static_cast<std::size_t>(std::clamp(i, 0, across_ - 1)), wide = static_cast<std::size_t>(across_);
    const float a = cells[static_cast<std::size_t>(top) * wide + column][c], b = cells[static_cast<std::size_t>(below) * wide + column][c];
    return a + (b - a) * down;
  };
  // From the middle of one cell to that of the next at a time; before the first and after the last it goes on level.
  for (int x = 0; x < width;) {
    const int i = static_cast<int>(std::floor(place(left + x)));
    const int end = std::clamp((i + 1) * cell_ + cell_ / 2 - left, x + 1, width);
    const float first = place(left + x) - static_cast<float>(i), step = 1 / static_cast<float>(cell_);
    for (std::size_t c = 0; c < count; ++c) {
      const float a = valueAt(i, c), rise = valueAt(i + 1, c) - a;
      float* const out = row.data() + c * static_cast<std::size_t>(width) + x;
      for (int k = 0; k < end - x; ++k) out[k] = a + rise * (first + step * static_cast<float>(k));
    }
    x = end;
  }
}

void PictureKey::findThere() {
  std::vector<PixelBox> rows(static_cast<std::size_t>(size_.height));
  parallelRows(size_.height, 32, [&](int from, int to) {
    for (int y = from; y < to; ++y) {
      const float* const row = matte_.data() + static_cast<std::ptrdiff_t>(y) * size_.width;
      int left = 0, right = size_.width;
      while (left < right && row[left] <= 0) ++left;
      while (right > left && row[right - 1] <= 0) --right;
      rows[static_cast<std::size_t>(y)] = {left, y, right, right > left ? y + 1 : y};
    }
  });
  there_ = {size_.width, size_.height, 0, 0};
  for (const PixelBox& row : rows)
    if (row.right > row.left)
      there_ = {std::min(there_.left, row.left), std::min(there_.top, row.top), std::max(there_.right, row.right), std::max(there_.bottom, row.bottom)};
  if (there_.right <= there_.left) there_ = {};
}

bool PictureKey::nothingIn(const PixelBox& box) const {
  const int left = std::max(0, box.left - WorkingTile::margin), right = std::min(size_.width, box.right + WorkingTile::margin);
  if (right <= there_.left || left >= there_.right) return true;
  for (int y = std::max(there_.top, box.top - WorkingTile::margin); y < std::min(there_.bottom, box.bottom + WorkingTile::margin); ++y) {
    const float* const row = matte_.data() + static_cast<std::ptrdiff_t>(y) * size_.width;
    float most = 0;
    for (int x = left; x < right; ++x) most = std::max(most, row[x]);
    if (most > 0) return false;
  }
  return true;
}

void PictureKey::tidy(int scale) {
  if (recipe_.holes <= 0 && recipe_.edgesIn == 0) return;
  keepOpenCvOnOneThread();
  cv::Mat matte(size_.height, size_.width, CV_32F, matte_.data());
  if (const double radius = recipe_.holes / 2 / scale; radius > 0) {
    spread(matte, radius, false);
    spread(matte, radius, true);
  }
  if (recipe_.edgesIn != 0) spread(matte, std::abs(recipe_.edgesIn) / scale, recipe_.edgesIn > 0);
}

void PictureKey::apply(WorkingTile& tile) const {
  const int left = tile.box.left - WorkingTile::margin, top = tile.box.top - WorkingTile::margin, width = tile.width;
  const float spill = static_cast<float>(recipe_.spill);
  const Rgb u = along_;
  std::vector<float> cloth, there(static_cast<std::size_t>(width));
  for (int y = 0; y < tile.height; ++y) {
    const int at = std::clamp(top + y, 0, size_.height - 1);
    const float* const matte = matte_.data() + static_cast<std::ptrdiff_t>(at) * size_.width;
    for (int x = 0; x < width; ++x) there[static_cast<std::size_t>(x)] = matte[std::clamp(left + x, 0, size_.width - 1)];
    float *const r = tile.row(0, y), *const g = tile.row(1, y), *const b = tile.row(2, y), *const a = tile.row(3, y);
    const float* const m = there.data();
    for (int x = 0; x < width; ++x) a[x] *= m[x];
    if (recipe_.byBrightness) continue;
    clothRow(cloth_, at, left, width, cloth);
    const float *const kr = cloth.data(), *const kg = kr + width, *const kb = kg + width;
    for (int x = 0; x < width; ++x) {
      const float gone = 1 - m[x], by = 1 / std::max(m[x], 1e-3f);
      const float red = (r[x] - gone * kr[x]) * by, green = (g[x] - gone * kg[x]) * by, blue = (b[x] - gone * kb[x]) * by;
      const float own = std::max(red * u[0] + green * u[1] + blue * u[2], 0.0f) * spill;
      r[x] = std::max(red - own * u[0], 0.0f);
      g[x] = std::max(green - own * u[1], 0.0f);
      b[x] = std::max(blue - own * u[2], 0.0f);
    }
  }
}

}  // namespace molten
