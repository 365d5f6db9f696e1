#pragma once
// What the result of a project depends on: its file, and all that it and the projects that it reads name.

#include <filesystem>
#include <string>
#include <vector>

#include "core/project/project.h"
#include "core/result.h"

namespace molten {

/// By its ending: `.molten`.
bool namesProject(const std::string& path);
/// Each path once; the project's own first, then what is named in it. Reads every project among them. Fails with a sentence if one
/// cannot be read, contains itself by way of others, or lies too deep in them.
Result<std::vector<std::string>> filesBehind(const std::string& project);
/// All paths of a project, and of its result, in full: what it names stays the same wherever it is written.
void writePathsInFull(Project& project);
/// When the last of some was written; of none, or what is not there: the beginning of time.
std::filesystem::file_time_type lastWrittenOf(const std::vector<std::string>& files);

}  // namespace molten
