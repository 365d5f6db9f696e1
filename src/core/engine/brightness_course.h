#pragma once
// How bright a video is from its beginning to its end, so that values which follow it can be drawn.

#include <memory>
#include <optional>
#include <stop_token>
#include <vector>

#include "core/engine/measured_footage.h"
#include "core/stages/stage.h"

namespace molten {

/// Mean luma (0 black, 1 white) of the pictures 0, step, 2·step, …; straight between them.
struct BrightnessCourse {
  double step = 1;  ///< pictures, of the video's rate
  std::vector<double> values;
  /// `position`: in pictures; beyond the ends as there. NaN if nothing was measured.
  double at(double position) const;
  friend bool operator==(const BrightnessCourse&, const BrightnessCourse&) = default;
};

/// Of what leaves some stages. Looked at small, at some hundred moments at most; none if it was called off, or the footage
/// cannot be read.
std::optional<BrightnessCourse> measureBrightness(const MeasuredFootage& from, const Chain& upstream, std::stop_token stop);

/// What a stage follows that `in` enters, with a brightness that was measured; none: that is not known yet.
std::shared_ptr<const Followed> followedAs(const VideoDescription& in, const std::optional<BrightnessCourse>& brightness);

}  // namespace molten
