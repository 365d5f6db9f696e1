// Starter files: whatever opens can be fitted, and the fitted chain be saved and opened.
#include "core/project/project_file.h"
#include "core/project/starter.h"
#include "fuzz/text.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  using namespace molten;
  const auto starter = loadStarter(fuzz::fileOf(bytes, count, "starter"));
  if (!starter) return 0;
  Project project;
  project.chain = fitted(*starter, {{1920, 1080}, 1, 25, 100'000});
  fuzz::require(static_cast<bool>(parseProject(projectText(project, "/films"), "/films")));
  return 0;
}
