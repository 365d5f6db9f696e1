#include "core/picture/lay.h"

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/parallel.h"
#include "core/picture/primaries.h"
#include "core/picture/resample.h"

namespace molten {
namespace {

/// What is laid is made so much farther than it is seen, so that no filter meets an end.
constexpr int slack = 8;
constexpr float figureGround = 0.4f;

PictureShape floatingRgb(const PictureShape& of, Size size) {
  PictureShape shape = of;
  shape.format = {ColourModel::Rgb, 32, 0, 0, true, true};
  shape.colour.range = AVCOL_RANGE_JPEG;
  shape.size = size;
  return shape;
}

/// The same way between pictures that are so many times smaller.
Affine smaller(const Affine& way, double scale) {
  return {way.xx, way.xy, way.x0 / scale, way.yx, way.yy, way.y0 / scale};
}

bool isNothing(const Affine& way) {
  constexpr double unseen = 1e-9;
  return std::abs(way.xx - 1) < unseen && std::abs(way.yy - 1) < unseen && std::abs(way.xy) < unseen &&
         std::abs(way.yx) < unseen && std::abs(way.x0) < 1e-6 && std::abs(way.y0) < 1e-6;
}

/// A copy that may be written to.
Picture copied(const Picture& picture) {
  Picture out(picture.shape());
  for (int p = 0; p < picture.format().planes(); ++p)
    parallelRows(picture.planeHeight(p), 64, [&](int from, int to) {
      for (int y = from; y < to; ++y) std::memcpy(out.writableRow(p, y), picture.row(p, y), picture.rowBytes(p));
    });
  return out;
}

/// Every so many pixels each way made one, their mean by how much of each is there. Powers of two, at most those of a tile.
constexpr int mostAcross = 256, mostDown = 64;
Picture shrunk(const Picture& picture, int across, int down) {
  const Size size = picture.shape().size;
  const PictureShape shape = floatingRgb(picture.shape(), {(size.width + across - 1) / across, (size.height + down - 1) / down});
  Picture out(shape);
  const WorkingFormat takes(picture.shape(), Light::Display);
  overTiles(
      size,
      [&](const PixelBox& box, WorkingTile& tile) {
        takes.take(picture, box, tile);
        for (int top = box.top; top < box.bottom; top += down)
          for (int left = box.left; left < box.right; left += across) {
            float sum[4] = {};
            const int right = std::min(left + across, box.right), bottom = std::min(top + down, box.bottom);
            for (int y = top; y < bottom; ++y)
              for (int x = left; x < right; ++x) {
                const auto value = [&](int c) { return tile.row(c, y - box.top + WorkingTile::margin)[x - box.left + WorkingTile::margin]; };
                for (int c = 0; c < 3; ++c) sum[c] += value(c) * value(3);
                sum[3] += value(3);
              }
            constexpr int planes[] = {2, 0, 1, 3};
            for (int c = 0; c < 4; ++c)
              reinterpret_cast<float*>(out.writableRow(planes[c], top / down))[left / across] =
                  c == 3 ? sum[3] / static_cast<float>((right - left) * (bottom - top)) : sum[3] > 0 ? sum[c] / sum[3] : 0;
          }
      },
      {mostAcross, mostDown});
  return out;
}

/// The greatest power of two that leaves a step of two pixels or more.
int halvesOf(double step, int most) {
  int by = 1;
  while (by < most && step / (2 * by) >= 2) by *= 2;
  return by;
}

class Layer {
 public:
  Layer(const Picture& under, const Picture& over, const Laying& laying, int scale, const PictureShape& to)
      : laying_(laying),
        scale_(scale),
        size_(under.shape().size),
        way_(smaller(laying.way, scale)),
        out_(to),
        takes_(under.shape(), laying.light),
        gives_(to, laying.light),
        under_(under) {
    if (laying.key) key_.emplace(over, *laying.key, scale);
    region_ = laying.view == LaidView::Result ? seen() : PixelBox{0, 0, size_.width, size_.height};
    if (region_.right <= region_.left || region_.bottom <= region_.top) return;
    const Light mixed = laying.light;
    if (isNothing(way_) && over.shape().size == size_) {
      over_ = over;
    } else {
      const PixelBox needed = laying.view == LaidView::Result ? region_ : seen();
      PixelBox part{};
      Picture whole = key_ ? keyed(over, part) : over;
      key_.reset();
      left_ = needed.left, top_ = needed.top;
      if (needed.right <= needed.left || needed.bottom <= needed.top) return;
      Affine from = way_;
      from.x0 = way_.x(left_, top_) - part.left, from.y0 = way_.y(left_, top_) - part.top;
      // Much smaller than it is, it is brought near to that first: a filter would reach over all of it.
      for (;;) {
        const int across = halvesOf(std::hypot(from.xx, from.xy), mostAcross), down = halvesOf(std::hypot(from.yx, from.yy), mostDown);
        if (across == 1 && down == 1) break;
        whole = shrunk(whole, across, down);
        from.xx /= across, from.xy /= across, from.x0 /= across;
        from.yx /= down, from.yy /= down, from.y0 /= down;
      }
      over_ = resampled(whole, {&from, 1}, Beyond::StandStill,
                        floatingRgb(over.shape(), {needed.right - needed.left, needed.bottom - needed.top}));
    }
    // Other curves and other primaries meet in linear light.
    const ColourTags &own = over_.shape().colour, &lower = under.shape().colour;
    primaries_ = betweenPrimaries(own.primaries, lower.primaries);
    if (own.transfer != lower.transfer || primaries_) overLinear_.emplace(over_.shape(), Light::Linear);
    taken_ = key_ ? key_->light() : overLinear_ ? Light::Linear : mixed;
    overTakes_.emplace(over_.shape(), taken_);
  }

  Picture laid() {
    Picture out = under_.shape() == out_ ? copied(under_) : narrowed(under_, out_);
    if (region_.right <= region_.left || region_.bottom <= region_.top) return out;
    const Size size{region_.right - region_.left, region_.bottom - region_.top};
    overTiles(size, [&](const PixelBox& inner, WorkingTile& tile) {
      thread_local WorkingTile over;
      thread_local std::vector<float> weights;
      const PixelBox box{inner.left + region_.left, inner.top + region_.top, inner.right + region_.left, inner.bottom + region_.top};
      const bool nothing = laying_.view == LaidView::Result && key_ && key_->nothingIn(box);
      if (nothing) return;
      over.lay(box);
      weights.resize(over.channels[3].size());
      if (over_) {
        takeOver(box, over);
        if (!weigh(box, over, weights) && laying_.view == LaidView::Result) return;
      } else {
        std::fill(weights.begin(), weights.end(), 0.0f);
      }
      takes_.take(under_, box, tile);
      show(tile, over, weights);
      gives_.toOneValue(tile);
      gives_.give(tile, out);
    });
    return out;
  }

 private:
  /// The box of what is seen of the upper picture, in the lower one's pixels; sides at multiples of four, or its edges.
  PixelBox seen() const {
    constexpr double farthest = 1e6;
    if (std::abs(way_.determinant()) < 1e-12) return {};
    const Affine back = way_.inverse();
    // As far as a filter carries what is there.
    const double reach = 4 * std::max(1.0, std::sqrt(std::abs(way_.determinant())));
    const double x[] = {std::max(laying_.left / scale_, key_ ? key_->there().left - reach : -1e9), std::min(laying_.right / scale_, key_ ? key_->there().right + reach : 1e9)};
    const double y[] = {std::max(laying_.top / scale_, key_ ? key_->there().top - reach : -1e9), std::min(laying_.bottom / scale_, key_ ? key_->there().bottom + reach : 1e9)};
    if (x[1] <= x[0] || y[1] <= y[0] || (key_ && key_->there().right <= key_->there().left)) return {};
    double low[2] = {1e300, 1e300}, high[2] = {-1e300, -1e300};
    for (const double u : x)
      for (const double v : y) {
        const double at[2] = {back.x(u, v), back.y(u, v)};
        for (int i = 0; i < 2; ++i) low[i] = std::min(low[i], at[i]), high[i] = std::max(high[i], at[i]);
      }
    const auto down = [&](double v) { return static_cast<int>(std::floor(std::clamp(v, -farthest, farthest) - slack)) & ~3; };
    const auto up = [&](double v) { return (static_cast<int>(std::ceil(std::clamp(v, -farthest, farthest) + slack)) + 3) & ~3; };
    return {std::clamp(down(low[0]), 0, size_.width), std::clamp(down(low[1]), 0, size_.height),
            std::clamp(up(high[0]), 0, size_.width), std::clamp(up(high[1]), 0, size_.height)};
  }

  /// As much of the upper picture as is there after the key, and a little around it that is clear; `from`: where it lies.
  Picture keyed(const Picture& over, PixelBox& from) const {
    const PixelBox there = key_->there();
    const Size size = over.shape().size;
    from = {std::max(0, (there.left - slack) & ~3), std::max(0, (there.top - slack) & ~3),
            std::min(size.width, (there.right + slack + 3) & ~3), std::min(size.height, (there.bottom + slack + 3) & ~3)};
    const PictureShape shape = floatingRgb(over.shape(), {from.right - from.left, from.bottom - from.top});
    Picture out(shape);
    const WorkingFormat takes(over.shape(), key_->light()), gives(shape, key_->light());
    overTiles(shape.size, [&](const PixelBox& box, WorkingTile& tile) {
      const PixelBox own{box.left + from.left, box.top + from.top, box.right + from.left, box.bottom + from.top};
      if (key_->nothingIn(own)) {
        tile.lay(box);
        for (auto& channel : tile.channels) std::fill(channel.begin(), channel.end(), 0.0f);
      } else {
        takes.take(over, own, tile);
        key_->apply(tile);
        tile.box = box;
      }
      gives.give(tile, out);
    });
    return out;
  }

  /// In the light in which both are mixed, with the lower picture's curve; of what lies outside of it, its edge.
  void takeOver(const PixelBox& box, WorkingTile& tile) const {
    const Size size = over_.shape().size;
    PixelBox own{box.left - left_, box.top - top_, box.right - left_, box.bottom - top_};
    const PixelBox within{std::clamp(own.left, 0, size.width), std::clamp(own.top, 0, size.height),
                          std::clamp(own.right, 0, size.width), std::clamp(own.bottom, 0, size.height)};
    if (within.left >= within.right || within.top >= within.bottom) {
      tile.lay(own);
      for (auto& channel : tile.channels) std::fill(channel.begin(), channel.end(), 0.0f);
      return;
    }
    if (own.left == within.left && own.top == within.top && own.right == within.right && own.bottom == within.bottom) {
      overTakes_->take(over_, own, tile);
      if (key_) key_->apply(tile);
    } else {
      thread_local WorkingTile part;
      overTakes_->take(over_, within, part);
      tile.lay(own);
      for (int c = 0; c < 4; ++c)
        for (int y = 0; y < tile.height; ++y)
          for (int x = 0; x < tile.width; ++x)
            tile.row(c, y)[x] = part.row(c, std::clamp(y + own.top - within.top, 0, part.height - 1))[std::clamp(x + own.left - within.left, 0, part.width - 1)];
    }
    match(tile);
  }
  /// From the light in which it was taken.
  void match(WorkingTile& tile) const {
    if (overLinear_ && taken_ == Light::Display) overLinear_->fromDisplay(tile);
    if (primaries_) apply(*primaries_, tile);
    const Light is = overLinear_ ? Light::Linear : taken_, mixed = laying_.light;
    if (is == Light::Linear && mixed == Light::Display) WorkingFormat(under_.shape(), Light::Linear).toDisplay(tile);
    if (is == Light::Display && mixed == Light::Linear) gives_.fromDisplay(tile);
  }

  /// How much of the upper picture is seen at each pixel of a tile; false: nothing anywhere.
  bool weigh(const PixelBox& box, const WorkingTile& over, std::vector<float>& weights) const {
    const int width = over.width;
    const auto inside = [](float d) { return std::min(std::max(d + 0.5f, 0.0f), 1.0f); };
    const auto xOf = [&](int x) { return std::clamp(box.left - WorkingTile::margin + x, 0, size_.width - 1) + 0.5; };
    const float left = static_cast<float>(laying_.left / scale_), right = static_cast<float>(laying_.right / scale_);
    const float top = static_cast<float>(laying_.top / scale_), bottom = static_cast<float>(laying_.bottom / scale_);
    const auto across = static_cast<float>(1 / std::max(1e-9, std::hypot(way_.xx, way_.xy)));
    const auto down = static_cast<float>(1 / std::max(1e-9, std::hypot(way_.yx, way_.yy)));
    std::vector<float> columns(static_cast<std::size_t>(width));
    const auto cover = [&](float place, float first, float last, float by) { return inside((place - first) * by) * inside((last - place) * by); };
    const bool upright = way_.upright();
    for (int x = 0; upright && x < width; ++x) columns[static_cast<std::size_t>(x)] = cover(static_cast<float>(way_.x(xOf(x), 0)), left, right, across);
    float most = 0;
    for (int y = 0; y < over.height; ++y) {
      const double py = std::clamp(box.top - WorkingTile::margin + y, 0, size_.height - 1) + 0.5;
      const float* const alpha = over.row(3, y);
      float* const row = weights.data() + static_cast<std::ptrdiff_t>(y) * width;
      if (upright) {
        const float tall = cover(static_cast<float>(way_.y(0, py)), top, bottom, down) * laying_.opacity;
        const float* const wide = columns.data();
        for (int x = 0; x < width; ++x) row[x] = std::min(std::max(alpha[x], 0.0f), 1.0f) * wide[x] * tall;
      } else {
        for (int x = 0; x < width; ++x) {
          const double px = xOf(x);
          row[x] = std::min(std::max(alpha[x], 0.0f), 1.0f) * cover(static_cast<float>(way_.x(px, py)), left, right, across) *
                   cover(static_cast<float>(way_.y(px, py)), top, bottom, down) * laying_.opacity;
        }
      }
      if (laying_.leftOut.samples) leaveOut(laying_.leftOut, box, width, py, row);
      for (int x = 0; x < width; ++x) most = std::max(most, row[x]);
    }
    return most > 0;
  }
  void leaveOut(const LaidMask& painted, const PixelBox& box, int width, double py, float* row) const {
    const auto place = [](double at, int count) { return std::clamp(at * count - 0.5, 0.0, static_cast<double>(count - 1)); };
    const double v = place(py / size_.height, painted.size.height);
    const int top = static_cast<int>(v), below = std::min(top + 1, painted.size.height - 1);
    const auto down = static_cast<float>(v - top);
    for (int x = 0; x < width; ++x) {
      const double px = std::clamp(box.left - WorkingTile::margin + x, 0, size_.width - 1) + 0.5;
      const double u = place(px / size_.width, painted.size.width);
      const int left = static_cast<int>(u), next = std::min(left + 1, painted.size.width - 1);
      const auto part = static_cast<float>(u - left);
      const auto at = [&](int i, int j) { return (*painted.samples)[static_cast<std::size_t>(j * painted.size.width + i)]; };
      const float high = at(left, top) + (at(next, top) - at(left, top)) * part;
      const float low = at(left, below) + (at(next, below) - at(left, below)) * part;
      row[x] *= 1 - std::clamp(high + (low - high) * down, 0.0f, 1.0f);
    }
  }

  void show(WorkingTile& tile, const WorkingTile& over, const std::vector<float>& weights) const {
    const std::size_t count = weights.size();
    float* const alpha = tile.channels[3].data();
    if (laying_.view != LaidView::Result) {
      for (std::size_t c = 0; c < 3; ++c)
        for (std::size_t i = 0; i < count; ++i) {
          const float w = weights[i];
          tile.channels[c][i] = laying_.view == LaidView::Matte ? w : over_ ? figureGround * (1 - w) + w * over.channels[c][i] : figureGround;
        }
      std::fill(tile.channels[3].begin(), tile.channels[3].end(), 1.0f);
      return;
    }
    const bool clear = under_.format().alpha;
    for (std::size_t c = 0; c < 3; ++c) {
      float* const v = tile.channels[c].data();
      const float *const upper = over.channels[c].data(), *const w = weights.data();
      const auto blend = [&](auto mix) {
        if (!clear) {
          for (std::size_t i = 0; i < count; ++i) v[i] = w[i] > 0 ? mix(v[i], upper[i], w[i]) : v[i];
          return;
        }
        for (std::size_t i = 0; i < count; ++i) {
          const float all = alpha[i] + w[i] * (1 - alpha[i]);
          if (w[i] > 0 && all > 0)
            v[i] = (w[i] * (1 - alpha[i]) * upper[i] + alpha[i] * mix(v[i], upper[i], w[i])) / all;
        }
      };
      switch (laying_.blend) {
        case BlendMode::Sum:
          blend([](float a, float b, float k) { return a + k * b; });
          break;
        case BlendMode::BelowWhite:
          blend([](float a, float b, float k) { return 1 - (1 - a) * (1 - k * b); });
          break;
        case BlendMode::Brightest:
          blend([](float a, float b, float k) { return std::max(a, k * b); });
          break;
        case BlendMode::Darkest:
          blend([](float a, float b, float k) { return std::min(a, 1 - k * (1 - b)); });
          break;
        default:
          blend([](float a, float b, float k) { return (1 - k) * a + k * b; });
      }
    }
    if (clear)
      for (std::size_t i = 0; i < count; ++i) alpha[i] += weights[i] * (1 - alpha[i]);
  }

  const Laying& laying_;
  int scale_;
  Size size_;
  Affine way_;
  PictureShape out_;
  WorkingFormat takes_, gives_;
  Picture under_, over_;
  std::optional<PictureKey> key_;  ///< of what is not resampled
  Light taken_ = Light::Display;
  std::optional<WorkingFormat> overTakes_;
  std::optional<WorkingFormat> overLinear_;  ///< where its curve or its primaries are others
  std::optional<ColourMatrix> primaries_;
  PixelBox region_;
  int left_ = 0, top_ = 0;  ///< of over_ in the lower picture
};

}  // namespace

Picture laidOver(const Picture& under, const Picture& over, const Laying& laying, int scale, const PictureShape& to) {
  Layer layer(under, over, laying, scale, to);
  return layer.laid();
}

}  // namespace molten
