#include "core/stages/common_parameters.h"

namespace molten {

ParameterDescription pastTheEndsParameter() {
  return {
      "past-the-ends",
      "Past the ends",
      "Past the ends",
      "What is shown where a moment before the first frame or after the last is read.",
      false,
      ChoicesDescription{{{"hold", "Hold", "The end frame stands still."},
                          {"bounce", "Bounce", "Time turns round at the end and runs back."},
                          {"wrap", "Wrap", "Time goes on from the other end."},
                          {"clear", "Clear", "Nothing: transparent, or black where the file holds no transparency."}},
                         0}};
}

ParameterDescription inBetweenParameter() {
  return {
      "in-between",
      "In-between",
      "In-between frames",
      "What is shown between two source frames.",
      false,
      ChoicesDescription{{{"nearest", "Nearest", "The nearer frame as it is: every sample is a source sample."},
                          {"blend", "Blend", "The two frames mixed by how near they are."},
                          {"flow", "Flow", "What moves is moved: a picture made along the motion between the two."}},
                         0}};
}

PastTheEnds pastTheEndsOf(const ParameterValue& value) {
  return static_cast<PastTheEnds>(std::get<std::size_t>(value));
}
InBetween inBetweenOf(const ParameterValue& value) {
  return static_cast<InBetween>(std::get<std::size_t>(value));
}

}  // namespace molten
