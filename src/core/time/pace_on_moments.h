#pragma once
// A Pace set by moments of the output, as sounds give them: where they begin, how long they last.

#include <span>

#include "core/time/pace_edits.h"

namespace molten {

/// A mark at each moment that lies within the Pace; nothing changes in what is seen.
PaceSetting markEvery(const PaceSetting& pace, std::span<const Rational> moments);
/// The source runs back from the first moment on, again from the second, and so on by turns, as fast as it comes to the first;
/// after the last one it goes on as it came. `glide`: of each turn, no longer than a third of what lies between two.
PaceSetting turnAtEvery(const PaceSetting& pace, std::span<const Rational> moments, Rational glide);
/// The span begins at a moment and lasts so long, over the same stretch of source (a freeze as a freeze); what is before it is
/// cut off or goes on, what follows moves.
PaceSetting fitSpan(const PaceSetting& pace, std::size_t span, Rational begin, Rational length);

}  // namespace molten
