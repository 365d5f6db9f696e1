#pragma once
// Samples on their way from a thread that mixes to a sound device, which must never wait.

#include <atomic>
#include <cstdint>
#include <span>
#include <vector>

#include "core/sound/sound.h"

namespace molten {

/// One run of a device. Samples are numbered from its start. One thread writes ahead, or several under a lock of theirs; the device's
/// thread reads, without a lock and without memory. What has been given stays readable for a while, to tell how loud it is.
class SoundStream {
 public:
  /// So many samples stay readable, those that are still to come among them.
  static constexpr std::int64_t held = 2 * soundRate;

  /// Puts samples at a place that is not given yet; what lies between what is mixed so far and that is silent.
  void write(std::int64_t first, std::span<const float> values);
  /// What is mixed from this sample on is not given any more, but for what the device is just taking.
  void cutBack(std::int64_t to);
  /// Nothing is given any more.
  void end() { ended_ = true; }

  /// On the device's thread: the next samples; silence where nothing is mixed.
  void read(std::span<float> out) noexcept;

  /// Until where it is mixed, and given.
  std::int64_t mixed() const { return mixed_.load(std::memory_order_acquire); }
  std::int64_t given() const { return given_.load(std::memory_order_acquire); }
  /// How often something was asked for that was not mixed.
  int gaps() const { return gaps_; }
  /// A sample of the last two seconds; 0 where none was mixed.
  float at(std::int64_t sample, int channel) const;

 private:
  std::size_t placeOf(std::int64_t sample) const { return static_cast<std::size_t>(sample % held) * soundChannels; }

  std::vector<std::atomic<float>> values_ = std::vector<std::atomic<float>>(static_cast<std::size_t>(held) * soundChannels);
  std::atomic<std::int64_t> mixed_ = 0, given_ = 0;
  std::atomic<int> gaps_ = 0;
  std::atomic<bool> ended_ = false;
};

}  // namespace molten
