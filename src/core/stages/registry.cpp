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
  Stage stage{&kind, true, {}};
  for (const auto& parameter : kind.description().parameters) stage.values.push_back(initialValue(parameter));
  return stage;
}

std::size_t parameterIndex(const StageDescription& description, std::string_view id) {
  std::size_t i = 0;
  while (i < description.parameters.size() && description.parameters[i].id != id) ++i;
  return i;
}

}  // namespace molten
