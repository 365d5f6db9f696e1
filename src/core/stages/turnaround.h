#pragma once
// Turnaround: makes a clip endless. One period of it is a loop; what follows never runs out of pictures.

#include "core/stages/stage.h"

namespace molten {

const StageKind& turnaround();

/// The pictures of the incoming video that a Turnaround goes round in: first and last.
struct Round {
  std::int64_t first = 0, last = 0;
  std::int64_t count() const { return last - first + 1; }
};
Round roundOf(const StageValues& values, const VideoDescription& incoming);
/// Values for going round from `first` to `last`.
StageValues withRound(StageValues values, const Round& round, const VideoDescription& incoming);

}  // namespace molten
