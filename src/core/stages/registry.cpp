#include <algorithm>
#include <cmath>

#include "core/stages/stage.h"
#include "core/stages/time_field.h"

namespace molten {

std::span<const StageKind* const> stageKinds() {
  // One line a kind.
  static const StageKind* const kinds[] = {
      &timeField(),
  };
  return kinds;
}

const StageKind* findStageKind(std::string_view id) {
  for (const StageKind* kind : stageKinds())
    if (kind->description().id == id) return kind;
  return nullptr;
}

Stage newStage(const StageKind& kind) {
  Stage stage;
  stage.kind = &kind;
  for (const auto& parameter : kind.description().parameters) stage.values.push_back(initialValue(parameter));
  return stage;
}

FrameReach frameReach(const Chain& chain, const VideoDescription& footage) {
  FrameReach total;
  for (const Stage& stage : chain) {
    if (!stage.on) continue;
    const auto map = stage.kind->timeMap(stage.values, footage);
    const Reach reach = map->reach();
    // Nearest goes over an end from half a frame on, Blend from any part of one.
    const double slack = map->inBetween() == InBetween::Nearest ? 0.5 : 1 - 1e-6;
    total.before += static_cast<std::int64_t>(std::max(0.0, -std::floor(reach.least + (slack == 0.5 ? 0.5 : 1e-6))));
    total.after += static_cast<std::int64_t>(std::max(0.0, std::floor(reach.most + slack)));
  }
  return total;
}

std::size_t parameterIndex(const StageDescription& description, std::string_view id) {
  std::size_t i = 0;
  while (i < description.parameters.size() && description.parameters[i].id != id) ++i;
  return i;
}

}  // namespace molten
