#pragma once
// Parameters that several stages have, described once.

#include "core/stages/parameter.h"
#include "core/time/frame_clock.h"

namespace molten {

ParameterDescription pastTheEndsParameter();
ParameterDescription inBetweenParameter();

/// A number, and the index of a choice, by the parameter's index.
inline double numberIn(const std::vector<ParameterValue>& values, std::size_t parameter) {
  return std::get<double>(values[parameter]);
}
inline std::size_t choiceIn(const std::vector<ParameterValue>& values, std::size_t parameter) {
  return std::get<std::size_t>(values[parameter]);
}

/// The enumerator that a choice of these parameters means.
PastTheEnds pastTheEndsOf(const ParameterValue& value);
InBetween inBetweenOf(const ParameterValue& value);

}  // namespace molten
