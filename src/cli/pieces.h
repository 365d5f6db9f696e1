#pragma once
// Renders in pieces, from the command line.

#include <stop_token>

#include "cli/arguments.h"

namespace molten {

/// Writes the list of pieces and, where --piece says so, makes a share of them.
int renderInPieces(const Arguments& a, const RenderSettings& settings, std::stop_token stop);
/// A share of those whose list is there.
int makePieces(const Arguments& a, std::stop_token stop);
int joinThePieces(const Arguments& a, std::stop_token stop);

}  // namespace molten
