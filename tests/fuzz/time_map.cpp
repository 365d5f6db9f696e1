// Scales of time maps.
#include "core/engine/time_map_file.h"
#include "fuzz/text.h"

#include <algorithm>

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  using namespace molten;
  const auto stage = stageOfTimeMap(fuzz::fileOf(bytes, count, "map.time-map.json"));
  if (!stage) return 0;
  (void)stage->kind->timeMap(*stage, {{64, 36}, 1, 25, 50})->reach();
  // Written down it is the same stage, but where its file's name has a comma in it: those text has no way to hold.
  const std::string text = stageText(*stage);
  if (std::count(text.begin(), text.end(), ',') + 1 == std::count(text.begin(), text.end(), '=')) {
    const auto again = parseStage(text, 25);
    fuzz::require(again && stageText(*again) == text);
  }
  return 0;
}
