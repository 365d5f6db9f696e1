// Keys and drives of a parameter, and stages as the command line writes them.
#include "core/project/project.h"
#include "fuzz/text.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  using namespace molten;
  const std::string text = fuzz::textOf(bytes, count);
  for (const std::string& written : {"time-field:back=" + text, "time-field:centre=" + text, "strips:line-colour=" + text, text}) {
    const auto stage = parseStage(written, 25);
    if (!stage) continue;
    const auto again = parseStage(stageText(*stage), 25);
    fuzz::require(static_cast<bool>(again));
    for (const double at : {-1.0, 0.0, 0.3, 2.0, 1e6}) (void)stage->valuesAt(at);
  }
  return 0;
}
