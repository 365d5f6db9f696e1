#pragma once
// The paintings in a folder that nothing there uses any more.

#include <stop_token>
#include <string>
#include <vector>

#include "core/result.h"

namespace molten {

/// The full paths of the paintings in a folder that no project, no starter and no backup of one in it names. A save leaves
/// such files behind, because only the user knows whether something elsewhere still needs them. A painting counts as named
/// wherever the sixteen digits that stand for its samples are named, whatever stands before them.
/// Fails with a sentence if a file that may name paintings cannot be read: then it is not known what is unused.
Result<std::vector<std::string>> unnamedPaintings(const std::string& folder, std::stop_token stop = {});

}  // namespace molten
