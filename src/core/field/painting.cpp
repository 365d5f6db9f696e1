#include "core/field/painting.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/opencv_threads.h"

namespace molten {
namespace {

constexpr float white = 65535;

std::size_t pixels(Size size) {
  return static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height);
}

}  // namespace

PaintedPicture::PaintedPicture(Size size)
    : size_(size),
      across_((size.width + side - 1) / side),
      down_((size.height + side - 1) / side),
      tiles_(static_cast<std::size_t>(across_ * down_)) {}

PaintedPicture::PaintedPicture(Size size, std::span<const std::uint16_t> samples) : PaintedPicture(size) {
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const std::uint16_t sample =
          samples[static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width) + static_cast<std::size_t>(x)];
      if (sample == 0) continue;
      auto& tile = tileAt(x / side, y / side);
      if (!tile) tile = std::make_shared<Tile>(Tile{});
      (*tile)[static_cast<std::size_t>(y % side * side + x % side)] = sample;
    }
}

std::uint16_t PaintedPicture::at(int x, int y) const {
  const auto& tile = tiles_[static_cast<std::size_t>(y / side * across_ + x / side)];
  return tile ? (*tile)[static_cast<std::size_t>(y % side * side + x % side)] : std::uint16_t(0);
}

std::vector<std::uint16_t> PaintedPicture::samples() const {
  std::vector<std::uint16_t> out(pixels(size_));
  for (int y = 0; y < size_.height; ++y)
    for (int column = 0; column < across_; ++column) {
      const auto& tile = tiles_[static_cast<std::size_t>(y / side * across_ + column)];
      if (!tile) continue;
      const int count = std::min(side, size_.width - column * side);
      std::copy_n(tile->data() + y % side * side, count,
                  out.data() + static_cast<std::ptrdiff_t>(y) * size_.width + column * side);
    }
  return out;
}

std::shared_ptr<const GrayPicture> PaintedPicture::gray() const {
  std::call_once(once_, [this] {
    auto made = std::make_shared<GrayPicture>(GrayPicture{size_.width, size_.height, {}});
    const auto all = samples();
    made->samples.resize(all.size());
    std::transform(all.begin(), all.end(), made->samples.begin(),
                   [](std::uint16_t sample) { return static_cast<float>(sample) / white; });
    gray_ = std::move(made);
  });
  return gray_;
}

std::shared_ptr<const PaintedPicture> PaintedPicture::mixed(int left, int top, int width, int height,
                                                            std::span<const float> levels,
                                                            std::span<const float> mask) const {
  auto out = std::make_shared<PaintedPicture>(size_);
  out->tiles_ = tiles_;
  std::vector<bool> own(tiles_.size());
  for (int y = std::max(0, top); y < std::min(size_.height, top + height); ++y)
    for (int x = std::max(0, left); x < std::min(size_.width, left + width); ++x) {
      const auto i =
          static_cast<std::size_t>(y - top) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x - left);
      if (mask[i] <= 0) continue;
      const auto number = static_cast<std::size_t>(y / side * across_ + x / side);
      auto& tile = out->tiles_[number];
      if (!own[number]) {
        tile = tile ? std::make_shared<Tile>(*tile) : std::make_shared<Tile>(Tile{});
        own[number] = true;
      }
      std::uint16_t& sample = (*tile)[static_cast<std::size_t>(y % side * side + x % side)];
      const float value = static_cast<float>(sample) + (levels[i] * white - static_cast<float>(sample)) * mask[i];
      sample = static_cast<std::uint16_t>(std::clamp(value, 0.0f, white) + 0.5f);
    }
  return out;
}

bool PaintedPicture::sameAs(const PaintedPicture& other) const {
  if (size_ != other.size_) return false;
  for (std::size_t i = 0; i < tiles_.size(); ++i) {
    static const Tile black{};
    if (tiles_[i] == other.tiles_[i]) continue;
    if ((tiles_[i] ? *tiles_[i] : black) != (other.tiles_[i] ? *other.tiles_[i] : black)) return false;
  }
  return true;
}

Stroke::Stroke(std::shared_ptr<const PaintedPicture> base, const Brush& brush)
    : base_(std::move(base)), now_(base_), brush_(brush), mask_(pixels(base_->size())) {}

std::shared_ptr<const PaintedPicture> Stroke::to(double x, double y) {
  if (!begun_) x_ = x, y_ = y, begun_ = true;
  const Size size = base_->size();
  const double r = std::max(0.5, brush_.radius), hard = r * (1 - std::clamp(brush_.softness, 0.0, 1.0));
  const int left = std::max(0, static_cast<int>(std::floor(std::min(x, x_) - r))),
            top = std::max(0, static_cast<int>(std::floor(std::min(y, y_) - r)));
  const int right = std::min(size.width, static_cast<int>(std::ceil(std::max(x, x_) + r)) + 1),
            bottom = std::min(size.height, static_cast<int>(std::ceil(std::max(y, y_) + r)) + 1);
  const double dx = x - x_, dy = y - y_, length = dx * dx + dy * dy;
  const double fromX = x_, fromY = y_;
  x_ = x, y_ = y;
  if (left >= right || top >= bottom) return now_;
  std::vector<float> mask;
  for (int py = top; py < bottom; ++py)
    for (int px = left; px < right; ++px) {
      // To the nearest place of the way from the last point to this one.
      const double ax = px + 0.5 - fromX, ay = py + 0.5 - fromY;
      const double along = length > 0 ? std::clamp((ax * dx + ay * dy) / length, 0.0, 1.0) : 0;
      const double distance = std::hypot(ax - along * dx, ay - along * dy);
      const double u = std::clamp((r - distance) / std::max(1.0, r - hard), 0.0, 1.0);
      float& most =
          mask_[static_cast<std::size_t>(py) * static_cast<std::size_t>(size.width) + static_cast<std::size_t>(px)];
      most = std::max(most, static_cast<float>(u * u * (3 - 2 * u)));
      mask.push_back(most);
    }
  // The box is mixed anew from what was there before the stroke; the rest stays as the stroke has made it.
  const auto level = static_cast<float>(brush_.level);
  const std::vector<float> all(mask.size(), 1.0f);
  std::vector<float> levels;
  for (int py = top; py < bottom; ++py)
    for (int px = left; px < right; ++px) {
      const float before = static_cast<float>(base_->at(px, py)) / white;
      levels.push_back(before + (level - before) * mask[levels.size()]);
    }
  now_ = now_->mixed(left, top, right - left, bottom - top, levels, all);
  return now_;
}

std::shared_ptr<const PaintedPicture> filledWithin(const PaintedPicture& picture, std::span<const Place> line,
                                                   double level, double soft) {
  keepOpenCvOnOneThread();
  const Size size = picture.size();
  cv::Mat mask(size.height, size.width, CV_8U, cv::Scalar(0));
  std::vector<cv::Point> points;
  constexpr int finer = 4;  // binary places of a pixel
  for (const Place& place : line)
    points.emplace_back(static_cast<int>(std::lround((place.x - 0.5) * (1 << finer))),
                        static_cast<int>(std::lround((place.y - 0.5) * (1 << finer))));
  cv::fillPoly(mask, std::vector<std::vector<cv::Point>>{points}, cv::Scalar(255), cv::LINE_AA, finer);
  cv::Mat share;
  mask.convertTo(share, CV_32F, 1 / 255.0);
  if (soft > 0.5) cv::GaussianBlur(share, share, {}, soft / 2, soft / 2, cv::BORDER_REPLICATE);
  const std::vector<float> levels(pixels(size), static_cast<float>(level));
  std::vector<float> shares(levels.size());
  for (int y = 0; y < size.height; ++y)
    std::copy_n(share.ptr<float>(y), size.width, &shares[static_cast<std::size_t>(y) * static_cast<std::size_t>(size.width)]);
  return picture.mixed(0, 0, size.width, size.height, levels, shares);
}

std::shared_ptr<const PaintedPicture> withGradient(const PaintedPicture& picture, Place first, Place last, double from,
                                                   double to) {
  const Size size = picture.size();
  const double dx = last.x - first.x, dy = last.y - first.y, length = dx * dx + dy * dy;
  std::vector<float> levels(pixels(size)), all(levels.size(), 1.0f);
  std::size_t i = 0;
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const double along =
          length > 0 ? std::clamp(((x + 0.5 - first.x) * dx + (y + 0.5 - first.y) * dy) / length, 0.0, 1.0) : 1;
      levels[i++] = static_cast<float>(from + (to - from) * along);
    }
  return picture.mixed(0, 0, size.width, size.height, levels, all);
}

std::shared_ptr<const PaintedPicture> filled(const PaintedPicture& picture, double level) {
  const Size size = picture.size();
  const std::vector<float> levels(pixels(size), static_cast<float>(level)), all(levels.size(), 1.0f);
  return picture.mixed(0, 0, size.width, size.height, levels, all);
}

}  // namespace molten
