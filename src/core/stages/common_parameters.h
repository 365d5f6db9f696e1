#pragma once
// Parameters that several stages have, described once.

#include "core/stages/parameter.h"
#include "core/time/frame_clock.h"

namespace molten {

ParameterDescription pastTheEndsParameter();
ParameterDescription inBetweenParameter();

/// The enumerator that a choice of these parameters means.
PastTheEnds pastTheEndsOf(const ParameterValue& value);
InBetween inBetweenOf(const ParameterValue& value);

}  // namespace molten
