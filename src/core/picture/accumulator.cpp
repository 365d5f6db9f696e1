#include "core/picture/accumulator.h"

#include <algorithm>
#include <cmath>

#include "core/parallel.h"
#include "core/picture/sum_kernels.h"

namespace molten {
namespace {

constexpr int across = 512, down = 32;

bool addsUp(BlendMode blend) {
  return blend == BlendMode::Sum || blend == BlendMode::Mean;
}

bool laysOver(BlendMode blend) {
  return blend == BlendMode::Over || blend == BlendMode::Under;
}

}  // namespace

PictureShape wideShape(const PictureShape& shape) {
  PictureShape wide = shape;
  wide.format.bits = 32;
  wide.format.floating = true;
  return wide;
}

Picture narrowed(const Picture& wide, const PictureShape& to) {
  if (wide.shape() == to) return wide;
  Picture out(to);
  const WorkingFormat takes(wide.shape(), Light::Display), gives(to, Light::Display);
  overTiles(to.size, [&](const PixelBox& box, WorkingTile& tile) {
    takes.take(wide, box, tile);
    gives.give(tile, out);
  });
  return out;
}

namespace {

template <class Sample>
void medianRow(std::span<const Picture> pictures, int plane, int y, Picture& out) {
  std::vector<Sample> samples(pictures.size());
  std::vector<const Sample*> rows;
  for (const Picture& picture : pictures) rows.push_back(reinterpret_cast<const Sample*>(picture.row(plane, y)));
  auto* const row = reinterpret_cast<Sample*>(out.writableRow(plane, y));
  const auto middle = static_cast<std::ptrdiff_t>((samples.size() - 1) / 2);
  for (int x = 0; x < out.planeWidth(plane); ++x) {
    for (std::size_t k = 0; k < rows.size(); ++k) samples[k] = rows[k][x];
    std::nth_element(samples.begin(), samples.begin() + middle, samples.end());
    row[x] = samples[static_cast<std::size_t>(middle)];
  }
}

}  // namespace

Picture medianOf(std::span<const Picture> pictures) {
  Picture out(pictures[0].shape());
  const PictureFormat& format = out.format();
  for (int p = 0; p < format.planes(); ++p)
    parallelRows(out.planeHeight(p), 4, [&](int from, int to) {
      for (int y = from; y < to; ++y) {
        if (format.floating)
          medianRow<float>(pictures, p, y, out);
        else if (format.bytesPerSample() == 2)
          medianRow<std::uint16_t>(pictures, p, y, out);
        else
          medianRow<std::uint8_t>(pictures, p, y, out);
      }
    });
  return out;
}

double meanLuma(const Picture& picture) {
  const PictureShape& shape = picture.shape();
  const WorkingFormat format(shape, Light::Display);
  const bool rgb = shape.format.model == ColourModel::Rgb;
  const auto weights = format.lumaWeights();
  // In the planes' order: G B R.
  const double share[] = {rgb ? weights[1] : 1, weights[2], weights[0]};
  const int width = shape.size.width, height = shape.size.height;
  std::vector<double> rows(static_cast<std::size_t>(height));
  parallelRows(height, 16, [&](int from, int to) {
    for (int y = from; y < to; ++y)
      for (int p = 0; p < (rgb ? 3 : 1); ++p)
        rows[static_cast<std::size_t>(y)] += share[p] * sumOfRow(shape.format, picture.row(p, y), width);
  });
  double sum = 0;
  for (const double row : rows) sum += row;
  return format.lumaOf(sum / (static_cast<double>(width) * height));
}

Accumulator::Accumulator(const PictureShape& in, const PictureShape& out, const MixRecipe& recipe,
                         std::vector<float> weights)
    : in_(in),
      out_(out),
      recipe_(recipe),
      weights_(std::move(weights)),
      plain_(addsUp(recipe.blend) && in == out && !in.format.alpha &&
             (recipe.light == Light::Display || in.colour.transfer == AVCOL_TRC_LINEAR)),
      takes_(in, recipe.light),
      gives_(out, recipe.light),
      shows_(out, Light::Display),
      looks_(in, Light::Display),
      columns_((in.size.width + across - 1) / across),
      tileCount_(columns_ * ((in.size.height + down - 1) / down)),
      made_(out) {
  for (const float w : weights_) largest_ = std::max(largest_, w), all_ += w;
  if (recipe.brightnessOf) means_.resize(weights_.size());
  const bool wins = recipe.blend == BlendMode::Brightest || recipe.blend == BlendMode::Darkest;
  const bool display = recipe.light == Light::Display || in.colour.transfer == AVCOL_TRC_LINEAR;
  if (wins && display && !recipe.brightnessOf && largest_ > 0 && largest_ <= 1)
    short_ = ShortMix::of(in, recipe.blend == BlendMode::Brightest);
  if (!display && !recipe.brightnessOf) kept_ = KeptLight::of(in);
}

void Accumulator::keepTo(MovingParts moving) {
  moving_ = std::move(moving);
  plain_ = false;
  short_.reset();
  kept_.reset();
}

/// `shown`: the picture in display light.
void Accumulator::keepToMoving(WorkingTile& taken, const WorkingTile& present, const WorkingTile& background,
                               const WorkingTile& shown) const {
  const int width = taken.width, height = taken.height;
  std::vector<float> off(static_cast<std::size_t>(width) * static_cast<std::size_t>(height));
  for (std::size_t i = 0; i < off.size(); ++i)
    for (std::size_t c = 0; c < 3; ++c)
      off[i] = std::max(off[i], std::abs(shown.channels[c][i] - background.channels[c][i]));
  const bool adds = recipe_.blend == BlendMode::Sum || recipe_.blend == BlendMode::BelowWhite;
  const bool lays = laysOver(recipe_.blend);
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) {
      float sum = 0;
      for (int dy = -1; dy <= 1; ++dy)
        for (int dx = -1; dx <= 1; ++dx)
          sum += off[static_cast<std::size_t>(std::clamp(y + dy, 0, height - 1) * width +
                                              std::clamp(x + dx, 0, width - 1))];
      const float s = std::clamp(
          (sum / 9 - MovingParts::leastMotion) / (MovingParts::sureMotion - MovingParts::leastMotion), 0.0f, 1.0f);
      const float moves = s * s * (3 - 2 * s);
      if (lays) {
        taken.row(3, y)[x] *= moves;
        continue;
      }
      for (int c = 0; c < 3; ++c) {
        float& value = taken.row(c, y)[x];
        value = adds ? moves * value : present.row(c, y)[x] + moves * (value - present.row(c, y)[x]);
      }
    }
}

/// A weight as it counts in the sum.
float Accumulator::share(std::size_t k) const {
  if (recipe_.blend != BlendMode::Mean) return weights_[k];
  return all_ > 0 ? weights_[k] / all_ : 0;
}

void Accumulator::add(std::size_t first, std::span<const Picture> pictures) {
  if (plain_) return addPlain(first, pictures);
  if (recipe_.brightnessOf && first <= *recipe_.brightnessOf && *recipe_.brightnessOf < first + pictures.size())
    means_[0] = meanLuma(pictures[*recipe_.brightnessOf - first]);
  const bool atOnce = pictures.size() == weights_.size() && !recipe_.brightnessOf;
  if (!atOnce && tiles_.empty()) tiles_.resize(static_cast<std::size_t>(tileCount_));
  parallelRows(tileCount_, 1, [&](int from, int to) {
    thread_local Tile own;
    thread_local WorkingTile taken;
    for (int i = from; i < to; ++i) {
      Tile& tile = atOnce ? own : tiles_[static_cast<std::size_t>(i)];
      addTo(tile, i, first, pictures, taken);
      if (!atOnce) continue;
      straighten(tile);
      gives_.give(tile.mixed, made_);
    }
  });
  written_ = atOnce;
}

PixelBox Accumulator::box(int index) const {
  const int left = index % columns_ * across, top = index / columns_ * down;
  return {left, top, std::min(left + across, in_.size.width), std::min(top + down, in_.size.height)};
}

void Accumulator::begin(Tile& tile) const {
  const auto count = static_cast<std::size_t>(tile.mixed.width) * static_cast<std::size_t>(tile.mixed.height);
  float from = 0;
  if (recipe_.blend == BlendMode::Darkest && all_ > 0) from = 1e30f;
  if (recipe_.blend == BlendMode::Brightest && all_ > 0) from = -1e30f;
  for (auto& channel : tile.mixed.channels) channel.assign(count, from);
  tile.coverage.assign(in_.format.alpha || moving_ ? count : 1, 0);
}

/// Rows of a picture into those of a tile, from `row` on.
void Accumulator::mix(Tile& tile, int row, const WorkingTile& with, float weight, float whole, float* coverage) const {
  const float* const vs[] = {with.row(0, 0), with.row(1, 0), with.row(2, 0)};
  float* const mixed[] = {tile.mixed.row(0, row), tile.mixed.row(1, row), tile.mixed.row(2, row)};
  const bool opaque = tile.coverage.size() == 1;
  combineRow(recipe_.blend, vs, opaque ? nullptr : with.row(3, 0), weight, whole, mixed, coverage,
             static_cast<std::size_t>(with.width) * static_cast<std::size_t>(with.height));
}

/// A few rows of all pictures at once: what is mixed of them stays at hand.
void Accumulator::addTo(Tile& tile, int index, std::size_t first, std::span<const Picture> pictures,
                        WorkingTile& taken) const {
  if (moving_) return addMoving(tile, index, first, pictures, taken);
  if (first == 0) {
    tile.mixed.lay(box(index));
    short_ ? short_->begin(tile.mixed, tile.shorts) : begin(tile);
  }
  if (short_) {
    const std::span<const float> weights(weights_);
    short_->add(pictures, weights.subspan(first, pictures.size()), tile.mixed, tile.shorts);
    if (first + pictures.size() == weights_.size()) ShortMix::settle(tile.shorts, tile.mixed);
    return;
  }
  if (addKept(tile, first, pictures)) return;
  const bool opaque = tile.coverage.size() == 1;
  const float before = tile.coverage[0];
  for (int row = 0; row < tile.mixed.height; row += WorkingFormat::rowsAtOnce) {
    if (opaque) tile.coverage[0] = before;
    float* const coverage = tile.coverage.data() + (opaque ? 0 : static_cast<std::ptrdiff_t>(row) * tile.mixed.width);
    for (std::size_t k = 0; k < pictures.size(); ++k) {
      const float w = share(first + k);
      if (w <= 0) continue;
      kept_ ? kept_->takeRows(pictures[k], tile.mixed, row, taken) : takes_.takeRows(pictures[k], tile.mixed, row, taken);
      mix(tile, row, taken, w, w / std::max(largest_, 1e-30f), coverage);
    }
  }
}

/// Where all are kept in linear light, nothing but the mix is written.
bool Accumulator::addKept(Tile& tile, std::size_t first, std::span<const Picture> pictures) const {
  const auto isKept = [&](const Picture& picture) { return picture.shape() == kept_->shape(); };
  if (!kept_ || !std::all_of(pictures.begin(), pictures.end(), isKept)) return false;
  thread_local std::vector<const Picture*> kept;
  thread_local std::vector<float> weights;
  kept.clear(), weights.clear();
  float& coverage = tile.coverage[0];
  for (std::size_t k = 0; k < pictures.size(); ++k) {
    const float w = share(first + k);
    if (w <= 0) continue;
    kept.push_back(&pictures[k]);
    weights.push_back(recipe_.blend == BlendMode::Under ? (1 - coverage) * w : w);
    coverage += (1 - coverage) * w;
  }
  kept_->combine(recipe_.blend, kept, weights, tile.mixed);
  return true;
}

void Accumulator::addMoving(Tile& tile, int index, std::size_t first, std::span<const Picture> pictures,
                            WorkingTile& taken) const {
  thread_local WorkingTile present, background, shown;
  takes_.take(moving_->present, box(index), present);
  looks_.take(moving_->background, box(index), background);
  const auto mixAll = [&](const WorkingTile& with, float w, float whole) {
    mix(tile, 0, with, w, whole, tile.coverage.data());
  };
  for (std::size_t k = 0; k < pictures.size(); ++k) {
    const float w = share(first + k);
    const bool opening = first + k == 0;
    if (w <= 0 && !opening) continue;
    takes_.take(pictures[k], box(index), taken);
    if (opening) {
      tile.mixed.lay(box(index));
      begin(tile);
      if (recipe_.blend == BlendMode::Over) mixAll(present, 1, 1);
      if (w <= 0) continue;
    }
    if (first + k != moving_->presentAt || laysOver(recipe_.blend)) {
      looks_.take(pictures[k], box(index), shown);
      keepToMoving(taken, present, background, shown);
    }
    mixAll(taken, w, w / std::max(largest_, 1e-30f));
  }
  if (recipe_.blend == BlendMode::Under && first + pictures.size() == weights_.size()) mixAll(present, 1, 1);
}

/// Colours are not multiplied by alpha in what is given back.
void Accumulator::straighten(Tile& tile) const {
  if (!out_.format.alpha || short_) return;
  const std::size_t count = tile.coverage.size();
  tile.mixed.channels[3] = tile.coverage;
  for (std::size_t c = 0; c < 3; ++c)
    for (std::size_t i = 0; i < count; ++i)
      tile.mixed.channels[c][i] = tile.coverage[i] > 1e-6f ? tile.mixed.channels[c][i] / tile.coverage[i] : 0;
}

Picture Accumulator::finish() {
  if (plain_) {
    finishPlain();
    return std::move(made_);
  }
  if (written_) return std::move(made_);
  const auto weights = gives_.lumaWeights();
  // In display light a factor means the same to the eye everywhere.
  parallelRows(tileCount_, 1, [&](int from, int to) {
    for (int i = from; i < to; ++i) {
      Tile& tile = tiles_[static_cast<std::size_t>(i)];
      gives_.toDisplay(tile.mixed);
      const PixelBox& at = tile.mixed.box;
      tile.luma = 0;
      for (int y = 0; y < at.bottom - at.top; ++y)
        for (int x = 0; x < at.right - at.left; ++x) {
          constexpr int margin = WorkingTile::margin;
          for (int c = 0; c < 3; ++c)
            tile.luma +=
                weights[static_cast<std::size_t>(c)] * static_cast<double>(tile.mixed.row(c, y + margin)[x + margin]);
        }
    }
  });
  float gain = 1;
  if (recipe_.brightnessOf) {
    double sum = 0;
    for (const Tile& tile : tiles_) sum += tile.luma;
    const double mean = sum / (static_cast<double>(in_.size.width) * in_.size.height);
    if (mean > 1e-6) gain = static_cast<float>(std::max(0.0, means_[0]) / mean);
  }
  parallelRows(tileCount_, 1, [&](int from, int to) {
    for (int i = from; i < to; ++i) {
      Tile& tile = tiles_[static_cast<std::size_t>(i)];
      for (std::size_t c = 0; c < 3 && gain != 1; ++c)
        for (float& value : tile.mixed.channels[c]) value *= gain;
      straighten(tile);
      shows_.give(tile.mixed, made_);
    }
  });
  return std::move(made_);
}

void Accumulator::addPlain(std::size_t first, std::span<const Picture> pictures) {
  const PictureFormat& format = in_.format;
  if (recipe_.brightnessOf)
    for (std::size_t k = 0; k < pictures.size(); ++k) means_[first + k] = meanLuma(pictures[k]);
  const bool atOnce = pictures.size() == weights_.size();
  if (!atOnce && sums_.empty())
    for (int p = 0; p < format.planes(); ++p)
      sums_.emplace_back(static_cast<std::size_t>(made_.planeWidth(p)) *
                         static_cast<std::size_t>(made_.planeHeight(p)));
  std::vector<float> shares;
  for (std::size_t k = 0; k < pictures.size(); ++k) shares.push_back(share(first + k));
  const float gain = atOnce ? plainGain() : 1;
  for (int p = 0; p < format.planes(); ++p) {
    const int width = made_.planeWidth(p);
    const auto black = format.floating ? 0.0f : static_cast<float>(blackSample(in_, p));
    parallelRows(made_.planeHeight(p), 8, [&](int from, int to) {
      std::vector<const std::uint8_t*> rows(pictures.size());
      thread_local std::vector<float> own;
      own.resize(static_cast<std::size_t>(width));
      for (int y = from; y < to; ++y) {
        for (std::size_t k = 0; k < pictures.size(); ++k) rows[k] = pictures[k].row(p, y);
        float* const sums =
            atOnce ? own.data() : sums_[static_cast<std::size_t>(p)].data() + static_cast<std::ptrdiff_t>(y) * width;
        if (atOnce) std::fill_n(sums, width, 0.0f);
        addWeighted(format, rows, shares, black, width, sums);
        if (atOnce) putSums(format, sums, gain, black, width, made_.writableRow(p, y));
      }
    });
  }
  written_ = atOnce;
}

/// What brings the sum's brightness to that of the picture that it is to have.
float Accumulator::plainGain() const {
  if (!recipe_.brightnessOf) return 1;
  double mean = 0;
  for (std::size_t k = 0; k < means_.size(); ++k) mean += static_cast<double>(share(k)) * means_[k];
  return mean > 1e-6 ? static_cast<float>(std::max(0.0, means_[*recipe_.brightnessOf]) / mean) : 1.0f;
}

void Accumulator::finishPlain() {
  if (written_) return;
  const PictureFormat& format = in_.format;
  const float gain = plainGain();
  for (int p = 0; p < format.planes(); ++p) {
    const int width = made_.planeWidth(p);
    const auto black = format.floating ? 0.0f : static_cast<float>(blackSample(in_, p));
    parallelRows(made_.planeHeight(p), 8, [&](int from, int to) {
      for (int y = from; y < to; ++y)
        putSums(format, sums_[static_cast<std::size_t>(p)].data() + static_cast<std::ptrdiff_t>(y) * width, gain, black,
                width, made_.writableRow(p, y));
    });
  }
}

}  // namespace molten
