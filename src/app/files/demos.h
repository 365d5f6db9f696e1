#pragma once
// The demonstrations that come with the application.

#include <QString>
#include <vector>

namespace molten {

struct Demo {
  QString path;
  QString shows;  ///< by what it shows, not by its file's name
};

/// In the order of the list that stands beside them; those whose files are there. None where the demo is not installed.
std::vector<Demo> demos();

}  // namespace molten
