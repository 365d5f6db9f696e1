#pragma once
// Sound on its way into a file: encoded, and beside pictures where there are some.

#include <cstdint>
#include <functional>
#include <memory>
#include <string>
#include <vector>

#include "core/media/av_handles.h"
#include "core/sound/loudness.h"
#include "core/sound/sound.h"

namespace molten {

/// `AAC`: what sound becomes in a file with this ending; empty: such a file holds none.
std::string soundIn(const std::string& extension);

/// The sound of a file that is being written. What is louder than full scale is cut there, and remembered.
class SoundTrack {
 public:
  using Put = std::function<Status(AVPacket&)>;
  /// Adds a stream for it before the file's header is written. `put` takes packets that are ready, time stamps and all.
  static Result<std::unique_ptr<SoundTrack>> open(AVFormatContext& format, const std::string& extension, Put put);

  /// The samples that follow those written so far.
  Status write(const Sound& sound);
  /// Nothing follows.
  Status finish();
  /// Samples so far.
  std::int64_t samples() const { return samples_; }
  /// The loudest sample, and which it was: above 1 it has been cut.
  float loudest() const { return loudest_; }
  std::int64_t loudestAt() const { return loudestAt_; }
  const Loudness& loudness() const { return loudness_; }

 private:
  explicit SoundTrack(Put put) : put_(std::move(put)) {}
  Status encode(std::size_t samples);
  Status drain();

  Put put_;
  AVStream* stream_ = nullptr;
  AvHandle<AVCodecContext> encoder_;
  AvHandle<AVPacket> packet_ = newPacket();
  std::vector<float> waiting_;
  std::int64_t samples_ = 0, encoded_ = 0, loudestAt_ = 0;
  float loudest_ = 0;
  Loudness loudness_;
};

}  // namespace molten
