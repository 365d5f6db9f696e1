#pragma once
// A clock that moves on only when all that has come is done with.

#include <condition_variable>
#include <mutex>

#include "core/media/camera.h"

namespace molten::test {

class SteppedClock : public LiveClock {
 public:
  double now() const override {
    const std::scoped_lock lock(mutex_);
    return now_;
  }
  bool waitUntil(double seconds, const std::stop_token& stop) override {
    std::unique_lock lock(mutex_);
    if (!changed_.wait(lock, stop, [&] { return open_ == 0 && seconds <= last_; })) return false;
    now_ = std::max(now_, seconds);
    return true;
  }
  /// Something has come, and is done with.
  void came() {
    const std::scoped_lock lock(mutex_);
    ++open_;
  }
  void done() {
    const std::scoped_lock lock(mutex_);
    --open_;
    changed_.notify_all();
  }
  /// It stands before a moment that is later.
  void runTo(double seconds) {
    const std::scoped_lock lock(mutex_);
    last_ = seconds;
    changed_.notify_all();
  }

 private:
  mutable std::mutex mutex_;
  std::condition_variable_any changed_;
  double now_ = 0, last_ = -1;  ///< nothing comes before it is told to run
  int open_ = 0;
};

}  // namespace molten::test
