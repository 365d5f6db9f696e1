#pragma once
// Sound that is the same to the bit on every processor: its sums are rounded in another order where more of them are made at once.

#include <mutex>

extern "C" {
#include <libavutil/cpu.h>
}

namespace molten {

/// While it lives, what libav prepares makes do with what every 64-bit x86 processor has. For decoders, encoders and resamplers of
/// sound; pictures' are exact however they are made, and one that is prepared at the same moment is but slower.
class PlainProcessor {
 public:
  PlainProcessor() : lock_(mutex()), flags_(av_get_cpu_flags()) {
    av_force_cpu_flags(flags_ & (AV_CPU_FLAG_MMX | AV_CPU_FLAG_MMXEXT | AV_CPU_FLAG_SSE | AV_CPU_FLAG_SSE2));
  }
  ~PlainProcessor() { av_force_cpu_flags(flags_); }
  PlainProcessor(const PlainProcessor&) = delete;
  PlainProcessor& operator=(const PlainProcessor&) = delete;

 private:
  static std::mutex& mutex() {
    static std::mutex one;
    return one;
  }
  std::scoped_lock<std::mutex> lock_;
  int flags_;
};

}  // namespace molten
