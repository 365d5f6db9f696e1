#include "app/session/stage_edits.h"

#include "core/time/pace_text.h"

namespace molten {

std::string nameOfChange(const Stage& stage, const StageValues& values, Rational at) {
  const StageValues before = stage.keyedAt(at.toDouble());
  const auto& parameters = stage.kind->description().parameters;
  for (std::size_t i = 0; i < values.size(); ++i)
    if (!(values[i] == before[i])) return parameters[i].label + " " + valueLabel(parameters[i], values[i]);
  return stage.kind->description().label;
}

void changeStage(Session& session, std::size_t stage, const StageValues& values, const std::string& gesture) {
  const Rational at = session.stageMoment(stage);
  session.apply(setValuesAt(session.project(), stage, values, at,
                            nameOfChange(session.project().chain[stage], values, at),
                            gesture + "@" + rationalText(at)));
}

}  // namespace molten
