#include <algorithm>
#include <cmath>

#include "core/stages/frame_order_stage.h"
#include "core/stages/pace.h"
#include "core/stages/stage.h"
#include "core/stages/step_rate.h"
#include "core/stages/time_field.h"
#include "core/stages/turnaround.h"

namespace molten {

std::span<const StageKind* const> stageKinds() {
  // One line a kind.
  static const StageKind* const kinds[] = {
      &pace(), &stepRate(), &frameOrder(), &turnaround(), &timeField(),
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

void TimeMap::displacements(const PlaneSites&, int, std::span<double> out) const {
  std::fill(out.begin(), out.end(), 0.0);
}

std::vector<std::unique_ptr<TimeMap>> timeMaps(const Chain& chain, const VideoDescription& footage) {
  std::vector<std::unique_ptr<TimeMap>> maps;
  for (const Stage& stage : chain)
    if (stage.on) maps.push_back(stage.kind->timeMap(stage.values, maps.empty() ? footage : maps.back()->outgoing()));
  return maps;
}

VideoDescription videoAt(const Chain& chain, std::size_t stage, const VideoDescription& footage) {
  const auto maps = timeMaps({chain.begin(), chain.begin() + static_cast<std::ptrdiff_t>(stage)}, footage);
  return maps.empty() ? footage : maps.back()->outgoing();
}

std::size_t parameterIndex(const StageDescription& description, std::string_view id) {
  std::size_t i = 0;
  while (i < description.parameters.size() && description.parameters[i].id != id) ++i;
  return i;
}

}  // namespace molten
