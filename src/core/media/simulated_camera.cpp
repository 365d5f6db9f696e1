#include "core/media/simulated_camera.h"

#include <algorithm>
#include <cmath>

#include "core/picture/furnace_scene.h"
#include "core/picture/number_bars.h"

namespace molten {
namespace {

/// 0…1, another one for each number and each purpose.
double lot(std::int64_t frame, std::uint64_t purpose) {
  std::uint64_t x = static_cast<std::uint64_t>(frame) * 0x9e3779b97f4a7c15u + purpose * 0xbf58476d1ce4e5b9u;
  x = (x ^ (x >> 30)) * 0xbf58476d1ce4e5b9u;
  x = (x ^ (x >> 27)) * 0x94d049bb133111ebu;
  return static_cast<double>((x ^ (x >> 31)) >> 11) / 9007199254740992.0;
}

constexpr std::uint64_t forLate = 1, forLost = 2, forMoment = 3, forDelay = 4;

class SimulatedCamera : public Camera {
 public:
  SimulatedCamera(Size size, Rational rate, const CameraTroubles& troubles, std::shared_ptr<LiveClock> clock)
      : scene_(size), rate_(rate), troubles_(troubles), clock_(std::move(clock)), opened_(clock_->now()) {
    // Its frames stand on the clock's own grid, so that one that comes back goes on counting.
    next_ = static_cast<std::int64_t>(std::ceil(opened_ * rate_.toDouble() - 1e-9));
  }
  const PictureShape& shape() const override { return scene_.shape(); }
  Rational rate() const override { return rate_; }

  Result<CameraFrame> next(std::stop_token stop) override {
    const double each = 1 / rate_.toDouble();
    while (lot(next_, forLost) < troubles_.lost) ++next_;
    const std::int64_t frame = next_++;
    double taken = static_cast<double>(frame) * each;
    if (troubles_.irregular) taken = std::max(0.0, taken + (lot(frame, forMoment) - 0.5) * each * 2 / 3);
    double comes = taken;
    if (lot(frame, forLate) < troubles_.late) comes += each * (1 + 2 * lot(frame, forDelay));
    if (troubles_.comesOffAfter > 0 && comes > opened_ + troubles_.comesOffAfter) {
      if (!clock_->waitUntil(opened_ + troubles_.comesOffAfter, stop)) return cancelledError();
      return Error{"The simulated camera has come off."};
    }
    if (!clock_->waitUntil(comes, stop)) return cancelledError();
    Picture picture = scene_.at(taken);
    if (troubles_.numbered) drawNumber(picture, static_cast<std::uint32_t>(frame));
    return CameraFrame{std::move(picture), taken};
  }

 private:
  FurnaceScene scene_;
  Rational rate_;
  CameraTroubles troubles_;
  std::shared_ptr<LiveClock> clock_;
  double opened_;
  std::int64_t next_ = 0;
};

}  // namespace

Result<std::unique_ptr<Camera>> openSimulatedCamera(const CameraChoice& choice, std::shared_ptr<LiveClock> clock) {
  const Size size = choice.size.value_or(Size{1280, 720});
  const Rational rate = choice.rate.value_or(Rational(30));
  if (std::min(size.width, size.height) < 16 || std::max(size.width, size.height) > 8192)
    return Error{"The simulated camera has 16 to 8192 pixels a side; choose another size."};
  if (rate < Rational(1) || rate > Rational(240)) return Error{"The simulated camera takes 1 to 240 frames a second; choose another rate."};
  return std::unique_ptr<Camera>(new SimulatedCamera(size, rate, choice.troubles, std::move(clock)));
}

}  // namespace molten
