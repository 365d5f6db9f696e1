#pragma once
// The painted pictures of a project, which stand in files of their own beside it.

#include "core/project/project.h"

namespace molten {

/// Reads those that are named and not there yet. What cannot be read stays named; the sentence says the first of them.
Status readPaintings(Chain& chain);
/// Writes those of all chains of a project beside it, which is saved at `path`, and names them so:
/// `stem-painted-1.png`, and so on.
Status writePaintings(const std::vector<Chain*>& chains, const std::string& path);

}  // namespace molten
