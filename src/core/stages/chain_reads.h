#pragma once
// Which moments of the footage a chain's result reads: rounded and quick, for drawing and for telling where it leaves
// the clip. Asks the stages' maps and knows nothing of their kinds.

#include <memory>
#include <optional>
#include <vector>

#include "core/stages/stage.h"

namespace molten {

/// Of one picture. Positions are in pictures of the footage from its first one, and may lie outside of it.
struct MomentReads {
  double now = 0;              ///< what a pixel that is not displaced reads
  double least = 0, most = 0;  ///< bounds of what all pixels read
  std::vector<double> taps;    ///< what is mixed in
  bool before = false;         ///< a stage reads before the first picture of its video
  bool after = false;          ///< a stage reads past the last one
};

/// Consecutive pictures of a result that read outside.
struct OutsideRun {
  std::int64_t first = 0, last = 0;
  bool before = false, after = false;
  std::int64_t count() const { return last - first + 1; }
};

class ChainReads {
 public:
  ChainReads(const Chain& chain, const VideoDescription& footage);

  const VideoDescription& footage() const { return videos_.front(); }
  const VideoDescription& outgoing() const { return videos_.back(); }
  /// `position`: in pictures of the chain's result from its first one.
  MomentReads at(double position) const;

 private:
  std::vector<std::unique_ptr<TimeMap>> maps_;
  std::vector<VideoDescription> videos_;  ///< that enter the stages, and the one that leaves
};

}  // namespace molten
