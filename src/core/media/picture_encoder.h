#pragma once
// Pictures on their way to packets.

#include <functional>
#include <memory>

#include "core/media/av_handles.h"
#include "core/media/packet_sink.h"
#include "core/media/picture_writer.h"
#include "core/result.h"

namespace molten {

/// True if an encoder for this codec is installed.
bool canEncode(const std::string& codecId);

class PictureEncoder {
 public:
  using Put = std::function<Status(AVPacket&)>;
  virtual ~PictureEncoder() = default;
  /// What a header says of what will come; nullptr: of stills nothing. Known before the first picture.
  virtual Result<std::unique_ptr<EncodedStream>> stream() = 0;
  /// The next picture. Packets may come later.
  virtual Status encode(const Picture& picture) = 0;
  /// All that is still kept back.
  virtual Status finish() = 0;
  /// The last picture stands for so many more.
  virtual void stand(std::int64_t pictures) = 0;

  /// `from`: number of the first picture in the whole output. Where pictures are told by what differs from others, the encoder
  /// begins anew at each multiple of plan.closedGroup, with a fixed number of threads: so a packet depends on nothing but its
  /// group's pictures, whoever makes it.
  static std::unique_ptr<PictureEncoder> make(const OutputSpec& spec, const OutputPlan& plan, std::int64_t from, Put put);
};

}  // namespace molten
