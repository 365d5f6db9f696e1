#pragma once
// What is heard while pictures run, or are pulled past: mixed ahead on a thread of its own, given to the device as it asks.

#include <chrono>
#include <condition_variable>
#include <memory>
#include <mutex>
#include <optional>
#include <stop_token>
#include <thread>

#include "app/sound/sound_device.h"
#include "app/sound/sound_stream.h"
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

/// Thread-safe. The device is started and stopped on the thread that mixes, when the first of a run is mixed: whoever asks waits
/// for nothing, and a run has no hole where it begins.
class Sounding {
 public:
  /// Told, from that thread, in a sentence: why the device cannot be played to (after that all goes by the clock), or what cannot
  /// be mixed and is silent.
  using Failed = std::function<void(const Error& error)>;
  /// `device`: not nullptr.
  explicit Sounding(std::unique_ptr<SoundDevice> device, Failed failed = nullptr);
  ~Sounding();

  /// Begins a run; what was heard ends.
  void play(const SoundRun& run);
  /// Goes on with another run as if it had begun when this one did: at once, but for what is on its way to be heard.
  void change(const SoundRun& run);
  /// A moment of it, while it is pulled past.
  void grain(const std::shared_ptr<const Heard>& heard, double seconds);
  void stop();
  bool sounds() const;

  /// Seconds since the run began, by what is heard by now; grows evenly. Below 0: it has not begun yet.
  double seconds() const;
  /// Of what is heard now; what was louder shortly before is still told.
  SoundLevels levels() const;
  /// Returns when as much is mixed as is mixed ahead, and the device has begun. For tests.
  void waitUntilMixed();
  /// How often the device has had to be silent because nothing was mixed yet.
  int gaps() const;

 private:
  struct Block {
    std::int64_t first = 0;  ///< sample since the start of the device
    Sound sound;
  };
  /// What the device is doing.
  enum class DeviceState { Rests, Begins, Plays };
  void work(std::stop_token stop);
  void mixNext(std::unique_lock<std::mutex>& lock);
  void startDevice(std::unique_lock<std::mutex>& lock);
  void restDevice(std::unique_lock<std::mutex>& lock);
  void begin(const SoundRun& run);
  std::int64_t mixedUntil() const;

  std::unique_ptr<SoundDevice> device_;
  const Failed failed_;
  mutable std::mutex mutex_;
  std::condition_variable_any changed_;
  std::optional<SoundRun> run_;
  std::uint64_t runNumber_ = 0;
  bool grains_ = false;
  DeviceState state_ = DeviceState::Rests;
  bool anew_ = false;                ///< the device is to begin with this run
  std::optional<std::chrono::steady_clock::time_point> byClock_;  ///< since then, where the device has failed
  std::int64_t origin_ = 0;          ///< sample at which the run begins
  std::shared_ptr<SoundStream> stream_ = std::make_shared<SoundStream>();  ///< to the device: another one each time it starts
  std::optional<Block> blending_;    ///< what was to be heard before a change, where the new comes in
  std::string told_;                 ///< the last sentence about what cannot be mixed
  std::stop_source mixing_;          ///< calls off what is being mixed
  std::jthread thread_;  // last: it stops before the rest goes
};

}  // namespace molten
