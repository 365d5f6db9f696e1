#include "app/chart/small_pictures.h"

#include <algorithm>

#include "app/session/footage_loader.h"
#include "core/picture/convert.h"

namespace molten {
namespace {

constexpr int height = 66;  ///< pixels: twice what is shown, for dense screens
constexpr std::size_t mostKept = 600;

}  // namespace

SmallPictureMaker::SmallPictureMaker(QObject* parent) : QObject(parent) {
  thread_ = lastingThread(inbox_, [this](std::stop_token stop) { work(stop); });
}

SmallPictureMaker::~SmallPictureMaker() {
  thread_.request_stop();
  setFrames(nullptr);
  thread_.join();
}

void SmallPictureMaker::setFrames(const std::shared_ptr<FrameFeed>& feed) {
  pictures_.clear();
  ++number_;
  const std::scoped_lock lock(mutex_);
  called_.request_stop();
  called_ = {};
  feed_ = feed;
  wantedNumber_ = number_;
  wanted_.clear();
  changed_.notify_all();
}

void SmallPictureMaker::want(int place, const std::vector<std::int32_t>& frames) {
  std::vector<std::int32_t> missing;
  for (const std::int32_t frame : frames)
    if (!pictures_.contains(frame)) missing.push_back(frame);
  std::sort(missing.begin(), missing.end());
  const std::scoped_lock lock(mutex_);
  wanted_[place] = std::move(missing);
  changed_.notify_all();
}

void SmallPictureMaker::take(std::uint64_t number, std::int32_t frame, QImage image) {
  if (number != number_) return;
  if (pictures_.size() >= mostKept) pictures_.clear();
  pictures_[frame] = std::move(image);
  emit arrived(frame);
}

void SmallPictureMaker::work(std::stop_token stop) {
  Converter converter;
  while (!stop.stop_requested()) {
    std::int32_t frame = 0;
    std::uint64_t number = 0;
    std::shared_ptr<FrameFeed> feed;
    std::stop_token called;
    {
      std::unique_lock lock(mutex_);
      const auto any = [&] {
        return feed_ && std::any_of(wanted_.begin(), wanted_.end(), [](const auto& w) { return !w.second.empty(); });
      };
      if (!changed_.wait(lock, stop, any)) return;
      auto& frames =
          std::find_if(wanted_.begin(), wanted_.end(), [](const auto& w) { return !w.second.empty(); })->second;
      frame = frames.front();
      frames.erase(frames.begin());
      feed = feed_;
      called = called_.get_token();
      number = wantedNumber_;
    }
    const PictureShape& shape = feed->footage().shape();
    const double aspect = shape.size.width * shape.pixelAspect.toDouble() / shape.size.height;
    const Size size{std::clamp(static_cast<int>(height * aspect), 1, 4 * height), height};
    const auto picture = feed->glimpse(frame, size, called);
    if (!picture) continue;
    auto image = toScreen(converter, *picture, size);
    if (!image) continue;
    inbox_.post([this, number, frame, made = asImage(std::move(*image))] { take(number, frame, made); });
  }
}

}  // namespace molten
