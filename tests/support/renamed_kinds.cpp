#include "support/renamed_kinds.h"

#include <algorithm>

namespace molten::test {

RenamedKind::RenamedKind(const StageKind& own, int number) : own_(own), described_(own.description()) {
  const auto numbered = [&](const std::string& what, std::size_t i) {
    return what + std::to_string(number) + "-" + std::to_string(i);
  };
  const StageDescription& before = own.description();
  described_.id = numbered("kind-", 0);
  described_.label = numbered("Kind ", 0);
  for (std::size_t i = 0; i < described_.parameters.size(); ++i) {
    ParameterDescription& parameter = described_.parameters[i];
    parameter.id = numbered("value-", i);
    parameter.was.clear();
    parameter.label = numbered("Value ", i);
    parameter.card = newCard(parameter.card);
    if (auto* choices = std::get_if<ChoicesDescription>(&parameter.kind))
      for (std::size_t k = 0; k < choices->choices.size(); ++k) choices->choices[k].id = numbered("choice-", k);
    for (auto& when : parameter.when) {
      const std::size_t hinge = parameterIndex(before, when.parameter);
      when.parameter = numbered("value-", hinge);
      for (std::string& choice : when.choices) {
        const auto& known = std::get<ChoicesDescription>(before.parameters[hinge].kind).choices;
        choice = numbered("choice-", static_cast<std::size_t>(
                                         std::find_if(known.begin(), known.end(),
                                                      [&](const auto& one) { return one.id == choice; }) -
                                         known.begin()));
      }
    }
  }
  for (CardDescription& card : described_.cards) card.title = newCard(card.title);
  for (std::size_t i = 0; i < described_.actions.size(); ++i) {
    described_.actions[i].id = numbered("action-", i);
    described_.actions[i].label = numbered("Action ", i);
    described_.actions[i].card = newCard(described_.actions[i].card);
  }
}

std::vector<StageNote> RenamedKind::notes(const StageValues& values, const VideoDescription& incoming,
                                          Rational outputRate) const {
  auto notes = own_.notes(values, incoming, outputRate);
  for (StageNote& note : notes) note.card = newCard(note.card);
  return notes;
}

StageValues RenamedKind::picked(StageValues values, std::string_view action, const PickedPlace& place,
                                const VideoDescription& incoming) const {
  for (std::size_t i = 0; i < described_.actions.size(); ++i)
    if (described_.actions[i].id == action) action = own_.description().actions[i].id;
  return own_.picked(std::move(values), action, place, incoming);
}

Stage RenamedKind::acted(const Stage& stage, std::string_view action, const VideoDescription& incoming) const {
  for (std::size_t i = 0; i < described_.actions.size(); ++i)
    if (described_.actions[i].id == action) action = own_.description().actions[i].id;
  Stage own = stage;
  own.kind = &own_;
  own = own_.acted(own, action, incoming);
  own.kind = this;
  return own;
}

RenamedKinds::RenamedKinds() {
  int number = 0;
  for (const StageKind* kind : stageKinds()) kinds_.push_back(std::make_unique<RenamedKind>(*kind, ++number));
  for (const auto& kind : kinds_) offered_.push_back(kind.get());
  offerStageKinds(offered_);
}

const RenamedKind& RenamedKinds::of(const StageKind& own) const {
  return **std::find_if(kinds_.begin(), kinds_.end(), [&](const auto& kind) { return &kind->own() == &own; });
}

}  // namespace molten::test
