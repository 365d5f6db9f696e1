// Patterns of numbered stills, as they are read and written.
#include "core/media/picture_writer.h"
#include "core/media/stills_reader.h"
#include "fuzz/text.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  using namespace molten;
  const std::string pattern = fuzz::textOf(bytes, count);
  OutputSpec spec;
  spec.path = pattern;
  spec.shape.size = {64, 36};
  const auto plan = planOutput(spec);
  if (plan && isStillsPattern(pattern)) {
    fuzz::require(stillPath(pattern, 7).size() <= pattern.size() + 24);
    fuzz::require(stillPath(pattern, 7) != stillPath(pattern, 8));
  }
  (void)isAmongStills("/films/a-0001.png", pattern);
  return 0;
}
