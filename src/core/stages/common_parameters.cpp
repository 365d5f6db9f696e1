#include "core/stages/common_parameters.h"

namespace molten {

namespace {

const std::vector<ChoiceOf<PastTheEnds>>& endsChoices() {
  static const std::vector<ChoiceOf<PastTheEnds>> choices = {
      {PastTheEnds::StandStill, {"stand-still", "Stand still", "The end frame stands still."}},
      {PastTheEnds::TurnBack, {"turn-back", "Turn back", "Time runs back from the end."}},
      {PastTheEnds::GoRound, {"go-round", "Go round", "Time goes on from the other end."}},
      {PastTheEnds::Transparent,
       {"transparent", "Transparent", "Nothing, or black where there is no alpha."}}};
  return choices;
}

}  // namespace

ChoiceHandle<PastTheEnds> pastTheEndsIn(ParameterList& list) {
  return list.choice<PastTheEnds>(
      {"past-the-ends", "Past the ends", "Past the ends",
       "What is shown where a moment before the first frame or after the last is read.", false, {},
       Figure::Outside},
      endsChoices(), PastTheEnds::StandStill);
}

ChoiceHandle<PastTheEnds> pastTheEndsIn(ParameterList& list, const std::string& card, PastTheEnds initial,
                                        ParameterDescription::Conditions when) {
  return list.choice<PastTheEnds>({"past-the-ends", "Past the ends", card,
                                   "What is shown where a moment before its beginning or after its end is meant.", false, std::move(when)},
                                  endsChoices(), initial);
}

const std::vector<ChoiceOf<InBetween>>& inBetweens() {
  static const std::vector<ChoiceOf<InBetween>> choices = {
      {InBetween::Whole, {"whole", "Whole frames", "The nearer frame as it is: every sample is a sample of the footage."}},
      {InBetween::Mixed, {"mixed", "Mixed", "The two frames mixed by how near they are."}},
      {InBetween::Flow,
       {"flow", "Flow", "What moves is moved: a picture made along the motion between the two."}}};
  return choices;
}

const ChoiceDescription& describedEnds(PastTheEnds ends) {
  const auto& choices = endsChoices();
  return std::find_if(choices.begin(), choices.end(), [&](const auto& one) { return one.meant == ends; })->described;
}

ChoiceHandle<Light> reckonedIn(ParameterList& list, const std::string& card, Light initial) {
  return list.choice<Light>({"reckoned-in", "Reckoned in", card, "The light in which pictures are mixed."},
                            {{Light::Display, {"display", "Display", "Values as they are shown."}},
                             {Light::Linear, {"linear", "Linear", "Amounts of light, as a lens would add them up."}}},
                            initial);
}

}  // namespace molten
