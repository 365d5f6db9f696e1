#pragma once
// The painted pictures of a project, which stand in files of their own beside it.

#include <optional>
#include <string>

#include "core/files/safe_file.h"
#include "core/project/project.h"

namespace molten {

/// Reads those that are named and not there yet. What cannot be read stays named; the sentence says the first of them.
Status readPaintings(Chain& chain);

/// Those of all chains of a project that is to be saved at `path`, under temporary names, and the paintings are named
/// so: `stem-painted-` and sixteen digits that tell one picture from every other. Thus no file is ever written over
/// that a project of before may name, and none is written twice.
Result<std::vector<SafeFile>> writePaintings(const std::vector<Chain*>& chains, const std::string& path);
/// The sixteen digits of a path that ends like a painting's, `-painted-0123456789abcdef.png`; none of any other path.
std::optional<std::string> paintingDigits(const std::string& path);

}  // namespace molten
