#pragma once
// A folder of clips through one project: which there are, and what each becomes.

#include <stop_token>
#include <string>
#include <vector>

#include "core/result.h"

namespace molten {

/// A clip, and where its result goes.
struct EachClip {
  std::string path, output;
  friend bool operator==(const EachClip&, const EachClip&) = default;
};
/// Clips of a folder, and folders of numbered stills in it, by their names. `output`: a path with `%s` where the clip's name goes, without its
/// ending. Fails with a sentence: where nothing is found, two would become one file, or one would be written over a clip.
Result<std::vector<EachClip>> eachClipOf(const std::string& folder, const std::string& output, const std::stop_token& stop = {});

}  // namespace molten
