#pragma once
// What a stage reads when a moment lies before the first picture of its video or after the last.

#include <algorithm>
#include <cmath>
#include <cstdint>
#include <optional>

#include "core/time/moment.h"

namespace molten {

enum class PastTheEnds { StandStill, TurnBack, GoRound, Transparent };

/// No frame at all: the picture there is transparent black.
inline constexpr std::int32_t noFrame = -1;

/// The frame that stands for index i of a video of `count` frames (count >= 1).
/// StandStill clamps; TurnBack reflects without repeating the end frames (period 2·count − 2); GoRound takes i mod
/// count; Transparent gives noFrame outside.
inline std::int32_t foldFrame(std::int64_t i, std::int64_t count, PastTheEnds past) {
  if (i >= 0 && i < count) return static_cast<std::int32_t>(i);
  switch (past) {
    case PastTheEnds::StandStill:
      return static_cast<std::int32_t>(i < 0 ? 0 : count - 1);
    case PastTheEnds::TurnBack: {
      if (count == 1) return 0;
      const std::int64_t period = 2 * count - 2;
      std::int64_t at = i % period;
      if (at < 0) at += period;
      return static_cast<std::int32_t>(at < count ? at : period - at);
    }
    case PastTheEnds::GoRound: {
      const std::int64_t at = i % count;
      return static_cast<std::int32_t>(at < 0 ? at + count : at);
    }
    case PastTheEnds::Transparent:
      break;
  }
  return noFrame;
}

/// True if a position needs no folding: of a video that goes round, within its round; of others, from its first picture
/// to its last, or where pictures may be left empty, as near to them as a frame reaches.
inline bool liesWithin(double position, std::int64_t count, PastTheEnds past) {
  const auto last = static_cast<double>(count - 1);
  if (past == PastTheEnds::GoRound) return position >= -samePosition && position < last + 1 - samePosition;
  if (past == PastTheEnds::Transparent) return position >= -0.5 - samePosition && position < last + 0.5 - samePosition;
  return position >= 0 && position <= last;
}

/// The position within a video of `count` pictures that stands for one outside of it, as foldFrame() says of whole
/// ones; not rounded. None where nothing is.
inline std::optional<double> foldPosition(double position, std::int64_t count, PastTheEnds past) {
  if (liesWithin(position, count, past)) return position;
  const auto last = static_cast<double>(count - 1);
  switch (past) {
    case PastTheEnds::StandStill:
      return std::clamp(position, 0.0, last);
    case PastTheEnds::TurnBack: {
      if (last <= 0) return 0;
      double at = std::fmod(position, 2 * last);
      if (at < 0) at += 2 * last;
      return at > last ? 2 * last - at : at;
    }
    case PastTheEnds::GoRound: {
      const double at = std::fmod(position, last + 1);
      return at < -samePosition ? at + last + 1 : at;
    }
    case PastTheEnds::Transparent:
      break;
  }
  return std::nullopt;
}

/// The same of a moment, exact as far as the moment is.
std::optional<Moment> foldMoment(const Moment& moment, std::int64_t count, PastTheEnds past);

}  // namespace molten
