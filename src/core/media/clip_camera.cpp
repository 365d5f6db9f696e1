#include "core/media/clip_camera.h"

#include <cmath>

#include "core/media/footage.h"

namespace molten {
namespace {

class ClipCamera : public Camera {
 public:
  ClipCamera(std::shared_ptr<const Footage> clip, std::unique_ptr<FrameReader> reader, Rational rate, std::shared_ptr<LiveClock> clock)
      : clip_(std::move(clip)), reader_(std::move(reader)), rate_(rate), clock_(std::move(clock)), opened_(clock_->now()) {}
  const PictureShape& shape() const override { return clip_->shape(); }
  Rational rate() const override { return rate_; }

  Result<CameraFrame> next(std::stop_token stop) override {
    // What cannot be decoded in time is left out, as a camera leaves it out.
    const double due = (clock_->now() - opened_) * rate_.toDouble();
    next_ = std::max(next_, static_cast<std::int64_t>(std::floor(due)));
    const double taken = opened_ + static_cast<double>(next_) / rate_.toDouble();
    const std::int64_t length = clip_->clock().length();
    const auto frame = clip_->clock().frameAt(static_cast<double>(next_++ % length));
    auto picture = reader_->read(frame, {}, stop);
    if (!picture) return picture.error();
    if (!clock_->waitUntil(taken, stop)) return cancelledError();
    return CameraFrame{std::move(*picture), taken};
  }

 private:
  std::shared_ptr<const Footage> clip_;
  std::unique_ptr<FrameReader> reader_;
  Rational rate_;
  std::shared_ptr<LiveClock> clock_;
  double opened_;
  std::int64_t next_ = 0;
};

}  // namespace

Result<std::unique_ptr<Camera>> openClipCamera(const CameraChoice& choice, std::shared_ptr<LiveClock> clock, std::stop_token stop) {
  auto clip = Footage::open(choice.id, {}, {}, std::move(stop));
  if (!clip) return clip.error();
  auto reader = (*clip)->newReader(1);
  if (!reader) return reader.error();
  return std::unique_ptr<Camera>(
      new ClipCamera(*clip, std::move(*reader), choice.rate.value_or((*clip)->clock().rate()), std::move(clock)));
}

}  // namespace molten
