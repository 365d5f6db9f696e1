#include "app/chart/small_pictures.h"

#include <sys/resource.h>
#include <unistd.h>

#include <algorithm>

#include "app/session/footage_loader.h"
#include "core/picture/convert.h"

namespace molten {
namespace {

constexpr int height = 66;  ///< pixels: twice what is shown, for dense screens
constexpr std::size_t mostKept = 600;

}  // namespace

SmallPictureMaker::SmallPictureMaker(QObject* parent) : QObject(parent) {
  thread_ = std::jthread([this](std::stop_token stop) { work(stop); });
}

SmallPictureMaker::~SmallPictureMaker() {
  thread_.request_stop();
  thread_.join();
}

void SmallPictureMaker::setFootage(const std::shared_ptr<const Footage>& footage) {
  pictures_.clear();
  ++number_;
  const std::scoped_lock lock(mutex_);
  footage_ = footage;
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
  // After everything that is waited for. On Linux this is about the thread alone.
  setpriority(PRIO_PROCESS, static_cast<id_t>(gettid()), 10);
  std::unique_ptr<FrameReader> reader;
  std::uint64_t readerNumber = 0;
  Converter converter;
  while (!stop.stop_requested()) {
    std::int32_t frame = 0;
    std::uint64_t number = 0;
    std::shared_ptr<const Footage> footage;
    {
      std::unique_lock lock(mutex_);
      const auto any = [&] {
        return footage_ && std::any_of(wanted_.begin(), wanted_.end(), [](const auto& w) { return !w.second.empty(); });
      };
      if (!changed_.wait(lock, stop, any)) return;
      auto& frames =
          std::find_if(wanted_.begin(), wanted_.end(), [](const auto& w) { return !w.second.empty(); })->second;
      frame = frames.front();
      frames.erase(frames.begin());
      footage = footage_;
      number = wantedNumber_;
    }
    if (!reader || readerNumber != number) {
      auto made = footage->newReader(1);
      if (!made) continue;
      reader = std::move(*made);
      readerNumber = number;
    }
    const auto picture = reader->read(
        frame, [](std::int32_t, const Picture&) {}, stop);
    if (!picture) continue;
    const PictureShape& shape = footage->shape();
    const double aspect = shape.size.width * shape.pixelAspect.toDouble() / shape.size.height;
    auto image = toScreen(converter, *picture, {std::clamp(static_cast<int>(height * aspect), 1, 4 * height), height});
    if (!image) continue;
    inbox_.post([this, number, frame, made = asImage(std::move(*image))] { take(number, frame, made); });
  }
}

}  // namespace molten
