#pragma once
// What a decoder has to say for itself, and how much memory it may take.

#include <cstdint>
#include <mutex>
#include <set>
#include <string>
#include <vector>

#include "core/media/av_handles.h"
#include "core/picture/picture.h"
#include "core/result.h"

namespace molten {

/// Watches one decoder: it refuses frames that are too large before memory is taken for them, and it remembers the packets
/// that the decoder complained of. It must outlive the decoder. A decoder reports from threads of its own; every function
/// but attach() and announce() may be called from any thread.
class DecoderWatch {
 public:
  /// Call it once, when the decoder's number of threads is set and before the decoder is opened.
  void attach(AVCodecContext& decoder);
  /// Call it before packet `number` is sent to the decoder; until then complaints count for packet -1.
  void announce(AVCodecContext& decoder, std::int64_t number);
  /// True once for a packet that the decoder complained of. A packet that refers to others from before a jump is complained
  /// of as well.
  bool complainedOf(std::int64_t packet);
  /// The size in pixels of a frame that was refused; 0 × 0 if none was.
  Size refused() const;
  static Error sentence(const std::string& name, Size refused);

  /// libav's log calls these two.
  void complain(std::int64_t packet);
  void refuse(Size size);

  /// What a decoder's `opaque` points to: libav hands it, as it stands when a packet is sent, to the thread that decodes
  /// that packet.
  struct Announced {
    DecoderWatch* watch = nullptr;
    std::int64_t packet = -1;
  };

 private:
  static int give(AVCodecContext* decoder, AVFrame* frame, int flags);

  /// Used in turn. There are more of them than packets can be in work at once, which is one for each thread.
  std::vector<Announced> announced_;
  std::size_t next_ = 0;
  mutable std::mutex mutex_;
  Size refused_;
  std::set<std::int64_t> complaints_;
};

}  // namespace molten
