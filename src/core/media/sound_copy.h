#pragma once
// A file's sound on its way into another, as it lies there.

#include <functional>
#include <memory>
#include <string>

#include "core/media/demuxer.h"

namespace molten {

/// Packets are neither decoded nor encoded: what begins and ends within one goes along whole.
class SoundCopy {
 public:
  using Put = std::function<Status(AVPacket&)>;
  /// Adds a stream for it before the file's header is written. `from`: what is heard at so many seconds after the beginning of
  /// the file's pictures comes first. `put` takes packets, time stamps and all.
  static Result<std::unique_ptr<SoundCopy>> open(AVFormatContext& format, const std::string& path, Rational from, Put put);

  /// What begins within so many seconds from there on, and was not given yet.
  Status upTo(Rational seconds);

 private:
  SoundCopy(Demuxer demuxer, Put put) : demuxer_(std::move(demuxer)), put_(std::move(put)) {}

  Demuxer demuxer_;
  Put put_;
  AVStream* stream_ = nullptr;
  AvHandle<AVPacket> packet_ = newPacket();  ///< read, and not given yet
  std::int64_t from_ = 0;                    ///< by the file's clock, in its ticks
  bool waits_ = false, ended_ = false;
};

}  // namespace molten
