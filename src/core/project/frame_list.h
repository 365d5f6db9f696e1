#pragma once
// What every picture of a result reads, as a table: comma-separated values (RFC 4180).

#include <string>
#include <vector>

#include "core/project/cut_list.h"

namespace molten {

/// One line a picture: its number, its second, the shot's number and name, the file, the file's pictures a second, the frame that is
/// read and the fraction towards the next one; in a dissolve the share of the next shot as well, whose own line follows.
std::string frameListText(const Project& project, const Played& played, const std::vector<std::shared_ptr<const ChainReading>>& readings);
/// A run of lines of one shot is a clip, as listed: at one speed or by its keys. `folder`: relative paths begin there. Fails with a
/// sentence that names the line.
Result<CutList> parseFrameList(const std::string& text, const std::string& folder);

}  // namespace molten
