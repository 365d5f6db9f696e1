#include "core/stages/strip_layout.h"

#include <algorithm>
#include <cmath>
#include <numbers>
#include <numeric>

#include "core/field/noise_field.h"
#include "core/field/response_curve.h"

namespace molten {

StripLayout::StripLayout(const Cut& cut, const VideoDescription& video)
    : shape_(cut.shape), count_(std::max(1, cut.count)), rows_(std::max(1, cut.rows)) {
  const double w = video.size.width, h = video.size.height;
  // Lengths are in pixels across; a pixel is so many of them high.
  down_ = 1 / video.pixelAspect.toDouble();
  height_ = h;
  if (shape_ == StripShape::Rings) {
    x_ = cut.centre.x * w, y_ = cut.centre.y * h;
    extent_ = std::max(std::hypot(std::max(x_, w - x_), std::max(y_, h - y_) * down_), 1.0);
  } else if (hasRows()) {
    extent_ = w;
  } else {
    double turn = std::fmod(cut.degrees, 360);
    if (turn < 0) turn += 360;
    if (std::fmod(turn, 90) == 0) {
      static constexpr double cosines[] = {1, 0, -1, 0}, sines[] = {0, 1, 0, -1};
      const auto quarter = static_cast<std::size_t>(turn / 90) % 4;
      cos_ = cosines[quarter], sin_ = sines[quarter];
      extent_ = quarter % 2 == 0 ? w : h;
      down_ = 1;
      from_ = quarter < 2 ? 0 : -extent_;
    } else {
      const double a = turn / 180 * std::numbers::pi;
      cos_ = std::cos(a), sin_ = std::sin(a);
      const double ends[] = {0, w * cos_, h * down_ * sin_, w * cos_ + h * down_ * sin_};
      from_ = *std::min_element(ends, ends + 4);
      extent_ = *std::max_element(ends, ends + 4) - from_;
    }
  }
  if (cut.width > 0) {
    strip_ = cut.width;
    count_ = std::max(1, static_cast<int>(std::ceil(extent_ / strip_ - 1e-9)));
  }
  shift_ = std::floor((cut.offset - std::floor(cut.offset)) * extent_ + 0.5);
  bandsAPixel_ = strip_ > 0 ? 1 / strip_ : count_ / extent_;
  for (int i = 0; i <= count_; ++i)
    borders_.push_back(strip_ > 0     ? std::min(i * strip_, extent_)
                       : i == count_ ? extent_
                                     : std::floor(i * extent_ / count_ + 0.5));
  for (int i = 0; i <= rows_; ++i) rowBorders_.push_back(std::floor(i * height_ / rows_ + 0.5));
}

int StripLayout::bandAt(double u) const {
  int i = std::clamp(static_cast<int>(u * bandsAPixel_), 0, count_ - 1);
  while (i > 0 && u < border(i)) --i;
  while (i + 1 < count_ && u >= border(i + 1)) ++i;
  return i;
}

int StripLayout::rowAt(double y) const {
  int row = std::clamp(static_cast<int>(y * rows_ / height_), 0, rows_ - 1);
  while (row > 0 && y < rowBorder(row)) --row;
  while (row + 1 < rows_ && y >= rowBorder(row + 1)) ++row;
  return row;
}

int StripLayout::stripAt(double x, double y) const {
  const int band = bandAt(within(x, y));
  return hasRows() ? rowAt(y) * count_ + band : band;
}

StripLayout::At StripLayout::at(double x, double y) const {
  At found;
  const double u = within(x, y);
  const int band = bandAt(u), row = hasRows() ? rowAt(y) : 0;
  found.strip = row * count_ + band;
  const auto consider = [&](double beyond, int other) {
    if (std::abs(beyond) < std::abs(found.beyond)) found.beyond = beyond, found.other = other;
  };
  const int base = found.strip - band;
  // With an offset the last strip borders on the first one.
  if (band > 0 || shift_ > 0) consider(u - border(band), base + (band > 0 ? band - 1 : count_ - 1));
  if (band + 1 < count_ || shift_ > 0) consider(u - border(band + 1), base + (band + 1) % count_);
  if (hasRows()) {
    if (row > 0) consider(y - rowBorder(row), found.strip - count_);
    if (row + 1 < rows_) consider(y - rowBorder(row + 1), found.strip + count_);
  }
  if (found.other == found.strip) found.other = -1, found.beyond = 1e9;
  return found;
}

std::vector<double> stripRanks(int count, NowStandsAt now, StripDelays delays, std::uint32_t seed,
                               const CurvePoints& curve) {
  std::vector<double> ranks(static_cast<std::size_t>(count));
  std::iota(ranks.begin(), ranks.end(), 0.0);
  const int last = count - 1;
  if (delays == StripDelays::ByLot) {
    // Fisher and Yates, from the last one down.
    for (int i = last; i > 0; --i)
      std::swap(
          ranks[static_cast<std::size_t>(i)],
          ranks[scrambled(seed * 0x9e3779b9U + static_cast<std::uint32_t>(i)) % static_cast<std::uint32_t>(i + 1)]);
    return ranks;
  }
  for (int i = 0; i < count; ++i) {
    double& rank = ranks[static_cast<std::size_t>(i)];
    const int off = std::abs(2 * i - last) / 2;
    if (now == NowStandsAt::Last) rank = last - i;
    if (now == NowStandsAt::Middle) rank = off;
    if (now == NowStandsAt::BothEdges) rank = last / 2 - off;
  }
  if (delays == StripDelays::Even) return ranks;
  const double most = *std::max_element(ranks.begin(), ranks.end());
  const ResponseCurve response(curve);
  for (double& rank : ranks) rank = most > 0 ? response.at(rank / most) * most : 0;
  return ranks;
}

}  // namespace molten
