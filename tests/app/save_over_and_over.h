#pragma once
// A window in a process of its own that is to be killed while it saves.

#include <string>
#include <string_view>

#include "core/project/project.h"

namespace molten::test {

inline constexpr std::string_view saveOverAndOverWord = "--save-over-and-over";

/// Opens a project in the window, whose first stage is painted, and saves it over and over, painted as paintedProject()
/// is with one level and the other. A dot on the standard output for each save. Returns only if one fails.
int saveOverAndOver(const std::string& path);

/// `level`: of its stroke, 0…1.
Project paintedProject(double level);
inline constexpr double paintedLevels[] = {0.3, 0.8};

}  // namespace molten::test
