#pragma once
// The painted pictures of a project, which stand in files of their own beside it.

#include "core/project/project.h"

namespace molten {

/// Reads those that are named and not there yet. What cannot be read stays named; the sentence says the first of them.
Status readPaintings(Chain& chain);
/// Writes them beside a project that is saved at `path`, and names them so: `stem-painted-1.png`, and so on.
Status writePaintings(Chain& chain, const std::string& path);

}  // namespace molten
