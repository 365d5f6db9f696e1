#pragma once
// Values of a stage by the ids of its parameters.

#include <gtest/gtest.h>

#include "core/field/painting.h"
#include "core/project/project.h"
#include "core/stages/stage.h"

namespace molten {

template <class Value>
const Value& valueOf(const Stage& stage, std::string_view id) {
  return std::get<Value>(stage.values[parameterIndex(stage.kind->description(), id)]);
}

/// The id of what is chosen.
inline const std::string& chosenOf(const Stage& stage, std::string_view id) {
  const std::size_t i = parameterIndex(stage.kind->description(), id);
  return std::get<ChoicesDescription>(stage.kind->description().parameters[i].kind)
      .choices[std::get<std::size_t>(stage.values[i])]
      .id;
}

/// Stages as the command line has them; those of branches too.
inline Chain chainOf(const std::vector<std::string>& texts) {
  Chain chain;
  for (const std::string& text : texts) {
    const auto added = appendStage(chain, text, 25);
    EXPECT_TRUE(added) << (added ? "" : added.error().message);
  }
  return chain;
}

/// A value as it is written.
inline void setText(Stage& stage, std::string_view id, const std::string& text) {
  const std::size_t i = parameterIndex(stage.kind->description(), id);
  stage.values[i] = *parseValue(stage.kind->description().parameters[i], text, 30);
}

inline void setTo(Stage& stage, std::string_view id, const ParameterValue& value) {
  stage.values[parameterIndex(stage.kind->description(), id)] = value;
}

/// A Time Field with a stroke from one place of its painting to another, in pixels.
inline Stage paintedField(Size size, const Brush& brush, Place from, Place to) {
  Stroke stroke(std::make_shared<const PaintedPicture>(size), brush);
  stroke.to(from.x, from.y);
  Stage stage = *parseStage("time-field:shape=painted", 25);
  setTo(stage, "painted", Painting{"", stroke.to(to.x, to.y)});
  return stage;
}

}  // namespace molten
