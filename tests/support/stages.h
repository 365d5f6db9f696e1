#pragma once
// Values of a stage by the ids of its parameters.

#include "core/stages/stage.h"

namespace molten {

template <class Value>
const Value& valueOf(const Stage& stage, std::string_view id) {
  return std::get<Value>(stage.values[parameterIndex(stage.kind->description(), id)]);
}

inline void setTo(Stage& stage, std::string_view id, const ParameterValue& value) {
  stage.values[parameterIndex(stage.kind->description(), id)] = value;
}

}  // namespace molten
