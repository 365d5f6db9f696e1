#include "support/random_chains.h"

#include <algorithm>
#include <cmath>

#include "core/project/project.h"
#include "core/stages/drive_words.h"

namespace molten::test {
namespace {

constexpr double rate = 25;

}  // namespace

double RandomChains::numberFor(const NumberDescription& number) {
  // Rarely something far out; mostly what is of use on a clip of a few pictures.
  double least = number.least, most = std::max(number.usual, number.least);
  switch (number.unit) {
    case Unit::Seconds:
      least = std::max(least, -pictures_ / rate), most = std::min(number.most, pictures_ / rate * 1.3);
      break;
    case Unit::Frames:
      least = std::max(least, -3.0), most = std::min(most, 5.0);
      break;
    case Unit::PerSecond:
      most = 40;
      break;
    case Unit::Pixels:
      most = std::min(most, 90.0);
      break;
    default:
      most = std::min(most, 24.0);
      break;
  }
  double value = oneIn(4) && number.initial <= most ? number.initial : oneIn(8) ? number.least : between(least, most);
  // Whole pictures and halves of them are where things meet.
  if (number.unit == Unit::Seconds && oneIn(2)) value = std::round(value * rate * 2) / (rate * 2);
  // Rates are written as fractions.
  if (number.unit == Unit::PerSecond) value = std::round(value * 8) / 8;
  if (number.whole || oneIn(3)) value = std::round(value);
  return std::clamp(value, number.least, number.most);
}

ParameterValue RandomChains::valueFor(const ParameterDescription& parameter) {
  if (const auto* number = std::get_if<NumberDescription>(&parameter.kind)) return numberFor(*number);
  if (std::holds_alternative<PlaceDescription>(parameter.kind)) return Place{between(-0.2, 1.2), between(-0.2, 1.2)};
  if (std::holds_alternative<ToggleDescription>(parameter.kind)) return oneIn(2);
  if (const auto* choices = std::get_if<ChoicesDescription>(&parameter.kind))
    return static_cast<std::size_t>(within(0, static_cast<int>(choices->choices.size()) - 1));
  if (std::holds_alternative<SpansDescription>(parameter.kind)) {
    PaceSpans spans;
    for (int i = within(0, 4); i > 0; --i) {
      PaceSpan span{Rational(within(1, 3 * pictures_), 50), oneIn(4) ? Rational(0) : Rational(within(-300, 300), 100)};
      span.glide = oneIn(2) ? Rational(within(1, 20), 50) : Rational(0);
      span.bend = Rational(within(-100, 100), 100);
      span.side = static_cast<GlideSide>(within(0, 2));
      spans.push_back(span);
    }
    if (!spans.empty()) spans.back().glide = spans.back().bend = 0, spans.back().side = GlideSide::Around;
    return spans;
  }
  if (std::holds_alternative<OrderDescription>(parameter.kind)) {
    FrameOrder order;
    for (int i = within(0, 4); i > 0; --i)
      order.push_back({within(0, pictures_ + 2), within(0, pictures_ + 2), within(1, 3)});
    return order;
  }
  if (std::holds_alternative<CurveDescription>(parameter.kind)) {
    const double x = between(0.1, 0.9);
    return CurvePoints{{0, between(0, 1)}, {x, between(0, 1)}, {1, between(0, 1)}};
  }
  if (const auto* file = std::get_if<FileDescription>(&parameter.kind); file && file->isSource && !sources_.empty())
    return sources_[static_cast<std::size_t>(within(0, static_cast<int>(sources_.size()) - 1))];
  if (const auto* text = std::get_if<TextDescription>(&parameter.kind); text && !text->typeface)
    return std::string(oneIn(2) ? "Night, shift\\" : "two\nlines");
  if (std::holds_alternative<ColourDescription>(parameter.kind))
    return Colour{static_cast<std::uint8_t>(within(0, 255)), static_cast<std::uint8_t>(within(0, 255)), 7};
  return initialValue(parameter);
}

/// One or two ways in which a value moves.
Drives RandomChains::drives(const ParameterDescription& parameter) {
  Drives drives;
  for (int count = within(1, 2); count > 0; --count) {
    const auto kind = static_cast<std::size_t>(within(0, static_cast<int>(driveKinds().size()) - 1));
    StageValues values;
    for (const ParameterDescription& own : driveParameters(kind, parameter))
      values.push_back(oneIn(2) ? valueFor(own) : initialValue(own));
    for (std::size_t i = 0; i < values.size(); ++i)
      if (auto* const place = std::get_if<Place>(&values[i])) *place = {std::abs(place->x), std::abs(place->y)};
    drives.push_back(driveOf(kind, values));
  }
  return drives;
}

Stage RandomChains::stage(const StageKind& kind) {
  Stage stage = newStage(kind);
  const auto& parameters = kind.description().parameters;
  if (kind.description().branches && !sources_.empty() && !inBranch_) {
    inBranch_ = true;
    stage.branch = chain(within(0, 2));
    inBranch_ = false;
  }
  for (std::size_t i = 0; i < parameters.size(); ++i) {
    // Small clips do not become large pictures.
    const auto* const number = std::get_if<NumberDescription>(&parameters[i].kind);
    const bool large = number && number->unit == Unit::Pixels && number->initial > 90;
    if (!oneIn(2) && !large) continue;
    stage.values[i] = valueFor(parameters[i]);
    if (!parameters[i].animatable) continue;
    if (oneIn(8)) stage.drives[i] = drives(parameters[i]);
    if (!oneIn(6)) continue;
    KeyTrack track;
    for (int k = 0; k < 2; ++k)
      track.push_back(
          {Rational(k * within(1, pictures_), 25), keyValue(valueFor(parameters[i])), oneIn(2) ? softEase : Ease{}});
    if (track[0].at == track[1].at) continue;
    stage.values[i] = keyedParameter(parameters[i], track[0].value);
    stage.keys[i] = std::move(track);
  }
  return stage;
}

Chain RandomChains::chain(int stages) {
  const auto kinds = stageKinds();
  Chain chain;
  for (int i = 0; i < stages; ++i)
    chain.push_back(stage(*kinds[static_cast<std::size_t>(within(0, static_cast<int>(kinds.size()) - 1))]));
  return chain;
}

std::string chainWords(const Chain& chain) {
  std::string words;
  const auto say = [&](const Chain& some, const std::string& into, const auto& self) -> void {
    for (const Stage& stage : some) {
      words += (words.empty() ? "--stage " : " --stage ") + into + stageText(stage);
      self(stage.branch, into + stage.kind->description().id + "/", self);
    }
  };
  say(chain, "", say);
  return words;
}

}  // namespace molten::test
