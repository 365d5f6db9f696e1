#include "core/project/project.h"

#include "core/stages/common_parameters.h"

#include <algorithm>

#include "core/near_word.h"
#include "core/stages/drive_words.h"

namespace molten {

Span spanOf(const Project& project, std::int64_t length) {
  Span span;
  span.first = std::clamp<std::int64_t>(project.in.value_or(0), 0, length - 1);
  span.last = std::clamp<std::int64_t>(project.out.value_or(length - 1), span.first, length - 1);
  return span;
}

std::vector<Chain*> chainsOf(Project& project) {
  std::vector<Chain*> all{&project.chain};
  if (project.versionB) all.push_back(&*project.versionB);
  for (Shot& shot : project.more) {
    all.push_back(&shot.chain);
    if (shot.versionB) all.push_back(&*shot.versionB);
  }
  all.push_back(&project.reelChain);
  return all;
}

FollowedSounds followedSounds(const Project& project) {
  constexpr auto loudness = Follow::What::Loudness;
  Project copy = project;
  const std::vector<Chain*> chains = chainsOf(copy);
  const bool follows = std::any_of(chains.begin(), chains.end(), [](const Chain* chain) { return anyFollows(*chain, loudness); });
  return follows ? FollowedSounds(project.sounds) : FollowedSounds();
}

Edit setValue(const Project& before, std::size_t stage, std::size_t parameter, const ParameterValue& value) {
  Edit edit{{}, before, {}};
  Stage& changed = edit.after.chain[stage];
  const ParameterDescription& described = changed.kind->description().parameters[parameter];
  changed.values[parameter] = withinRange(described, value);
  edit.name = described.label + " " + valueLabel(described, changed.values[parameter]);
  const bool gradual = std::holds_alternative<NumberDescription>(described.kind) ||
                       std::holds_alternative<PlaceDescription>(described.kind) ||
                       std::holds_alternative<CurveDescription>(described.kind) ||
                       std::holds_alternative<TextDescription>(described.kind);
  if (gradual) edit.mergeKey = std::to_string(stage) + ":" + described.id;
  return edit;
}

namespace {

/// The value of a parameter: of the key at a moment, if it has keys.
void putValue(Stage& stage, std::size_t parameter, const ParameterValue& value, Rational at) {
  const ParameterDescription& described = stage.kind->description().parameters[parameter];
  const ParameterValue within = withinRange(described, value);
  const auto keyed = stage.keys.find(parameter);
  if (keyed == stage.keys.end()) {
    stage.values[parameter] = within;
    return;
  }
  keyed->second = withKey(keyed->second, at, keyValue(within));
  stage.values[parameter] = keyedParameter(described, keyed->second.front().value);
}

}  // namespace

Edit setValueAt(const Project& before, std::size_t stage, std::size_t parameter, const ParameterValue& value,
                Rational at) {
  Edit edit = setValue(before, stage, parameter, value);
  const auto keyed = before.chain[stage].keys.find(parameter);
  if (keyed == before.chain[stage].keys.end()) return edit;
  edit.name = (keyAt(keyed->second, at) ? "" : "Key ") + edit.name;
  edit.after = before;
  putValue(edit.after.chain[stage], parameter, value, at);
  if (!edit.mergeKey.empty()) edit.mergeKey += "@" + rationalText(at);
  return edit;
}

Edit setValuesAt(const Project& before, std::size_t stage, const StageValues& values, Rational at,
                 const std::string& name, const std::string& mergeKey) {
  Edit edit{name, before, mergeKey.empty() ? std::string() : std::to_string(stage) + ":" + mergeKey};
  Stage& changed = edit.after.chain[stage];
  const StageValues now = changed.keyedAt(at.toDouble());
  for (std::size_t i = 0; i < values.size(); ++i)
    if (!(values[i] == now[i])) putValue(changed, i, values[i], at);
  return edit;
}

Edit setKeys(const Project& before, std::size_t stage, std::size_t parameter, const KeyTrack& track, Rational at,
             const std::string& name, const std::string& mergeKey) {
  Edit edit{name, before, mergeKey.empty() ? std::string() : std::to_string(stage) + ":" + mergeKey};
  Stage& changed = edit.after.chain[stage];
  if (track.empty()) {
    changed.values[parameter] = changed.keyedAt(at.toDouble())[parameter];
    changed.keys.erase(parameter);
    return edit;
  }
  changed.keys[parameter] = track;
  changed.values[parameter] = keyedParameter(changed.kind->description().parameters[parameter], track.front().value);
  return edit;
}

Edit setDrives(const Project& before, std::size_t stage, std::size_t parameter, const Drives& drives,
               const std::string& name, const std::string& mergeKey) {
  Edit edit{name, before, mergeKey.empty() ? std::string() : std::to_string(stage) + ":" + mergeKey};
  Stage& changed = edit.after.chain[stage];
  Movement movement = movementOf(changed, parameter);
  movement.drives = drives;
  setMovement(changed, parameter, movement);
  return edit;
}

Edit addStage(const Project& before, const StageKind& kind) {
  Edit edit{"Add " + kind.description().label, before, {}};
  edit.after.chain.push_back(newStage(kind));
  return edit;
}

Edit removeStage(const Project& before, std::size_t stage) {
  Edit edit{"Remove " + titleOf(before.chain[stage]), before, {}};
  edit.after.chain.erase(edit.after.chain.begin() + static_cast<std::ptrdiff_t>(stage));
  return edit;
}

Edit renameStage(const Project& before, std::size_t stage, const std::string& name) {
  Edit edit{"", before, {}};
  Stage& named = edit.after.chain[stage];
  named.name = name == named.kind->description().label ? "" : name;
  edit.name = "Rename to " + titleOf(named);
  return edit;
}

Edit insertStages(const Project& before, std::size_t at, const Chain& stages, const std::string& name) {
  Edit edit{name, before, {}};
  edit.after.chain.insert(edit.after.chain.begin() + static_cast<std::ptrdiff_t>(at), stages.begin(), stages.end());
  return edit;
}

Edit setChain(const Project& before, const Chain& chain, const std::string& name) {
  Edit edit{name, before, {}};
  edit.after.chain = chain;
  return edit;
}

Edit duplicateStage(const Project& before, std::size_t stage) {
  Edit edit{"Duplicate " + titleOf(before.chain[stage]), before, {}};
  edit.after.chain.insert(edit.after.chain.begin() + static_cast<std::ptrdiff_t>(stage) + 1, before.chain[stage]);
  return edit;
}

Edit moveStage(const Project& before, std::size_t stage, std::size_t to) {
  Edit edit{"Move " + titleOf(before.chain[stage]), before, {}};
  Chain& chain = edit.after.chain;
  const auto from = chain.begin() + static_cast<std::ptrdiff_t>(stage),
             target = chain.begin() + static_cast<std::ptrdiff_t>(to);
  if (from < target)
    std::rotate(from, from + 1, target + 1);
  else
    std::rotate(target, from, from + 1);
  return edit;
}

Edit switchStage(const Project& before, std::size_t stage, bool on) {
  Edit edit{titleOf(before.chain[stage]) + (on ? " on" : " off"), before, {}};
  edit.after.chain[stage].on = on;
  return edit;
}

Edit setSpan(const Project& before, std::optional<std::int64_t> in, std::optional<std::int64_t> out,
             const std::string& name) {
  Edit edit{name, before, {}};
  edit.after.in = in;
  edit.after.out = out;
  return edit;
}

Edit replaceFootage(const Project& before, const std::string& path, const std::string& name) {
  Edit edit{before.source.path.empty() ? "Open " + name : "Replace footage with " + name, before, {}};
  edit.after.source.path = path;
  edit.after.source.rate.reset();
  return edit;
}

Edit setSourceRate(const Project& before, Rational rate) {
  Edit edit{"Footage at " + rateText(rate) + " fps", before, {}};
  edit.after.source.rate = rate;
  return edit;
}

const std::vector<ChoiceDescription>& inBetweenChoices() {
  // In the order of InBetween.
  static const std::vector<ChoiceDescription> choices = [] {
    std::vector<ChoiceDescription> all;
    for (const auto& one : inBetweens()) all.push_back(one.described);
    return all;
  }();
  return choices;
}

std::optional<InBetween> inBetweenOf(std::string_view text) {
  const auto& choices = inBetweenChoices();
  for (std::size_t i = 0; i < choices.size(); ++i)
    if (choices[i].id == text || choices[i].label == text) return static_cast<InBetween>(i);
  return std::nullopt;
}

Edit setInBetween(const Project& before, InBetween between) {
  Edit edit{"In-between: " + inBetweenChoices()[static_cast<std::size_t>(between)].label, before, {}};
  edit.after.source.between = between;
  return edit;
}

Edit keepVersion(const Project& before) {
  Edit edit{"Keep as version B", before, {}};
  edit.after.versionB = before.chain;
  return edit;
}

Edit swapVersions(const Project& before) {
  Edit edit{"Change A and B over", before, {}};
  edit.after.chain = *before.versionB;
  edit.after.versionB = before.chain;
  return edit;
}

Edit setValues(const Project& before, std::size_t stage, const StageValues& values, const std::string& name,
               const std::string& mergeKey) {
  Edit edit{name, before, mergeKey.empty() ? std::string() : std::to_string(stage) + ":" + mergeKey};
  Stage& changed = edit.after.chain[stage];
  const auto& parameters = changed.kind->description().parameters;
  for (std::size_t i = 0; i < values.size(); ++i) changed.values[i] = withinRange(parameters[i], values[i]);
  return edit;
}

Status readValue(Stage& stage, std::size_t parameter, std::string_view written, Rational rate) {
  const ParameterDescription& described = stage.kind->description().parameters[parameter];
  if (isMovementText(described, written)) {
    auto movement = parseMovement(described, written, rate);
    if (!movement) return movement.error();
    setMovement(stage, parameter, *movement);
    return {};
  }
  auto value = parseValue(described, written, rate);
  if (!value) return value.error();
  setMovement(stage, parameter, {std::move(*value), {}, {}});
  return {};
}

namespace {

bool isDigit(char c) {
  return c >= '0' && c <= '9';
}

}  // namespace

Status readValues(Stage& stage, std::string_view rest, Rational rate) {
  const StageDescription& described = stage.kind->description();
  std::string_view before;
  while (!rest.empty()) {
    // One after a backslash is a part of words.
    std::size_t comma = 0;
    while (comma < rest.size() && rest[comma] != ',') comma += rest[comma] == '\\' ? 2 : 1;
    comma = std::min(comma, rest.size());
    const std::string_view pair = rest.substr(0, comma);
    rest.remove_prefix(std::min(comma + 1, rest.size()));
    const auto equals = pair.find('=');
    const std::string_view name = pair.substr(0, equals);
    const std::size_t i = parameterIndex(described, name);
    if (i == described.parameters.size()) {
      const bool cutNumber = equals == std::string_view::npos && !before.empty() && isDigit(before.back()) && !name.empty() && isDigit(name.front());
      if (cutNumber)
        return Error{described.label + ": a comma separates values, so \"" + std::string(before) + "," + std::string(name) +
                     "\" is read as two. Write " + std::string(before) + "." + std::string(name) + "."};
      std::string known;
      std::vector<std::string> ids;
      for (const auto& p : described.parameters) {
        known += (known.empty() ? "" : ", ") + p.id;
        ids.push_back(p.id);
      }
      return Error{described.label + " has no parameter \"" + std::string(name) + "\"; it has: " + known + "." + didYouMean(name, ids)};
    }
    before = pair;
    // A toggle named alone is switched on.
    const std::string_view written = equals == std::string_view::npos ? "on" : pair.substr(equals + 1);
    if (auto read = readValue(stage, i, written, rate); !read) return Error{described.label + ": " + read.error().message};
  }
  return {};
}

Result<Stage> parseStage(std::string_view text, Rational rate) {
  const auto colon = text.find(':');
  const std::string id(text.substr(0, colon));
  const StageKind* kind = findStageKind(id);
  if (!kind) {
    std::string known;
    std::vector<std::string> ids;
    for (const StageKind* k : stageKinds()) {
      ids.push_back(k->description().id);
      known += (known.empty() ? "" : ", ") + ids.back();
    }
    return Error{"There is no stage \"" + id + "\"; there is: " + known + "." + didYouMean(id, ids)};
  }
  Stage stage = newStage(*kind);
  const std::string_view rest = colon == std::string_view::npos ? std::string_view{} : text.substr(colon + 1);
  if (auto read = readValues(stage, rest, rate); !read) return read.error();
  return stage;
}

Result<Stage> parseLaidSound(std::string_view text, Rational rate) {
  Stage sound = layingSound({}, 0);
  const StageDescription& described = sound.kind->description();
  const ParameterDescription& when = described.parameters[*soundParameters(sound).at];
  const auto timeIn = [&](std::string_view head) -> std::optional<double> {
    const auto at = head.rfind('@');
    if (at == std::string_view::npos) return std::nullopt;
    const auto time = parseValue(when, head.substr(at + 1), rate);
    return time ? std::optional(std::get<double>(*time)) : std::nullopt;
  };
  // A path may have commas in it: values begin after a time, or where one is named.
  std::size_t values = text.find(',');
  for (; values != std::string_view::npos; values = text.find(',', values + 1)) {
    const std::string_view rest = text.substr(values + 1), pair = rest.substr(0, rest.find(','));
    const bool named = parameterIndex(described, pair.substr(0, pair.find('='))) < described.parameters.size();
    if (named || timeIn(text.substr(0, values))) break;
  }
  const std::string_view head = text.substr(0, values);
  LaidSound laid{std::string(head)};
  if (const auto time = timeIn(head)) {
    laid.file = head.substr(0, head.rfind('@'));
    laid.at = *time;
  }
  if (laid.file.empty())
    return Error{"A sound is laid as FILE@TIME,value=…, like whirr.wav@2.5s,gain=-3dB; no file is named in \"" +
                 std::string(text) + "\"."};
  sound = withLaidSound(std::move(sound), laid);
  if (values != std::string_view::npos)
    if (auto read = readValues(sound, text.substr(values + 1), rate); !read) return read.error();
  return sound;
}

Status appendStage(Chain& chain, std::string_view text, Rational rate) {
  const auto slash = text.substr(0, text.find(':')).find('/');
  if (slash == std::string_view::npos) {
    auto stage = parseStage(text, rate);
    if (!stage) return stage.error();
    chain.push_back(std::move(*stage));
    return {};
  }
  const std::string_view id = text.substr(0, slash);
  const auto into = std::find_if(chain.rbegin(), chain.rend(), [&](const Stage& stage) {
    return stage.kind->description().branches && stage.kind->description().id == id;
  });
  if (into == chain.rend())
    return Error{"There is no " + std::string(id) + " before \"" + std::string(text) + "\" whose own chain it could stand in."};
  return appendStage(into->branch, text.substr(slash + 1), rate);
}

std::string stageText(const Stage& stage) {
  const StageDescription& described = stage.kind->description();
  std::string text = described.id;
  char before = ':';
  for (std::size_t i = 0; i < described.parameters.size(); ++i) {
    const auto& parameter = described.parameters[i];
    if (!stage.varies(i) && stage.values[i] == initialValue(parameter)) continue;
    text += before + parameter.id + "=" +
            (stage.varies(i) ? movementText(parameter, movementOf(stage, i)) : valueText(parameter, stage.values[i]));
    before = ',';
  }
  return text;
}

}  // namespace molten
