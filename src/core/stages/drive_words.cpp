#include "core/stages/drive_words.h"

#include <algorithm>

#include "core/stages/key_text.h"

namespace molten {
namespace {

/// On one parameter.
constexpr std::size_t mostDrives = 16;

/// How far a parameter may be moved, in its own unit.
ParameterDescription amountOf(const ParameterDescription& parameter) {
  ParameterDescription amount = parameter;
  amount.id = "amount", amount.label = "Amount", amount.card.clear(), amount.when = {}, amount.was.clear();
  amount.animatable = false;
  amount.help = "How far it goes either way.";
  if (auto* const number = std::get_if<NumberDescription>(&amount.kind)) {
    const double range = number->most - number->least;
    number->initial = std::min(range, std::round(100 * std::abs(number->usual)) / 1000);
    if (number->whole) number->initial = std::max(1.0, std::round(number->initial));
    if (number->unit == Unit::Degrees) number->initial = 5;
    number->least = number->unit == Unit::PerSecond || number->unit == Unit::Times ? 0.01 : 0, number->most = range, number->usual = std::min(range, std::abs(number->usual));
    number->whole = false, number->none = nullptr, number->tense = Tense::None;
  } else if (auto* const place = std::get_if<PlaceDescription>(&amount.kind)) {
    place->initial = {0.05, 0.05};
  } else if (auto* const colour = std::get_if<ColourDescription>(&amount.kind)) {
    colour->initial = {32, 32, 32};
  }
  return amount;
}

ParameterDescription goesTo(const ParameterDescription& parameter) {
  ParameterDescription at = parameter;
  at.id = "goes-to", at.label = "Goes to", at.card.clear(), at.when = {}, at.was.clear(), at.animatable = false;
  at.help = "The value when what is followed is at its lower end.";
  if (auto* const number = std::get_if<NumberDescription>(&at.kind))
    number->initial = std::clamp(0.0, number->least, number->most);
  return at;
}

ParameterDescription number(const char* id, const char* label, const char* help, NumberDescription kind) {
  return {id, label, "", help, false, kind};
}
/// Counts where loudness is followed.
ParameterDescription heard(const char* id, const char* label, const char* help, NumberDescription kind) {
  ParameterDescription described = number(id, label, help, kind);
  described.when = {{"follows", {"loudness"}}};
  return described;
}
ParameterDescription choice(const char* id, const char* label, const char* help, std::vector<ChoiceDescription> all) {
  return {id, label, "", help, false, ChoicesDescription{std::move(all), 0}};
}

std::vector<std::string_view> split(std::string_view text, char by) {
  std::vector<std::string_view> parts;
  while (true) {
    const auto at = text.find(by);
    parts.push_back(text.substr(0, at));
    if (at == std::string_view::npos) return parts;
    text.remove_prefix(at + 1);
  }
}

std::optional<std::size_t> kindNamed(std::string_view id) {
  const auto& kinds = driveKinds();
  const auto found = std::find_if(kinds.begin(), kinds.end(), [&](const auto& kind) { return kind.id == id; });
  return found == kinds.end() ? std::nullopt : std::optional<std::size_t>(found - kinds.begin());
}

}  // namespace

const std::vector<DriveDescription>& driveKinds() {
  static const std::vector<DriveDescription> kinds = {
      {"jitter", "Jitter", "It trembles about where it stands, by lot."},
      {"wave", "Wave", "It goes to and fro evenly."},
      {"follow", "Follow", "It goes by how fast the shot runs, how bright the picture is, or how loud a sound is."},
  };
  return kinds;
}

std::vector<ParameterDescription> driveParameters(std::size_t kind, const ParameterDescription& parameter) {
  if (kind == 0)
    return {amountOf(parameter),
            number("times", "Times", "How often it is drawn anew.",
                   {Unit::Times, 0.01, 1000, 8, 1, 30, 2, Tense::None}),
            choice("goes", "Goes", "How it comes from one draw to the next.",
                   {{"smooth", "Smooth", "It glides from each to the next."},
                    {"steps", "In steps", "Each stands until the next one."}}),
            number("seed", "Seed", "Another number: other draws.",
                   {Unit::None, 0, 99999, 1, 1, 100, 0, Tense::None, true})};
  if (kind == 1)
    return {amountOf(parameter),
            number("length", "Length", "From one wave to the next.",
                   {Unit::Seconds, 0.001, 86400, 1, 0.1, 10, 3, Tense::None}),
            choice("form", "Form", "How it goes to and fro.",
                   {{"sine", "Sine", "Rounded at both ends."},
                    {"triangle", "Triangle", "Straight to and fro."},
                    {"square", "Square", "From the one end to the other at once."},
                    {"saw", "Saw", "Straight up, and back at once."}}),
            number("phase", "Phase", "How far it is on its way at the beginning.",
                   {Unit::Percent, 0, 1, 0, 0.05, 1, 0, Tense::None})};
  const Follow::Listening usual;
  std::vector<ChoiceDescription> followed{
      {"speed", "Speed", "How fast the shot runs there, either way: 100 % as it was shot."},
      {"loudness", "Loudness", "How loud a sound is there: 0 % at -60 dB, 100 % at full scale."},
      {"brightness", "Brightness", "How bright the picture is as a whole: 0 % black, 100 % white."}};
  if (parameter.ofSound) followed.pop_back();
  return {choice("follows", "Follows", "What it goes by.", std::move(followed)),
          goesTo(parameter),
          number("from", "Lower end", "Of what is followed: there the value has gone all the way.",
                 {Unit::Percent, -100, 100, 0, 0.05, 1, 1, Tense::None}),
          number("to", "Upper end", "Of what is followed: from there on the value stays as it is.",
                 {Unit::Percent, -100, 100, 1, 0.05, 1, 1, Tense::None}),
          heard("sound", "Sound", "Which one, as the lanes are numbered; own: the shot's.",
                {Unit::None, 0, static_cast<double>(Follow::Listening::none), 0, 1, 8, 0, Tense::None, true, "own"}),
          heard("low", "Low end", "Of the band that is listened to.", {Unit::Hertz, 0, 20000, 0, 10, 2000, 0, Tense::None, true, "none"}),
          heard("high", "High end", "Of the band that is listened to.", {Unit::Hertz, 0, 20000, 0, 10, 2000, 0, Tense::None, true, "none"}),
          heard("attack", "Attack", "How long it takes to go from 0 to 100 % at least.",
                {Unit::Seconds, 0, 10, usual.attack, 0.01, 1, 3, Tense::None}),
          heard("release", "Release", "How long it takes to go from 100 to 0 % at least.",
                {Unit::Seconds, 0, 10, usual.release, 0.05, 2, 3, Tense::None})};
}

Drive newDrive(std::size_t kind, const ParameterDescription& parameter) {
  StageValues values;
  for (const ParameterDescription& own : driveParameters(kind, parameter)) values.push_back(initialValue(own));
  return driveOf(kind, values);
}

StageValues driveValues(const Drive& drive, const ParameterDescription& parameter) {
  if (const auto* jitter = std::get_if<Jitter>(&drive))
    return {keyedParameter(amountOf(parameter), jitter->amount), jitter->perSecond,
            static_cast<std::size_t>(jitter->smooth ? 0 : 1), static_cast<double>(jitter->seed)};
  if (const auto* wave = std::get_if<Wave>(&drive))
    return {keyedParameter(amountOf(parameter), wave->amount), wave->length, static_cast<std::size_t>(wave->shape),
            wave->phase};
  const Follow& follow = std::get<Follow>(drive);
  const Follow::Listening& by = follow.listening;
  return {static_cast<std::size_t>(follow.what), keyedParameter(goesTo(parameter), follow.at), follow.from, follow.to,
          static_cast<double>(by.sound), by.low, by.high, by.attack, by.release};
}

Drive driveOf(std::size_t kind, const StageValues& values) {
  if (kind == 0)
    return Jitter{keyValue(values[0]), std::get<double>(values[1]), std::get<std::size_t>(values[2]) == 0,
                  static_cast<std::uint32_t>(std::get<double>(values[3]))};
  if (kind == 1)
    return Wave{keyValue(values[0]), std::get<double>(values[1]),
                static_cast<Wave::Shape>(std::get<std::size_t>(values[2])), std::get<double>(values[3])};
  return Follow{static_cast<Follow::What>(std::get<std::size_t>(values[0])), keyValue(values[1]),
                std::get<double>(values[2]), std::get<double>(values[3]),
                {static_cast<std::size_t>(std::get<double>(values[4])), std::get<double>(values[5]), std::get<double>(values[6]),
                 std::get<double>(values[7]), std::get<double>(values[8])}};
}

bool isMovementText(const ParameterDescription& parameter, std::string_view text) {
  return parameter.animatable && (isKeysText(parameter, text) || text.find('_') != std::string_view::npos);
}

Result<Movement> parseMovement(const ParameterDescription& parameter, std::string_view text, Rational rate) {
  const auto parts = split(text, '_');
  Movement movement;
  if (isKeysText(parameter, parts[0])) {
    auto keys = parseKeys(parameter, parts[0], rate);
    if (!keys) return keys.error();
    movement.value = keyedParameter(parameter, keys->front().value);
    movement.keys = std::move(*keys);
  } else {
    auto value = parseValue(parameter, parts[0], rate);
    if (!value) return value.error();
    movement.value = std::move(*value);
  }
  for (std::size_t at = 1; at < parts.size();) {
    const auto kind = kindNamed(parts[at]);
    if (!kind)
      return Error{"After _ stands jitter, wave or follow and what belongs to it, like _jitter_0.5_8; \"" +
                   std::string(parts[at]) + "\" is none of them."};
    const std::string name(parts[at++]);
    StageValues values;
    for (const ParameterDescription& own : driveParameters(*kind, parameter)) {
      if (at == parts.size() || kindNamed(parts[at])) {
        values.push_back(initialValue(own));
        continue;
      }
      auto value = parseValue(own, parts[at], rate);
      if (!value) return Error{"Of " + parameter.label + "'s " + name + ": " + value.error().message};
      const auto* place = std::get_if<Place>(&*value);
      if (own.id == "amount" && place && (place->x < 0 || place->y < 0))
        return Error{"Of " + parameter.label + "'s " + name + ": an amount is not below 0."};
      values.push_back(std::move(*value));
      ++at;
    }
    movement.drives.push_back(driveOf(*kind, values));
    if (movement.drives.size() > mostDrives) return Error{"A value may be moved in 16 ways at most."};
  }
  return movement;
}

std::string movementText(const ParameterDescription& parameter, const Movement& movement) {
  std::string text =
      movement.keys.empty() ? valueText(parameter, movement.value) : keysText(parameter, movement.keys);
  for (const Drive& drive : movement.drives) {
    const auto own = driveParameters(drive.index(), parameter);
    const StageValues values = driveValues(drive, parameter);
    text += "_" + driveKinds()[drive.index()].id;
    // The first two are always said.
    std::size_t said = values.size();
    while (said > 2 && values[said - 1] == initialValue(own[said - 1])) --said;
    for (std::size_t i = 0; i < said; ++i) text += "_" + valueText(own[i], values[i]);
  }
  return text;
}

std::string driveLabel(const Drive& drive, const ParameterDescription& parameter) {
  const auto own = driveParameters(drive.index(), parameter);
  const StageValues values = driveValues(drive, parameter);
  const std::string first = valueLabel(own[0], values[0]), second = valueLabel(own[1], values[1]);
  if (std::holds_alternative<Follow>(drive)) return driveKinds()[drive.index()].label + " " + first + " → " + second;
  return driveKinds()[drive.index()].label + " ±" + first + ", " + second;
}

}  // namespace molten
