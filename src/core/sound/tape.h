#pragma once
// Sound along a curve, as a tape gives it: its pitch goes with its speed, and backwards it is heard backwards.

#include "core/sound/sound.h"
#include "core/sound/sound_curve.h"
#include "core/sound/voices.h"

namespace molten {

/// Fills `out` with the samples from number `first` on of what is heard of a source along a curve. Where that runs at its
/// own speed from a whole sample on, they are the source's to the bit. Between its samples it is found by a sinc under a
/// Kaiser window (J. O. Smith, "Digital Audio Resampling"), made wider by the speed above 100 %, so that nothing is heard
/// of frequencies that would not fit. A freeze is silent. The same whatever stretches it is asked for in.
Status tape(const SoundCurve& curve, const SoundSource& source, std::int64_t first, Sound& out, std::stop_token stop);

/// Adds a voice to `count` samples of `out` from index `at` on: what of it falls on the samples from index `lead` on.
Status addTape(const Voice& voice, const SoundSource& source, std::size_t lead, Sound& out, std::size_t at, std::size_t count,
               std::stop_token stop);

}  // namespace molten
