#pragma once
// Sound as all of the core works with it: two channels, left and right, of floats at one rate.

#include <cstdint>
#include <span>
#include <stop_token>
#include <vector>

#include "core/result.h"

namespace molten {

/// Samples a second. A sample is one moment of all channels; full scale is −1…1, and more is kept.
inline constexpr int soundRate = 48000;
inline constexpr int soundChannels = 2;

/// A stretch of it: left and right in turn.
class Sound {
 public:
  Sound() = default;
  /// Silent.
  explicit Sound(std::size_t samples) : values_(samples * soundChannels) {}

  std::size_t samples() const { return values_.size() / soundChannels; }
  float& at(std::size_t sample, int channel) { return values_[sample * soundChannels + static_cast<std::size_t>(channel)]; }
  float at(std::size_t sample, int channel) const {
    return values_[sample * soundChannels + static_cast<std::size_t>(channel)];
  }
  std::span<float> values() { return values_; }
  std::span<const float> values() const { return values_; }
  friend bool operator==(const Sound&, const Sound&) = default;

 private:
  std::vector<float> values_;
};

/// Something that can be heard at any moment. For several threads.
class SoundSource {
 public:
  virtual ~SoundSource() = default;
  /// Fills `out` with the samples from number `first` on (which may lie before the beginning or after the end, where it is
  /// silent). Fails if it is called off, or cannot be read.
  virtual Status read(std::int64_t first, Sound& out, std::stop_token stop) const = 0;
};

}  // namespace molten
