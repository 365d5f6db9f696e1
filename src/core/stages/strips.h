#pragma once

#include "core/stages/stage.h"

namespace molten {

/// Strips: the frame is cut into N strips that tile it exactly (strip_layout.h); strip i reads t − r(i)·stagger, r its
/// place in the order. Spread over the clip, the stagger is the clip's length over one more than the last place, so
/// that the strips lie evenly round a clip that goes round. Feather f (of a strip's width w): up to f·w/2 on either
/// side of a border both strips are seen, by 1/2 + distance/(f·w) and what is left of it. A rule is a line over each
/// border, as wide as it is said to be.
const StageKind& strips();

/// The same strips, each reading what the one beyond its nearest border reads: for measuring how different neighbours
/// are. Requires a stage of kind strips().
Stage neighboursOf(const Stage& strips);

}  // namespace molten
