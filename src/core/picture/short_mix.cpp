#include "core/picture/short_mix.h"

#include <algorithm>
#include <cmath>
#include <cstring>

namespace molten {

/// Memory of a thread's, for a row.
struct ShortMix::Rows {
  std::vector<std::uint8_t> luma, near, far;
  std::vector<std::int16_t> sites, cb, cr;
  ShortMix::Tile mixed;
};

std::optional<ShortMix> ShortMix::of(const PictureShape& shape, bool brightest) {
  const PictureFormat& format = shape.format;
  if (format.model != ColourModel::Yuv || format.floating || format.bits != 8 || format.alpha) return std::nullopt;
  const auto video = WorkingFormat(shape, Light::Display).videoScales();
  const auto known = {ChromaSite::Own, ChromaSite::First, ChromaSite::Between};
  if (std::find(known.begin(), known.end(), video.across) == known.end() || format.shiftY > 1) return std::nullopt;
  ShortMix mix;
  mix.brightest_ = brightest;
  mix.shiftX_ = format.shiftX, mix.shiftY_ = format.shiftY;
  mix.across_ = video.across, mix.down_ = video.down;
  const double green = 1 - video.red - video.blue, luma = static_cast<double>(video.luma.span) * 128,
               chroma = static_cast<double>(video.chroma.span) * 256;
  const auto share = [](double of, double step) {
    return static_cast<std::int16_t>(std::lround(of * shortOne * 65536 / step));
  };
  mix.matrix_ = {static_cast<std::int16_t>(video.luma.low),
                 share(1, luma),
                 share(2 * (1 - video.red), chroma),
                 share(2 * (1 - video.red) * video.red / green, chroma),
                 share(2 * (1 - video.blue) * video.blue / green, chroma),
                 share(2 * (1 - video.blue), chroma)};
  return mix;
}

void ShortMix::begin(const WorkingTile& laid, Tile& tile) const {
  const auto count = static_cast<std::size_t>(laid.width) * static_cast<std::size_t>(laid.height);
  const auto from = static_cast<std::int16_t>(brightest_ ? -32768 : 32767);
  for (auto& channel : tile) channel.assign(count, from);
}

namespace {

/// `count` samples of a row from `first` on, beyond the picture its edge; where they lie, or in `memory`.
const std::uint8_t* samplesOf(const Picture& picture, int plane, int y, int first, int count,
                              std::vector<std::uint8_t>& memory) {
  const int width = picture.planeWidth(plane);
  const std::uint8_t* const row = picture.row(plane, std::clamp(y, 0, picture.planeHeight(plane) - 1));
  if (first >= 0 && first + count + shortSpare <= width) return row + first;
  memory.resize(static_cast<std::size_t>(count) + shortSpare);
  const int begin = std::clamp(first, 0, width - 1), end = std::clamp(first + count, begin + 1, width);
  const auto before = static_cast<std::size_t>(std::clamp(begin - first, 0, count)),
             some = std::min(static_cast<std::size_t>(end - begin), static_cast<std::size_t>(count) - before);
  std::memset(memory.data(), row[begin], before);
  std::memcpy(memory.data() + before, row + begin, some);
  std::memset(memory.data() + before + some, row[end - 1], static_cast<std::size_t>(count) - before - some);
  return memory.data();
}

}  // namespace

void ShortMix::takeChroma(const Picture& picture, int plane, int y, const WorkingTile& laid, Rows& rows,
                          std::int16_t* out) const {
  // One site more on each side.
  const int first = ((laid.box.left - WorkingTile::margin) >> shiftX_) - 1, count = (laid.width >> shiftX_) + 2;
  const OtherRow other = otherRow(down_, y);
  const int line = y >> shiftY_;
  const std::uint8_t* const near = samplesOf(picture, plane, line, first, count, rows.near);
  const std::uint8_t* const far = other.step == 0 ? near : samplesOf(picture, plane, line + other.step, first, count, rows.far);
  rows.sites.resize(static_cast<std::size_t>(count) + 2 * shortSpare);
  blendShort(near, far, static_cast<int>(4 * other.share), count, rows.sites.data());
  const std::int16_t* const sites = rows.sites.data() + 1;
  if (across_ == ChromaSite::First)
    spreadShortFirst(sites, laid.width, out);
  else if (across_ == ChromaSite::Between)
    spreadShortBetween(sites, laid.width, out);
  else
    std::copy_n(sites, laid.width, out);
}

void ShortMix::add(std::span<const Picture> pictures, std::span<const float> weights, const WorkingTile& laid,
                   Tile& tile) const {
  thread_local Rows rows;
  const std::size_t room = static_cast<std::size_t>(laid.width) + 2 * shortSpare;
  rows.cb.resize(room), rows.cr.resize(room);
  for (auto& channel : rows.mixed) channel.resize(room);
  for (int r = 0; r < laid.height; ++r) {
    const int y = laid.box.top - WorkingTile::margin + r;
    // A row of its own: kernels write past its end.
    std::int16_t* const mixed[] = {rows.mixed[0].data(), rows.mixed[1].data(), rows.mixed[2].data()};
    const auto rowOf = [&](std::size_t c) { return tile[c].data() + static_cast<std::ptrdiff_t>(r) * laid.width; };
    for (std::size_t c = 0; c < 3; ++c) std::copy_n(rowOf(c), laid.width, mixed[c]);
    for (std::size_t k = 0; k < pictures.size(); ++k) {
      if (weights[k] <= 0) continue;
      takeChroma(pictures[k], 1, y, laid, rows, rows.cb.data());
      takeChroma(pictures[k], 2, y, laid, rows, rows.cr.data());
      const std::uint8_t* const luma =
          samplesOf(pictures[k], 0, y, laid.box.left - WorkingTile::margin, laid.width, rows.luma);
      winShort(luma, rows.cb.data(), rows.cr.data(), matrix_, static_cast<int>(std::lround(weights[k] * 32768)), brightest_,
               laid.width, mixed);
    }
    for (std::size_t c = 0; c < 3; ++c) std::copy_n(mixed[c], laid.width, rowOf(c));
  }
}

void ShortMix::settle(const Tile& tile, WorkingTile& to) {
  for (std::size_t c = 0; c < 3; ++c) floatsOfShort(tile[c].data(), to.width * to.height, to.channels[c].data());
}

}  // namespace molten
