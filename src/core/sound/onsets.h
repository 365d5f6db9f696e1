#pragma once
// Where sounds begin: hits, words, notes.

#include <cstdint>
#include <vector>

#include "core/sound/sound.h"

namespace molten {

/// Sample numbers, rising, of the onsets within `first` … `last` − 1. `sensitivity`: 0 only the clearest … 1 all that could
/// be one. Found by aubio in the course of the spectrum, then moved to where the sound rises most steeply.
Result<std::vector<std::int64_t>> onsetsIn(const SoundSource& source, std::int64_t first, std::int64_t last,
                                           double sensitivity, std::stop_token stop);

}  // namespace molten
