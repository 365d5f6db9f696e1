// Scales of time maps.
#include "core/engine/time_map_file.h"
#include "fuzz/text.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  using namespace molten;
  const auto stage = stageOfTimeMap(fuzz::fileOf(bytes, count, "map.time-map.json"));
  if (!stage) return 0;
  (void)stage->kind->timeMap(*stage, {{64, 36}, 1, 25, 50})->reach();
  // Written down it is the same stage.
  const std::string text = stageText(*stage);
  const auto again = parseStage(text, 25);
  fuzz::require(again && stageText(*again) == text);
  return 0;
}
