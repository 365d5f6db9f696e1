#pragma once
// A reel as OpenTimelineIO's JSON: what other programs read and write. See its "Serialized Data" and "Schema" documents: a
// Timeline.1 of one Track.1 with Clip.2, Transition.1, LinearTimeWarp.1 and FreezeFrame.1.

#include <string>
#include <vector>

#include "core/project/cut_list.h"

namespace molten {

/// A course that is no one speed stands in the clip's metadata, under `molten-clock`, as keys.
std::string otioText(const CutList& list);
/// Of the first video track; `lost` gets a sentence for each thing that is not taken. `folder`: relative paths begin there. Fails
/// with a sentence.
Result<CutList> parseOtio(const std::string& text, const std::string& folder, std::vector<std::string>& lost);

}  // namespace molten
