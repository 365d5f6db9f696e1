#pragma once
// What a stage reads when a moment lies before the first frame or after the last.

#include <cstdint>

namespace molten {

enum class PastTheEnds { Hold, Bounce, Wrap, Clear };

/// No frame at all: the picture there is transparent black.
inline constexpr std::int32_t noFrame = -1;

/// The frame that stands for index i of a video of `count` frames (count >= 1).
/// Hold clamps; Bounce reflects without repeating the end frames (period 2·count − 2); Wrap takes i mod count;
/// Clear gives noFrame outside.
inline std::int32_t foldFrame(std::int64_t i, std::int64_t count, PastTheEnds past) {
  if (i >= 0 && i < count) return static_cast<std::int32_t>(i);
  switch (past) {
    case PastTheEnds::Hold:
      return static_cast<std::int32_t>(i < 0 ? 0 : count - 1);
    case PastTheEnds::Bounce: {
      if (count == 1) return 0;
      const std::int64_t period = 2 * count - 2;
      std::int64_t at = i % period;
      if (at < 0) at += period;
      return static_cast<std::int32_t>(at < count ? at : period - at);
    }
    case PastTheEnds::Wrap: {
      const std::int64_t at = i % count;
      return static_cast<std::int32_t>(at < 0 ? at + count : at);
    }
    case PastTheEnds::Clear:
      break;
  }
  return noFrame;
}

}  // namespace molten
