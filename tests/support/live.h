#pragma once
// Chains on the simulated camera, picture by picture.

#include <gtest/gtest.h>

#include <atomic>
#include <condition_variable>
#include <functional>
#include <mutex>

#include "core/engine/live_run.h"
#include "support/stepped_clock.h"

namespace molten::test {

/// A chain on the simulated camera, with a clock that waits for each picture.
class Live {
 public:
  Live(CameraChoice camera, const Chain& chain, RingSettings ring = {}) {
    LiveOptions options;
    options.clock = clock_;
    options.budget = budget_;
    options.threads = 1;
    run_ = std::make_unique<LiveRun>(
        std::move(camera), ring, LiveChain{chain}, options,
        [this](const LivePicture& picture) {
          if (!givesWay || !givesWay(picture)) known_.load()->shown(picture);
          if (seen) seen(picture);
          clock_->done();
          const std::scoped_lock lock(mutex_);
          ++made_;
          changed_.notify_all();
        },
        [this](const CameraFrame& frame, std::int32_t number, Rational) {
          clock_->came();
          if (came) came(frame, number);
        });
    known_ = run_.get();
  }
  /// Begins, and returns when so many pictures are made.
  void make(int pictures) {
    clock_->runTo(1e9);
    std::unique_lock lock(mutex_);
    changed_.wait(lock, [&] { return made_ >= pictures; });
  }
  /// Of each picture that is made, and each frame that comes; set before the first.
  std::function<void(const LivePicture&)> seen;
  /// Whether a picture never comes to the screen, since a newer one takes its place.
  std::function<bool(const LivePicture&)> givesWay;
  std::function<void(const CameraFrame&, std::int32_t)> came;
  LiveRun& run() { return *run_; }
  const MemoryBudget& budget() const { return *budget_; }

 private:
  std::shared_ptr<SteppedClock> clock_ = std::make_shared<SteppedClock>();
  std::shared_ptr<MemoryBudget> budget_ = std::make_shared<MemoryBudget>(std::size_t(256) << 20);
  std::mutex mutex_;
  std::condition_variable changed_;
  int made_ = 0;
  std::atomic<LiveRun*> known_ = nullptr;  ///< also while it ends
  std::unique_ptr<LiveRun> run_;           // last: its threads end before what they use
};

/// All of one brightness.
inline Picture flat(Size size, std::uint8_t value) {
  PictureShape shape;
  shape.size = size;
  shape.format = {ColourModel::Yuv, 8, 0, 0};
  shape.colour.range = AVCOL_RANGE_MPEG;
  shape.colour.matrix = AVCOL_SPC_BT709;
  Picture picture(shape);
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < size.height; ++y) std::fill_n(picture.writableRow(p, y), size.width, p == 0 ? value : std::uint8_t(128));
  return picture;
}

/// The simulated camera, with numbers in its pictures.
inline CameraChoice numbered(Size size, Rational rate, double late = 0, double lost = 0, bool irregular = false) {
  CameraChoice choice;
  choice.size = size;
  choice.rate = rate;
  choice.troubles.late = late;
  choice.troubles.lost = lost;
  choice.troubles.irregular = irregular;
  choice.troubles.numbered = true;
  return choice;
}

}  // namespace molten::test
