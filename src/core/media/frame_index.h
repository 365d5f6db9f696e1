#pragma once
// Where every frame of a video file lies: made once, in the background, by walking its packets.

#include <cstdint>
#include <functional>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "core/files/read_file.h"
#include "core/media/demuxer.h"
#include "core/result.h"
#include "core/time/frame_clock.h"

namespace molten {

struct IndexedPacket {
  std::int64_t pts;    ///< in the stream's time base, or AV_NOPTS_VALUE
  std::int64_t dts;    ///< in the stream's time base, or AV_NOPTS_VALUE
  std::int64_t pos;    ///< byte in the file, or −1
  std::int32_t size;   ///< in bytes
  std::int32_t frame;  ///< its number as shown, or −1 for a packet that shows nothing
  bool key;            ///< decoding can begin here
};

struct FrameIndex {
  std::vector<IndexedPacket> packets;  ///< in the file's order
  std::vector<std::int32_t> frames;    ///< frame number to packet
  FrameClock clock = FrameClock::constant(25, 1);
  std::optional<FileStamp> stamp;     ///< of the file when it was walked
  std::vector<std::string> warnings;  ///< sentences: what was found amiss

  /// The packet to begin decoding from for a frame: the last key packet whose own picture is not shown after it.
  /// `stepsBack` key packets earlier on request. Packet 0 if there is none.
  std::int32_t startFor(std::int32_t frame, int stepsBack = 0) const;
  /// The frame that decoding of a frame begins with.
  std::int32_t startFrameFor(std::int32_t frame) const;
};

/// 0…1 while the index is made; called from the thread that makes it.
using Progress = std::function<void(double)>;

/// Walks the packets of a file. Where packets carry no time stamps, or the same one twice, the file is decoded
/// once instead, and the decoder's order counts. Fails if there is not one frame, or if asked to stop.
Result<FrameIndex> indexFrames(const std::string& path, const Progress& progress, std::stop_token stop);

}  // namespace molten
