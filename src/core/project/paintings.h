#pragma once
// The painted pictures of a project, which stand in files of their own beside it.

#include "core/files/safe_file.h"
#include "core/project/project.h"

namespace molten {

/// Reads those that are named and not there yet. What cannot be read stays named; the sentence says the first of them.
Status readPaintings(Chain& chain);

/// Those of all chains of a project that is to be saved at `path`, under temporary names, and the paintings are named
/// so: `stem-painted-` and sixteen digits that tell one picture from every other. Thus no file is ever written over
/// that a project of before may name, and none is written twice.
Result<std::vector<SafeFile>> writePaintings(const std::vector<Chain*>& chains, const std::string& path);
/// Removes painted pictures of the project saved at `path` that no project and no starter in its folder names any more.
void removeUnnamedPaintings(const std::string& path);

}  // namespace molten
