#pragma once
// The packets of the video, or of the sound, in one local file.

#include <memory>
#include <optional>
#include <string>

#include "core/media/av_handles.h"
#include "core/result.h"
#include "core/time/rational.h"

namespace molten {

class DecoderWatch;

/// The largest picture that is worked on: what fits a plane of 2^31 bytes with room to spare.
inline constexpr std::int64_t largestPicture = std::int64_t(32768) * 16384;

/// Opens nothing but the file it is given: no protocol, no playlist, no file that this one refers to.
class Demuxer {
 public:
  static Result<Demuxer> open(const std::string& path, AVMediaType kind = AVMEDIA_TYPE_VIDEO);
  ~Demuxer();
  Demuxer(Demuxer&&) noexcept;
  Demuxer& operator=(Demuxer&&) = delete;

  const AVStream& stream() const { return *format_->streams[streamIndex_]; }
  const AVFormatContext& format() const { return *format_; }
  const std::string& path() const { return path_; }
  /// When the pictures begin that lie beside this stream, in seconds by the file's clock; none: there are none.
  std::optional<Rational> picturesBegin() const;
  std::int64_t fileSize() const { return fileSize_; }
  /// A decoder for the stream, with `threads` threads, watched if a watch is given.
  Result<AvHandle<AVCodecContext>> decoder(int threads, DecoderWatch* watch = nullptr) const;

  /// The next packet of the stream, in place of what `packet` held. False at the end of what can be read.
  bool read(AVPacket& packet);
  /// Goes to the packet with this time stamp or before it. False if the file cannot do that.
  bool seek(std::int64_t timestamp);

 private:
  Demuxer() = default;
  AVFormatContext* format_ = nullptr;
  AVIOContext* io_ = nullptr;
  int streamIndex_ = 0;
  std::string path_;
  std::int64_t fileSize_ = 0;
};

}  // namespace molten
