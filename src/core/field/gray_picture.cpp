#include "core/field/gray_picture.h"

#include <algorithm>
#include <cmath>
#include <opencv2/imgproc.hpp>

#include "core/opencv_threads.h"
#include "core/wide.h"

namespace molten {
namespace {

/// Samples of a row as 0…1 of the format's whole range.
void takeRow(const Picture& picture, int plane, int y, float* out) {
  const int width = picture.planeWidth(plane);
  const PictureFormat& format = picture.format();
  const auto* const row = picture.row(plane, y);
  if (format.floating) {
    std::copy_n(reinterpret_cast<const float*>(row), width, out);
    return;
  }
  const auto top = static_cast<float>((1u << format.bits) - 1);
  if (format.bits > 8)
    for (int x = 0; x < width; ++x) out[x] = static_cast<float>(reinterpret_cast<const std::uint16_t*>(row)[x]) / top;
  else
    for (int x = 0; x < width; ++x) out[x] = static_cast<float>(row[x]) / top;
}

/// One row of the picture and the row below it, mixed.
MOLTEN_WIDE void mixRows(const float* a, const float* b, float share, float* out, int count) {
  for (int i = 0; i < count; ++i) out[i] = a[i] + (b[i] - a[i]) * share;
}

}  // namespace

GrayPicture grayOf(const Picture& picture) {
  const PictureFormat& format = picture.format();
  const Size size = picture.shape().size;
  GrayPicture gray{size.width, size.height, {}};
  gray.samples.resize(static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height));
  std::vector<float> blue(static_cast<std::size_t>(size.width)), red(blue.size());
  // Limited range: black and white lie at 16 and 235 of 255, and as far in at other depths.
  const auto top = static_cast<float>((1u << std::min(format.bits, 16)) - 1);
  const float unit = format.floating ? 1 : static_cast<float>(1u << (format.bits - 8)) / top;
  const bool limited = format.model == ColourModel::Yuv && !picture.shape().fullRange() && !format.floating;
  for (int y = 0; y < size.height; ++y) {
    float* const out = gray.samples.data() + static_cast<std::ptrdiff_t>(y) * size.width;
    takeRow(picture, 0, y, out);
    if (format.model == ColourModel::Rgb) {
      takeRow(picture, 1, y, blue.data());
      takeRow(picture, 2, y, red.data());
      for (std::size_t x = 0; x < blue.size(); ++x) {
        // Gray is gray to the last bit.
        if (out[x] == blue[x] && out[x] == red[x]) continue;
        out[x] = 0.2126f * red[x] + 0.7152f * out[x] + 0.0722f * blue[x];
      }
    } else if (limited) {
      for (int x = 0; x < size.width; ++x) out[x] = (out[x] - 16 * unit) / (219 * unit);
    }
  }
  return gray;
}

GrayPicture blurred(const GrayPicture& picture, double radius) {
  if (!(radius > 0.01)) return picture;
  keepOpenCvOnOneThread();
  GrayPicture out{picture.width, picture.height, std::vector<float>(picture.samples.size())};
  const cv::Mat from(picture.height, picture.width, CV_32F, const_cast<float*>(picture.samples.data()));
  cv::Mat to(out.height, out.width, CV_32F, out.samples.data());
  // A wide blur is made of the picture at a smaller size: the same to the eye, and in bounded time.
  constexpr double widest = 12;
  if (radius <= widest) {
    cv::GaussianBlur(from, to, {}, radius, radius, cv::BORDER_REPLICATE);
    return out;
  }
  const double times = radius / widest;
  const cv::Size small(std::max(1, static_cast<int>(std::lround(picture.width / times))),
                       std::max(1, static_cast<int>(std::lround(picture.height / times))));
  cv::Mat less, soft;
  cv::resize(from, less, small, 0, 0, cv::INTER_AREA);
  cv::GaussianBlur(less, soft, {}, widest, widest, cv::BORDER_REPLICATE);
  cv::resize(soft, to, to.size(), 0, 0, cv::INTER_CUBIC);
  return out;
}

PictureField::PictureField(std::shared_ptr<const GrayPicture> picture, PictureFit fit, Place centre, double width,
                           const FieldFrame& frame)
    : picture_(std::move(picture)) {
  const double w = frame.size.width, h = frame.size.height;
  // Square pixels of the picture, in frame pixels: one across is 1 / aspect as wide as it is high.
  const double own = picture_->width / frame.pixelAspect / picture_->height;
  double shownWidth = w, shownHeight = h;
  switch (fit) {
    case PictureFit::Stretch:
      break;
    case PictureFit::Fit:
      shownHeight = std::min(h, w / own), shownWidth = shownHeight * own;
      break;
    case PictureFit::Fill:
      shownHeight = std::max(h, w / own), shownWidth = shownHeight * own;
      break;
    case PictureFit::Placed:
      shownWidth = w * width, shownHeight = shownWidth / own;
      break;
  }
  const Place middle = fit == PictureFit::Placed ? centre : Place{0.5, 0.5};
  left_ = middle.x * w - shownWidth / 2;
  top_ = middle.y * h - shownHeight / 2;
  across_ = picture_->width / shownWidth;
  down_ = picture_->height / shownHeight;
}

void PictureField::row(const PlaneSites& sites, int y, std::span<float> out) const {
  const auto width = static_cast<std::size_t>(picture_->width);
  thread_local std::vector<float> line;
  line.resize(width);
  const auto split = [](double at, int count) {
    const double inside = std::clamp(at - 0.5, 0.0, static_cast<double>(count - 1));
    const int below = std::min(static_cast<int>(inside), std::max(0, count - 2));
    return std::pair(below, static_cast<float>(inside - below));
  };
  const auto [row, share] = split((sites.y0 + y * sites.stepY - top_) * down_, picture_->height);
  const float* const above = picture_->samples.data() + static_cast<std::ptrdiff_t>(row) * picture_->width;
  const float* const below = picture_->height > 1 ? above + picture_->width : above;
  mixRows(above, below, share, line.data(), picture_->width);
  const auto black = static_cast<float>(black_);
  const float span = white_ == black_ ? 1e-12f : static_cast<float>(white_ - black_);
  const bool plain = black_ == 0 && white_ == 1;
  for (std::size_t i = 0; i < out.size(); ++i) {
    const auto [x, part] = split((sites.x0 + static_cast<double>(i) * sites.stepX - left_) * across_, picture_->width);
    const float a = line[static_cast<std::size_t>(x)];
    const float b = picture_->width > 1 ? line[static_cast<std::size_t>(x) + 1] : a;
    const float sample = a + (b - a) * part;
    out[i] = plain ? sample : (sample - black) / span;
  }
}

}  // namespace molten
