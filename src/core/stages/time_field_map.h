#pragma once
// Time Field: V(x, y, t + d(x, y, t)). The values that it has, and the map that they make.

#include "core/field/field_shaping.h"
#include "core/stages/shape_parameters.h"

namespace molten {

enum class StartHolds { MovesWithNow, Pinned };

struct TimeFieldParameters {
  ParameterList list;
  ShapeParameters shape;
  ParameterHandle<bool> flip;
  ParameterHandle<double> back, ahead;
  ChoiceHandle<StartHolds> startHolds;
  ParameterHandle<double> pinnedMoment, takeHold, letGo, letGoOver;
  ChoiceHandle<PastTheEnds> pastTheEnds;
  ParameterHandle<double> panes, dither;
  ParameterHandle<bool> fresh;
  ParameterHandle<double> ditherSeed, levelsFrom, levelsTo, outFrom, outTo;
  ParameterHandle<CurvePoints> response;
  ParameterHandle<double> repeat;
  ParameterHandle<bool> mirror;
  ChoiceHandle<SecondShape> combine;
  ShapeParameters second;
  TimeFieldParameters();
};
const TimeFieldParameters& timeFieldParameters();

/// d in seconds, with f the field after all shaping, t the moment and T0 the pinned one, w the pin's hold:
///   d = w·(1 − f)·(T0 − t) + (1 − w)·(f·(back + ahead) − back)
/// w is 0 where the field moves with now. Pinned it is 0 until the pin takes hold (from the start, if that is 0), 1
/// from there until it lets go (never, if that is 0), and 0 after that; in between s²·(3 − 2·s), or 1 less that, s
/// rising from 0 to 1 for as long as it takes. Only where another field is: d times that one's f. Dither adds, in
/// frames, `dither`·(u − v) with u and v even in 0…1, hashes of the pixel, the seed and, where fresh, the picture's
/// number.
std::unique_ptr<TimeMap> timeFieldMap(const Stage& stage, const VideoDescription& incoming, const Surroundings& around);

/// How far the pin holds at a moment, 0…1; 0 where there is none.
double pinHold(const StageValues& values, double seconds);

}  // namespace molten
