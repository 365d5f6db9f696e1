#include "core/project/files_read.h"

#include <algorithm>
#include <filesystem>

#include "core/media/stills_reader.h"
#include "core/project/files_behind.h"
#include "core/project/missing_files.h"

namespace molten {

FilesRead::FilesRead(const Project& project) {
  Project copy = project;
  forEachPath(copy, [this](const std::string& path, const Stage*) {
    add(path);
    if (!namesProject(path)) return;
    // What its result is made of.
    if (const auto behind = filesBehind(path))
      for (const std::string& file : *behind) add(file);
  });
  for (const Chain* const chain : chainsOf(copy)) addPaintings(*chain);
}

void FilesRead::addPaintings(const Chain& chain) {
  for (const Stage& stage : chain) {
    for (const ParameterValue& value : stage.values)
      if (const auto* painting = std::get_if<Painting>(&value)) add(painting->file);
    addPaintings(stage.branch);
  }
}

void FilesRead::add(const std::string& path) {
  if (path.empty()) return;
  std::error_code error;
  const auto identity = identityOf(path);
  const bool folder = std::filesystem::is_directory(path, error);
  if (identity && !folder) files_.insert(*identity);
  if (folder || (!identity && isStillsPattern(path))) {
    stills_.push_back(path);
    // Stills may be links to files elsewhere.
    if (const auto list = listStills(path))
      for (const std::string& still : list->paths)
        if (const auto each = identityOf(still)) files_.insert(*each);
  }
}

bool FilesRead::holds(const std::string& path) const {
  const auto identity = identityOf(path);
  if (identity && files_.contains(*identity)) return true;
  return std::any_of(stills_.begin(), stills_.end(),
                     [&](const std::string& where) { return isAmongStills(path, where); });
}

}  // namespace molten
