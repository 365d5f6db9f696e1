#pragma once
// Frames of footage by their number, one thread at a time.

#include <functional>
#include <stop_token>

#include "core/picture/picture.h"
#include "core/result.h"

namespace molten {

/// Called with every frame that was decoded on the way, the wanted one included.
using FrameSink = std::function<void(std::int32_t frame, const Picture&)>;

class FrameReader {
 public:
  virtual ~FrameReader() = default;
  /// Frame n (0 <= n < the footage's frame count), exactly, in any order. A frame that is damaged beyond decoding
  /// is replaced by the one before it (by the one after it at the start).
  virtual Result<Picture> read(std::int32_t n, const FrameSink& sink, std::stop_token stop) = 0;
  /// True if frame n is best reached by decoding on from here.
  virtual bool staysFor(std::int32_t n) const = 0;
  /// How many frames have to be decoded to reach frame n from here. Requires staysFor(n).
  virtual std::int32_t distanceTo(std::int32_t n) const = 0;
  /// From so many frames before a wanted one on everything is decoded on the way to it; of what comes before only what others
  /// refer to. 0: all is decoded.
  virtual void passOver(std::int32_t) {}
  /// Footage::startOf() frame n, as quickly as it can be had; for a reader that is used for this alone.
  virtual Result<Picture> readStart(std::int32_t n) { return read(n, {}, {}); }
};

}  // namespace molten
