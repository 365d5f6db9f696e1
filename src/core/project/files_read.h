#pragma once
// What a project reads, so that nothing of it is ever written over.

#include <set>
#include <string>
#include <vector>

#include "core/files/read_file.h"
#include "core/project/project.h"

namespace molten {

class FilesRead {
 public:
  /// Footage and all files of its stages, of both versions of the chain, and what the projects among them read. Looks at the folders of
  /// stills.
  explicit FilesRead(const Project& project);

  /// True if a file of this path is one of them, by whatever name, or would come to lie among stills that are read.
  bool holds(const std::string& path) const;

 private:
  void add(const std::string& path);
  void addPaintings(const Chain& chain);

  std::set<FileIdentity> files_;
  std::vector<std::string> stills_;  ///< patterns and folders
};

}  // namespace molten
