#pragma once

#include "core/stages/stage.h"

namespace molten {

/// Strips: the frame is cut into N strips that tile it exactly (strip_layout.h); strip i reads t − r(i)·stagger, r its
/// distance from the strip at now. Over the clip, the stagger is the clip's length over one more than the longest
/// distance, so that the strips lie evenly round a clip that goes round. Feather f (of a strip's width w): up to f·w/2
/// on either side of a border both strips are seen, by 1/2 + distance/(f·w) and what is left of it. A divider line lies
/// over each border, as wide as it is said to be. Tiles: each cell shows the whole picture, smaller, at its moment.
const StageKind& strips();

/// The same strips, each reading what the one beyond its nearest border reads: for measuring how different neighbours
/// are. Requires a stage of kind strips().
Stage neighboursOf(const Stage& strips);

}  // namespace molten
