// Project files: whatever opens is saved, and opens again as the same.
#include "core/project/project_file.h"
#include "fuzz/text.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  using namespace molten;
  const auto project = parseProject(fuzz::textOf(bytes, count), "/films");
  if (!project) {
    fuzz::require(!project.error().message.empty());
    return 0;
  }
  const std::string saved = projectText(*project, "/films");
  const auto again = parseProject(saved, "/films");
  fuzz::require(static_cast<bool>(again));
  fuzz::require(projectText(*again, "/films") == saved);
  return 0;
}
