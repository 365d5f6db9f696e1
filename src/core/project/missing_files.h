#pragma once
// Files that a project names and that are not there, and where they are found again.

#include <functional>
#include <stop_token>
#include <string>
#include <vector>

#include "core/project/project.h"

namespace molten {

/// Each path of footage, pictures, sounds and other sources that a project names, of both versions of the chain and of all
/// branches, to be read or changed; `stage`: that reads it, nullptr: it is the shot's footage. Paintings are not among them:
/// those belong to the project itself.
void forEachPath(Project& project, const std::function<void(std::string& path, const Stage* stage)>& act);

struct MissingFile {
  std::string path;
  std::string readBy;  ///< the titles of the stages that do, in a list; empty: it is the shot's footage, and perhaps more
  friend bool operator==(const MissingFile&, const MissingFile&) = default;
};
/// Each path once, the shot's footage first. Asks the disk.
std::vector<MissingFile> missingFiles(const Project& project, const std::stop_token& stop = {});

/// The project with every stage and sound switched off that reads a path at which there is no file or folder, in the chains that are
/// rendered; a sentence is added for each. The footage of the shots is not looked at. Asks the disk.
Project withoutMissing(const Project& before, std::vector<std::string>& said);

/// One that was missing is read as `found`. So are all the others that lie there now as they did before: beside it under their
/// names, or as far off from it as they were. Rates, in and out stay, since it is the same footage. Asks the disk.
Edit withFound(const Project& before, const std::vector<MissingFile>& missing, const std::string& path,
               const std::string& found);

}  // namespace molten
