#include "core/stages/cards.h"

#include <algorithm>

namespace molten {
namespace {

/// A label within a line.
std::string within(std::string label) {
  if (!label.empty() && label[0] >= 'A' && label[0] <= 'Z') label[0] = static_cast<char>(label[0] - 'A' + 'a');
  return label;
}

/// A number's label, without decimals that say nothing.
std::string shortLabel(const ParameterDescription& parameter, const ParameterValue& value) {
  std::string label = valueLabel(parameter, value);
  const auto point = label.find('.');
  if (point == std::string::npos) return label;
  auto end = point + 1;
  while (end < label.size() && label[end] >= '0' && label[end] <= '9') ++end;
  auto keep = end;
  while (label[keep - 1] == '0') --keep;
  if (keep == point + 1) --keep;
  return label.erase(keep, end - keep);
}

/// What a parameter has to say; empty: nothing.
std::string wordsOf(const ParameterDescription& parameter, const ParameterValue& value) {
  if (const auto* choices = std::get_if<ChoicesDescription>(&parameter.kind))
    return within(choices->choices[std::get<std::size_t>(value)].label);
  if (std::holds_alternative<ToggleDescription>(parameter.kind))
    return std::get<bool>(value) ? within(parameter.label) : std::string();
  if (value == initialValue(parameter)) return {};
  if (std::holds_alternative<NumberDescription>(parameter.kind) ||
      std::holds_alternative<PlaceDescription>(parameter.kind))
    return within(parameter.label) + " " + shortLabel(parameter, value);
  if (std::holds_alternative<CurveDescription>(parameter.kind)) return within(parameter.label) + " drawn";
  return valueLabel(parameter, value);
}

}  // namespace

const CardDescription& cardOf(const StageDescription& description, std::string_view title) {
  static const CardDescription daily;
  const auto known = std::find_if(description.cards.begin(), description.cards.end(),
                                  [&](const CardDescription& card) { return card.title == title; });
  return known == description.cards.end() ? daily : *known;
}

std::string cardWords(const StageDescription& description, const StageValues& values, std::string_view title) {
  std::string words;
  for (std::size_t i = 0; i < description.parameters.size(); ++i) {
    if (description.parameters[i].card != title || !isInUse(description, values, i)) continue;
    const std::string more = wordsOf(description.parameters[i], values[i]);
    if (!more.empty()) words += (words.empty() ? "" : " · ") + more;
  }
  return words.empty() ? "as it comes" : words;
}

}  // namespace molten
