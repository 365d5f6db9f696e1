#include "core/engine/flow_field.h"

#include <algorithm>
#include <cmath>
#include <new>
#include <opencv2/core.hpp>
#include <opencv2/imgproc.hpp>
#include <opencv2/video/tracking.hpp>

#include "core/opencv_threads.h"
#include "core/parallel.h"

namespace molten {
namespace {

constexpr float unit = 16;    ///< vectors are kept in 1/16 pixel
constexpr int wide = 960;     ///< motion is looked for in pictures of at most this width
constexpr int reduction = 4;  ///< cells a pixel of those, each way
/// Another scene: what the flow says has moved does not look alike, and the way back is not the way there.
constexpr double cutDifference = 24, cutDisagreement = 0.5;

/// OpenCV has an exception of its own for what is everywhere else std::bad_alloc.
void throwIfNoMemory(const cv::Exception& error) {
  if (error.code == cv::Error::StsNoMem) throw std::bad_alloc();
}

std::vector<std::int16_t> packed(const cv::Mat& cells, float times, float most) {
  std::vector<std::int16_t> out;
  out.reserve(cells.total() * 2);
  for (int y = 0; y < cells.rows; ++y)
    for (int x = 0; x < cells.cols; ++x)
      for (const float v : {cells.at<cv::Vec2f>(y, x)[0], cells.at<cv::Vec2f>(y, x)[1]})
        out.push_back(static_cast<std::int16_t>(std::lround(std::clamp(v * times, -most, most) * unit)));
  return out;
}

}  // namespace

Vector FlowField::at(const std::vector<std::int16_t>& vectors, float x, float y) const {
  x = std::clamp(x / cell_ - 0.5f, 0.0f, static_cast<float>(across_ - 1));
  y = std::clamp(y / cell_ - 0.5f, 0.0f, static_cast<float>(down_ - 1));
  const int left = std::min(static_cast<int>(x), std::max(0, across_ - 2));
  const int top = std::min(static_cast<int>(y), std::max(0, down_ - 2));
  const float fx = x - static_cast<float>(left), fy = y - static_cast<float>(top);
  const int right = across_ > 1 ? 2 : 0, below = down_ > 1 ? across_ * 2 : 0;
  const std::int16_t* const a = vectors.data() + (top * across_ + left) * 2;
  const auto mix = [&](int c) {
    const float upper = static_cast<float>(a[c]) * (1 - fx) + static_cast<float>(a[right + c]) * fx;
    const float lower = static_cast<float>(a[below + c]) * (1 - fx) + static_cast<float>(a[below + right + c]) * fx;
    return (upper * (1 - fy) + lower * fy) / unit;
  };
  return {mix(0), mix(1)};
}

SmallLuma::SmallLuma(const Picture& picture) : full_(picture.shape().size) {
  const PictureFormat& format = picture.format();
  times_ = std::max(full_.width >= wide / 2 ? 2 : 1, (full_.width + wide - 1) / wide);
  width_ = std::max(1, full_.width / times_), height_ = std::max(1, full_.height / times_);
  samples_.resize(static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_));
  const int type = format.floating ? CV_32F : format.bits > 8 ? CV_16U : CV_8U;
  const cv::Mat luma(full_.height, full_.width, type, picture.plane(0).data,
                     static_cast<std::size_t>(picture.plane(0).stride));
  cv::Mat small(height_, width_, CV_8U, samples_.data()), reduced;
  cv::resize(luma, reduced, small.size(), 0, 0, cv::INTER_AREA);
  const double top = format.floating ? 1.0 : static_cast<double>((1 << format.bits) - 1);
  reduced.convertTo(small, CV_8U, type == CV_8U ? 1.0 : 255 / top);
}

struct FlowFinder::Tools {
  // One each, so that both directions are looked for at once.
  cv::Ptr<cv::DISOpticalFlow> search[2] = {cv::DISOpticalFlow::create(cv::DISOpticalFlow::PRESET_FAST),
                                           cv::DISOpticalFlow::create(cv::DISOpticalFlow::PRESET_FAST)};
  cv::Size settled{};

  /// A search chooses its scales by the first picture of a size, and only then keeps to them: what it finds first is
  /// another answer than what it finds in the same pictures later.
  void settle(const cv::Mat& picture) {
    if (settled == picture.size()) return;
    settled = picture.size();
    for (auto& one : search) {
      one = cv::DISOpticalFlow::create(cv::DISOpticalFlow::PRESET_FAST);
      cv::Mat none;
      try {
        one->calc(picture, picture, none);
      } catch (const cv::Exception& error) {
        throwIfNoMemory(error);
        // Otherwise dealt with where it is looked for.
      }
    }
  }
};

std::shared_ptr<const FlowField> FlowField::cut() {
  auto field = std::make_shared<FlowField>();
  field->cut_ = true;
  return field;
}

FlowFinder::FlowFinder() : tools_(std::make_unique<Tools>()) {
  keepOpenCvOnOneThread();
}
FlowFinder::~FlowFinder() = default;

std::shared_ptr<const FlowField> FlowFinder::find(const SmallLuma& first, const SmallLuma& second, int scale) try {
  const auto mat = [](const SmallLuma& luma) {
    return cv::Mat(luma.height_, luma.width_, CV_8U, const_cast<std::uint8_t*>(luma.samples_.data()));
  };
  cv::Mat a = mat(first), b = mat(second);
  // The search wants a few of its patches each way: in flatter pictures it chooses scales by the width alone, and reads
  // past the rows.
  const int least = 48, right = std::max(0, least - a.cols), bottom = std::max(0, least - a.rows);
  const cv::Rect inside(0, 0, a.cols, a.rows);
  if (right > 0 || bottom > 0) {
    cv::copyMakeBorder(a, a, 0, bottom, 0, right, cv::BORDER_REPLICATE);
    cv::copyMakeBorder(b, b, 0, bottom, 0, right, cv::BORDER_REPLICATE);
  }
  tools_->settle(a);
  auto flow = std::make_shared<FlowField>();
  flow->across_ = std::max(1, first.width_ / reduction);
  flow->down_ = std::max(1, first.height_ / reduction);
  flow->cell_ = static_cast<float>(first.full_.width) / static_cast<float>(flow->across_);
  cv::Mat cells[2];
  parallelRows(2, 1, [&](int from, int to) {
    for (int way = from; way < to; ++way) {
      cv::Mat dense;
      try {
        way == 0 ? tools_->search[0]->calc(a, b, dense) : tools_->search[1]->calc(b, a, dense);
      } catch (const cv::Exception& error) {
        throwIfNoMemory(error);
        // No motion is found: what lies between is the plain mix.
        dense = cv::Mat::zeros(a.size(), CV_32FC2);
      }
      cv::resize(dense(inside), cells[way], cv::Size(flow->across_, flow->down_), 0, 0, cv::INTER_AREA);
    }
  });
  const auto times = static_cast<float>(first.times_);
  const float most = static_cast<float>(FlowField::farthest) / static_cast<float>(scale);
  flow->forward_ = packed(cells[0], times, most);
  flow->backward_ = packed(cells[1], times, most);

  double difference = 0;
  int disagreeing = 0;
  for (int j = 0; j < flow->down_; ++j)
    for (int i = 0; i < flow->across_; ++i) {
      const float x = (static_cast<float>(i) + 0.5f) * flow->cell_, y = (static_cast<float>(j) + 0.5f) * flow->cell_;
      const Vector there = flow->forward(x, y), back = flow->backward(x + there.x, y + there.y);
      disagreeing += std::hypot(there.x + back.x, there.y + back.y) > flow->cell_ / 2;
      const auto seen = [&](const cv::Mat& luma, float px, float py) {
        return luma.at<std::uint8_t>(std::clamp(static_cast<int>(py / times), 0, first.height_ - 1),
                                     std::clamp(static_cast<int>(px / times), 0, first.width_ - 1));
      };
      difference += std::abs(int(seen(a, x, y)) - int(seen(b, x + there.x, y + there.y)));
    }
  const double count = flow->across_ * flow->down_;
  flow->cut_ = difference / count > cutDifference && disagreeing / count > cutDisagreement;
  return flow;
} catch (const cv::Exception& error) {
  throwIfNoMemory(error);
  throw;
}

}  // namespace molten
