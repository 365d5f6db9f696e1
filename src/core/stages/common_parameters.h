#pragma once
// Parameters that several stages have, described once.

#include "core/picture/working_format.h"
#include "core/stages/parameter_list.h"
#include "core/time/frame_clock.h"
#include "core/time/past_the_ends.h"

namespace molten {

ChoiceHandle<PastTheEnds> pastTheEndsIn(ParameterList& list);
ChoiceHandle<PastTheEnds> pastTheEndsIn(ParameterList& list, const std::string& card, PastTheEnds initial,
                                        ParameterDescription::Conditions when);
/// What is seen between two frames of a source.
const std::vector<ChoiceOf<InBetween>>& inBetweens();
/// What is shown there, as the choice's label and help say it.
const ChoiceDescription& describedEnds(PastTheEnds ends);
/// The light in which a stage reckons that mixes pictures.
ChoiceHandle<Light> reckonedIn(ParameterList& list, const std::string& card, Light initial);
/// A time, in seconds.
inline NumberDescription secondsNumber(double least, double most, double initial, double step, double usual,
                                       Tense tense = Tense::None, const char* none = nullptr) {
  return {Unit::Seconds, least, most, initial, step, usual, 3, tense, false, none};
}

}  // namespace molten
