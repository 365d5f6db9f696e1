#include <algorithm>
#include <cmath>

#include "core/stages/echoes.h"
#include "core/stages/finish.h"
#include "core/stages/frame_order_stage.h"
#include "core/stages/framing.h"
#include "core/stages/insert.h"
#include "core/stages/loop.h"
#include "core/stages/pace.h"
#include "core/stages/shutter.h"
#include "core/stages/slit_scan.h"
#include "core/stages/stage.h"
#include "core/stages/step_rate.h"
#include "core/stages/strips.h"
#include "core/stages/time_field.h"

namespace molten {
namespace {

std::span<const StageKind* const> ownKinds() {
  // One line a kind.
  static const StageKind* const kinds[] = {
      &pace(), &stepRate(), &frameOrder(), &loop(), &timeField(), &strips(), &slitScan(), &echoes(), &shutter(), &framing(), &finish(),
      &insert(),
  };
  return kinds;
}

std::span<const StageKind* const> otherKinds;

}  // namespace

std::span<const StageKind* const> stageKinds() {
  return otherKinds.empty() ? ownKinds() : otherKinds;
}

void offerStageKinds(std::span<const StageKind* const> kinds) {
  otherKinds = kinds;
}

const StageKind* findStageKind(std::string_view id) {
  for (const StageKind* kind : stageKinds())
    if (kind->description().id == id) return kind;
  return nullptr;
}

std::optional<Stage> StageKind::contrast(const Stage&) const {
  return std::nullopt;
}

Stage StageKind::withoutScatter(const Stage& stage) const {
  return stage;
}

Stage StageKind::acted(const Stage& stage, std::string_view, const VideoDescription&) const {
  return stage;
}

Stage StageKind::shownForColour(const Stage& stage, std::string_view) const {
  return stage;
}

const std::string& titleOf(const Stage& stage) {
  return stage.name.empty() ? stage.kind->description().label : stage.name;
}

Stage newStage(const StageKind& kind) {
  Stage stage;
  stage.kind = &kind;
  for (const auto& parameter : kind.description().parameters) stage.values.push_back(initialValue(parameter));
  return stage;
}

bool isInUse(const StageDescription& description, const StageValues& values, std::size_t parameter) {
  const auto isSo = [&](const ParameterDescription::Condition& when) {
    const std::size_t other = parameterIndex(description, when.parameter);
    if (!isInUse(description, values, other)) return false;
    if (!when.choices.empty()) {
      const auto& choices = std::get<ChoicesDescription>(description.parameters[other].kind).choices;
      const std::string& chosen = choices[std::get<std::size_t>(values[other])].id;
      return std::find(when.choices.begin(), when.choices.end(), chosen) != when.choices.end();
    }
    const auto* const number = std::get_if<double>(&values[other]);
    const auto* const path = std::get_if<std::string>(&values[other]);
    return number ? (when.atLeast > 0 ? *number >= when.atLeast : *number != 0) : path ? !path->empty() : std::get<bool>(values[other]);
  };
  const auto& all = description.parameters[parameter].when;
  return std::all_of(all.begin(), all.end(), [&](const auto& when) { return isSo(when) != when.unless; });
}

std::vector<std::unique_ptr<TimeMap>> timeMaps(const Chain& chain, const VideoDescription& footage,
                                               const std::shared_ptr<Material>& material, const Chain& under) {
  std::vector<std::unique_ptr<TimeMap>> maps;
  for (std::size_t k = 0; k < chain.size(); ++k) {
    if (!chain[k].on) continue;
    Surroundings around{material, nullptr};
    if (material) {
      Chain upstream = under;
      upstream.insert(upstream.end(), chain.begin(), chain.begin() + static_cast<std::ptrdiff_t>(k));
      around.upstream = std::make_shared<const Chain>(std::move(upstream));
    }
    maps.push_back(chain[k].kind->timeMap(chain[k], maps.empty() ? footage : maps.back()->outgoing(), around));
  }
  return maps;
}

VideoDescription videoAt(const Chain& chain, std::size_t stage, const VideoDescription& footage) {
  const auto maps = timeMaps({chain.begin(), chain.begin() + static_cast<std::ptrdiff_t>(stage)}, footage);
  return maps.empty() ? footage : maps.back()->outgoing();
}

std::size_t parameterIndex(const StageDescription& description, std::string_view id) {
  const auto& all = description.parameters;
  const auto by = [&](std::string ParameterDescription::*name) {
    return static_cast<std::size_t>(std::find_if(all.begin(), all.end(), [&](const auto& one) { return one.*name == id; }) -
                                    all.begin());
  };
  const std::size_t known = by(&ParameterDescription::id);
  return known < all.size() || id.empty() ? known : by(&ParameterDescription::was);
}

}  // namespace molten
