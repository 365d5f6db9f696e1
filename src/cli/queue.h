#pragma once
// The list of renders, from the command line.

#include <stop_token>

#include "cli/arguments.h"

namespace molten {

/// It waits there until `molten-render --queue` runs, or the window does.
int putIntoQueue(const Arguments& a, const RenderSettings& settings);
/// Renders what waits.
int runQueue(const Arguments& a, std::stop_token stop);

}  // namespace molten
