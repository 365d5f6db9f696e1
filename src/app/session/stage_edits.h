#pragma once
// Edits of the selected stage at the playhead, as hands make them.

#include "app/session/session.h"

namespace molten {

/// `Centre 0.500 × 0.500`, after the first of the values that differ from the stage's at a moment.
std::string nameOfChange(const Stage& stage, const StageValues& values, Rational at);

/// Other values for a stage at the playhead: parts of one step while `gesture` and the playhead stay the same.
void changeStage(Session& session, std::size_t stage, const StageValues& values, const std::string& gesture);

}  // namespace molten
