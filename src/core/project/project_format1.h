#pragma once
// Reading what the first format wrote: the names of that time, and the nearest meaning today.

#include <nlohmann/json.hpp>

#include "core/time/frame_clock.h"
#include "core/time/rational.h"

namespace molten::format1 {

/// A stage as it is written today. What this does not know stays as it is, to be refused or kept by who reads on.
/// `rate`: of the footage; what was counted in seconds then and is in frames now is told in its frames.
nlohmann::ordered_json stageOfToday(const nlohmann::ordered_json& stage, Rational rate);
nlohmann::ordered_json chainOfToday(const nlohmann::ordered_json& chain, Rational rate);

/// What lay between two frames: then a setting of each stage, now of the footage. The best that any stage asked for.
InBetween betweenOf(const nlohmann::ordered_json& chain);

/// True if a chain counts something in seconds that is counted in frames today.
bool needsRate(const nlohmann::ordered_json& chain);

}  // namespace molten::format1
