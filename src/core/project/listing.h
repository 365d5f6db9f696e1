#pragma once
// Lists of a reel in files: OpenTimelineIO (.otio), edit lists (.edl), what every picture reads (.csv).

#include <string>
#include <vector>

#include "core/project/cut_list.h"

namespace molten {

/// By the path's ending.
bool isListFile(const std::string& path);
/// Shots as they are listed. `rate`: of an edit list, which does not say its own. `lost`: a sentence for each thing that is not taken.
Result<Project> loadList(const std::string& path, Rational rate, std::vector<std::string>& lost);
/// Written whole or not at all. `lost`: a sentence for each thing that such a list cannot say.
Status saveList(const std::string& path, const Project& project, const Played& played,
                const std::vector<std::shared_ptr<const ChainReading>>& readings, std::vector<std::string>& lost);

/// Sentences about what is lost, as far as they can be read at a glance.
std::string inShort(const std::vector<std::string>& lost);

}  // namespace molten
