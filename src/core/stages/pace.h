#pragma once
// Pace: V(x, y, P(t)), P the integral of a signed speed over output time. See core/time/pace_curve.h.

#include "core/stages/parameter_list.h"
#include "core/stages/stage.h"

namespace molten {

const StageKind& pace();
/// One that begins at a moment of what enters, in seconds, and runs on by spans.
Stage runningBy(double from, PaceSpans spans);

/// What edits of a Pace change.
struct PaceParameters {
  ParameterList list;
  ParameterHandle<double> from;
  ParameterHandle<PaceSpans> spans;
  ChoiceHandle<PastTheEnds> pastTheEnds;
  PaceParameters();
};
const PaceParameters& paceParameters();

/// The curve of a Pace stage's values on a video. Where no spans are written: the video from its start to its end at
/// 100 %.
PaceCurve paceCurve(const StageValues& values, const VideoDescription& incoming);

/// The slowest speed at which every picture of the output is a frame of its own: the output's rate over the footage's.
Rational slowestCleanSpeed(Rational footageRate, Rational outputRate);
/// How a span looks at an output rate.
enum class SpanLook {
  Clean,    ///< every picture is a frame of its own
  Freeze,   ///< one frame
  Repeats,  ///< frames are shown more than once; or in-between ones are made
  Skips     ///< frames are passed over: motion may look choppy
};
SpanLook lookOf(Rational speed, Rational footageRate, Rational outputRate);

}  // namespace molten
