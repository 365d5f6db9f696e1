// Scales of time maps.
#include "core/engine/time_map_file.h"
#include "fuzz/text.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  using namespace molten;
  const auto stage = stageOfTimeMap(fuzz::fileOf(bytes, count, "map.time-map.json"));
  if (!stage) return 0;
  (void)stage->kind->timeMap(*stage, {{64, 36}, 1, 25, 50})->reach();
  fuzz::require(static_cast<bool>(parseStage(stageText(*stage), 25)) || stageText(*stage).find(',') != std::string::npos);
  return 0;
}
