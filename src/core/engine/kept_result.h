#pragma once
// Results that are kept: rendered once to a lossless file beside their project, and read in its place until something changes that they
// depend on. The file's name tells what it was made of: `gather.kept-0123456789abcdef.mkv`.

#include <functional>
#include <optional>
#include <stop_token>
#include <string>
#include <vector>

#include "core/engine/render_job.h"
#include "core/result.h"

namespace molten {

/// The file that a project's result would be kept in now, by what it depends on (filesBehind()): their names seen from its folder, sizes, and
/// when they were written.
std::string keptNameOf(const std::vector<std::string>& filesBehind);
/// The file that can be read in a project's place; none: it is not kept, or something has changed since.
std::optional<std::string> currentKept(const std::string& project);
/// All files in which results of a project are kept, current or not.
std::vector<std::string> keptFiles(const std::string& project);

struct KeepSettings {
  std::size_t memoryBytes = std::size_t(1) << 30;
  int threads = 2;
};
/// Makes it as it is now, unless that is kept already, and removes what was kept before. Fails with a sentence: also where no lossless file holds such pictures as they
/// are. Nothing is left behind then.
Status keepResult(const std::string& project, const KeepSettings& settings, const std::function<void(const RenderProgress&)>& progress,
                  std::stop_token stop);
/// Its result is made again, picture by picture.
Status clearKept(const std::string& project);

}  // namespace molten
