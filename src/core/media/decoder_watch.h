#pragma once
// What a decoder has to say for itself, and how much memory it may take.

#include <cstdint>
#include <mutex>
#include <set>
#include <string>

#include "core/media/av_handles.h"
#include "core/picture/picture.h"
#include "core/result.h"

namespace molten {

/// Put to a decoder, it refuses pictures that are too large before there is any memory for them, and remembers packets
/// that the decoder complained of. Must outlive the decoder.
class DecoderWatch {
 public:
  /// Before the decoder is opened.
  void attach(AVCodecContext& decoder);
  /// Before packet `number` is sent.
  static void announce(AVCodecContext& decoder, std::int64_t number) { decoder.reordered_opaque = number; }
  /// True once for a packet that the decoder complained of. What refers to packets before a jump is complained of too.
  bool complainedOf(std::int64_t packet);
  /// The size of a picture that was refused; 0 × 0: none was.
  Size refused() const;
  static Error sentence(const std::string& name, Size refused);

  /// For libav's log.
  void complain(std::int64_t packet);
  void refuse(Size size);

 private:
  static int give(AVCodecContext* decoder, AVFrame* frame, int flags);

  mutable std::mutex mutex_;
  Size refused_;
  std::set<std::int64_t> complaints_;
};

}  // namespace molten
