#pragma once
// Keys as text: `1s@0s+3s@4s~ease`.

#include "core/stages/parameter.h"
#include "core/time/keys.h"

namespace molten {

/// True if a parameter's written value is keys rather than one value.
bool isKeysText(const ParameterDescription& parameter, std::string_view text);

/// Keys joined by `+`, each value@time, the time with its unit (s, ms, f of `rate`). A tilde says how the value comes
/// from the key before: `~linear` (as without), `~hold`, `~ease`, `~LEAVExARRIVE` in parts of the time between, 0 to 1.
/// Fails with a sentence that says what is wanted.
Result<KeyTrack> parseKeys(const ParameterDescription& parameter, std::string_view text, Rational rate);
/// The shortest text that is read back to the same keys. Requires keys.
std::string keysText(const ParameterDescription& parameter, const KeyTrack& track);

}  // namespace molten
