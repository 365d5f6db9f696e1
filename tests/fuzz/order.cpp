// Frame orders.
#include "core/project/project.h"
#include "fuzz/text.h"

extern "C" int LLVMFuzzerTestOneInput(const std::uint8_t* bytes, std::size_t count) {
  using namespace molten;
  const auto stage = parseStage("frame-order:order=" + fuzz::textOf(bytes, count), 25);
  if (!stage) return 0;
  const VideoDescription video{{64, 36}, 1, 25, 50};
  const auto map = stage->kind->timeMap(*stage, video);
  for (const std::int64_t n : {0, 1, 7}) (void)map->readAt({n});
  fuzz::require(map->outgoing().length >= 1);
  fuzz::require(static_cast<bool>(parseStage(stageText(*stage), 25)));
  return 0;
}
