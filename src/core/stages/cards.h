#pragma once
// The cards that a stage's parameters stand on.

#include <string>
#include <string_view>

#include "core/stages/stage.h"

namespace molten {

/// Of a card by its title; of one that says nothing of itself: daily, with nothing said on it.
const CardDescription& cardOf(const StageDescription& description, std::string_view title);

/// How a card's parameters stand, in one line: what is chosen and switched on, and what is not as it was at first;
/// `levels to 0.800 · mirror`. Parameters that do not count are left out.
std::string cardWords(const StageDescription& description, const StageValues& values, std::string_view title);

}  // namespace molten
