#pragma once
// Renders on many machines by Slurm: an array of tasks that make pieces, and a job that joins them.

#include "cli/arguments.h"

namespace molten {

int renderBySlurm(const Arguments& a, const RenderSettings& settings);

}  // namespace molten
