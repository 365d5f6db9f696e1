#pragma once
// What is heard while pictures run, or are pulled past: mixed ahead on a thread of its own, given to the device as it asks.

#include <condition_variable>
#include <deque>
#include <memory>
#include <mutex>
#include <optional>
#include <stop_token>
#include <thread>

#include "app/sound/sound_device.h"
#include "core/engine/heard.h"

namespace molten {

/// Which part of a piece is heard how. Times are in seconds of the piece.
struct SoundRun {
  std::shared_ptr<const Heard> heard;
  double begin = 0;
  double speed = 1;  ///< negative: backwards
  double from = 0, to = 0;
  bool loop = false;

  /// A moment as it is if it goes round; NaN: it lies outside, and it does not.
  double at(double moment) const;
};

/// How loud it is: the greatest sample of each channel.
struct SoundLevels {
  float left = 0, right = 0;
};

/// Thread-safe.
class Sounding {
 public:
  /// `device`: not nullptr.
  explicit Sounding(std::unique_ptr<SoundDevice> device);
  ~Sounding();

  /// Begins a run; what was heard ends.
  Status play(const SoundRun& run);
  /// Goes on with another run as if it had begun when this one did: at once, but for what is on its way to be heard.
  void change(const SoundRun& run);
  /// A moment of it, while it is pulled past.
  Status grain(const std::shared_ptr<const Heard>& heard, double seconds);
  void stop();
  bool sounds() const;

  /// Seconds since the run began, by what is heard by now; grows evenly.
  double seconds() const;
  /// Of what is heard now; what was louder shortly before is still told.
  SoundLevels levels() const;
  /// Returns when as much is mixed as is mixed ahead. For tests.
  void waitUntilMixed();
  /// How often the device has had to be silent because nothing was mixed yet.
  int gaps() const;

 private:
  struct Block {
    std::int64_t first = 0;  ///< sample since the start of the device
    Sound sound;
  };
  void mix(std::stop_token stop);
  void fill(Sound& out);
  Status begin(const SoundRun& run);

  std::unique_ptr<SoundDevice> device_;
  mutable std::mutex mutex_;
  std::condition_variable_any changed_;
  std::optional<SoundRun> run_;
  std::uint64_t runNumber_ = 0;
  bool grains_ = false;
  std::int64_t origin_ = 0;          ///< sample at which the run begins
  std::int64_t given_ = 0;           ///< samples that the device has got
  std::deque<Block> ahead_;          ///< rising, without a gap
  std::deque<Block> behind_;         ///< what it got of late
  std::optional<Block> blending_;    ///< what was to be heard before a change, where the new comes in
  int gaps_ = 0;
  std::stop_source mixing_;          ///< calls off what is being mixed
  std::jthread thread_;  // last: it stops before the rest goes
};

}  // namespace molten
