#pragma once
// Dials for words: a text of several lines, and the name of a typeface.

#include "app/dials/dial_kinds.h"

namespace molten {

/// Requires a parameter of words.
Dial wordsDial(const ParameterDescription& parameter, const DialHand& hand);

}  // namespace molten
