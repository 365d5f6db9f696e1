#pragma once
// What values follow, from the beginning of a video to its end, so that they can be drawn.

#include <memory>
#include <optional>
#include <stop_token>
#include <vector>

#include "core/engine/measured_footage.h"
#include "core/stages/stage.h"

namespace molten {

/// How bright a video is, or how loud a sound, at the pictures 0, step, 2·step, …; straight between them.
struct MeasuredCourse {
  Follow by;        ///< what was measured; where it makes a value go does not count
  double step = 1;  ///< pictures, of the video's rate
  std::vector<double> values;
  /// `position`: in pictures; beyond the ends as there. NaN if nothing could be measured.
  double at(double position) const;
  friend bool operator==(const MeasuredCourse&, const MeasuredCourse&) = default;
};

/// What has to be measured for a stage: each once, and the same wherever it makes values go.
std::vector<Follow> toMeasure(const Stage& stage);
/// Of what leaves some stages, at some hundred moments at most (pictures are looked at small), or some thousand of a sound.
/// Without values if it cannot be read; none if it was called off.
std::optional<MeasuredCourse> measureCourse(const MeasuredFootage& from, const Chain& upstream, const Follow& by, std::stop_token stop);

/// What a stage follows that `in` enters, with what was measured; the rest is not known yet.
std::shared_ptr<const Followed> followedAs(const VideoDescription& in, std::vector<MeasuredCourse> measured);

}  // namespace molten
