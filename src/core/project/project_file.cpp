#include "core/project/project_file.h"

#include <cmath>
#include <filesystem>
#include <sstream>

#include "core/files/path_text.h"
#include "core/picture/blank.h"
#include "core/media/demuxer.h"
#include "core/media/stills_reader.h"
#include "core/project/json_text.h"
#include "core/project/paintings.h"
#include "core/project/project_format1.h"
#include "core/files/read_file.h"
#include "core/files/safe_file.h"
#include "core/project/reel.h"
#include "core/stages/drive_words.h"

namespace molten {
namespace fs = std::filesystem;
using Json = nlohmann::ordered_json;

namespace {

constexpr std::size_t mostBytes = 64u << 20, mostSources = 10000, mostSounds = 1000, mostShots = 1000;
constexpr std::int64_t mostFrames = std::int64_t(1) << 40;
constexpr std::int64_t mostQuality = 1000, widestPicture = 32768;

/// Part of a sentence on failure.
Status checkLength(std::size_t stages) {
  if (stages <= mostStages) return {};
  return Error{"more than " + std::to_string(mostStages) + " stages in a row are not worked with"};
}

std::string relativeTo(const std::string& path, const std::string& folder) {
  if (path.empty() || folder.empty() || namesBlank(path)) return pathText(path);
  const fs::path relative = fs::path(path).lexically_relative(folder);
  return pathText(relative.empty() ? path : relative.string());
}

std::string absoluteFrom(const std::string& text, const std::string& folder) {
  const std::string path = pathOfText(text);
  if (path.empty() || folder.empty() || namesBlank(path) || fs::path(path).is_absolute()) return path;
  return (fs::path(folder) / path).lexically_normal().string();
}

std::string rateJson(Rational rate) {
  return std::to_string(rate.num()) + "/" + std::to_string(rate.den());
}

/// Where a text stands: its folder, by which paths are written, and the sources that its stages name by their number.
struct FileOfStages {
  std::string folder;
  std::vector<std::string>* sources = nullptr;  ///< paths; none: stages name sources by their path
};

/// A path as it stands in a file of `folder`.
Json valueJson(const ParameterDescription& parameter, const ParameterValue& value, const FileOfStages& in) {
  const std::string& folder = in.folder;
  if (const auto* path = std::get_if<std::string>(&value)) {
    if (std::holds_alternative<TextDescription>(parameter.kind)) return *path;
    const auto* const file = std::get_if<FileDescription>(&parameter.kind);
    if (path->empty() || !file || !file->isSource || !in.sources) return relativeTo(*path, folder);
    const auto known = std::find(in.sources->begin(), in.sources->end(), *path);
    if (known == in.sources->end()) in.sources->push_back(*path);
    return std::find(in.sources->begin(), in.sources->end(), *path) - in.sources->begin();
  }
  if (const auto* painting = std::get_if<Painting>(&value)) return relativeTo(painting->file, folder);
  if (const auto* number = std::get_if<double>(&value)) return *number;
  if (const auto* place = std::get_if<Place>(&value)) return Json::array({place->x, place->y});
  if (const auto* toggle = std::get_if<bool>(&value)) return *toggle;
  return valueText(parameter, value);
}

Result<ParameterValue> valueFromJson(const ParameterDescription& parameter, const Json& json, const FileOfStages& in) {
  const std::string& folder = in.folder;
  const Error wrong{"the value of \"" + parameter.id + "\" is not one that it can have"};
  const ParameterValue initial = initialValue(parameter);
  if (std::holds_alternative<double>(initial) && json.is_number()) {
    const double number = json.get<double>();
    const auto& range = std::get<NumberDescription>(parameter.kind);
    if (!std::isfinite(number) || number < range.least || number > range.most) return wrong;
    return ParameterValue(number);
  }
  if (std::holds_alternative<Place>(initial) && json.is_array() && json.size() == 2 && json[0].is_number() &&
      json[1].is_number()) {
    const ParameterValue place = Place{json[0].get<double>(), json[1].get<double>()};
    if (withinRange(parameter, place) != place) return wrong;
    return place;
  }
  if (std::holds_alternative<bool>(initial) && json.is_boolean()) return ParameterValue(json.get<bool>());
  if (json.is_string() && json.get_ref<const std::string&>().find('\0') != std::string::npos) return wrong;
  if (std::holds_alternative<TextDescription>(parameter.kind) && json.is_string()) return ParameterValue(json.get<std::string>());
  if (std::holds_alternative<std::string>(initial) && json.is_string())
    return ParameterValue(absoluteFrom(json.get<std::string>(), folder));
  if (const auto* file = std::get_if<FileDescription>(&parameter.kind); file && file->isSource && in.sources) {
    const auto number = wholeNumber(json, 0, static_cast<std::int64_t>(in.sources->size()) - 1);
    return number ? Result<ParameterValue>((*in.sources)[static_cast<std::size_t>(*number)]) : wrong;
  }
  if (std::holds_alternative<Painting>(initial) && json.is_string())
    return ParameterValue(Painting{absoluteFrom(json.get<std::string>(), folder), nullptr});
  // Choices and lists are written as on the command line.
  if (!std::holds_alternative<double>(initial) && !std::holds_alternative<Place>(initial) && json.is_string()) {
    auto parsed = parseValue(parameter, json.get<std::string>(), 25);
    return parsed ? parsed : wrong;
  }
  return wrong;
}

/// Members of `json` that are not among `known`.
Json unknownMembers(const Json& json, std::initializer_list<std::string_view> known) {
  Json rest = Json::object();
  for (const auto& [key, value] : json.items())
    if (std::find(known.begin(), known.end(), key) == known.end()) rest[key] = value;
  return rest;
}

void putMembers(Json& json, const Json& members) {
  for (const auto& [key, value] : members.items()) json[key] = value;
}

/// What is not known, as a project holds it: nothing, or an object's text.
std::string textOf(const Json& members) {
  return members.empty() ? std::string() : members.dump(-1, ' ', false, Json::error_handler_t::replace);
}

Json membersOf(const std::string& text) {
  return text.empty() ? Json::object() : parseJson(text).value_or(Json::object());
}

Json chainJson(const Chain& chain, const FileOfStages& in);

/// What a stage is set to, its kind apart.
Json settingJson(const Stage& stage, const FileOfStages& in) {
  const StageDescription& described = stage.kind->description();
  Json json{{"on", stage.on}};
  if (!stage.name.empty()) json["name"] = stage.name;
  for (std::size_t i = 0; i < described.parameters.size(); ++i) {
    const ParameterDescription& parameter = described.parameters[i];
    // What is of no use as it stands is written where it says something.
    if (stage.varies(i))
      json[parameter.id] = movementText(parameter, movementOf(stage, i));
    else if (isInUse(described, stage.values, i) || !(stage.values[i] == initialValue(parameter)))
      json[parameter.id] = valueJson(parameter, stage.values[i], in);
  }
  if (!stage.branch.empty()) json["chain"] = chainJson(stage.branch, in);
  putMembers(json, membersOf(stage.unknown));
  return json;
}

Json stageJson(const Stage& stage, const FileOfStages& in) {
  Json json{{"stage", stage.kind->description().id}};
  putMembers(json, settingJson(stage, in));
  return json;
}

/// Chains in chains, at most so deep.
constexpr int deepestBranch = 8;

Result<Stage> stageFromJson(const Json& json, const FileOfStages& in, int deep = 0);

/// The other way round of settingJson().
Result<Stage> settingFromJson(const StageKind* kind, const Json& json, const FileOfStages& in, int deep = 0) {
  Stage stage = newStage(*kind);
  Json unknown = Json::object();
  const auto& parameters = kind->description().parameters;
  for (const auto& [key, value] : json.items()) {
    if (key == "stage") continue;
    if (key == "on") {
      if (!value.is_boolean()) return Error{"\"on\" of a stage is neither true nor false"};
      stage.on = value.get<bool>();
      continue;
    }
    if (key == "name") {
      if (!value.is_string()) return Error{"the name of a stage is no text"};
      stage.name = value.get<std::string>();
      continue;
    }
    if (key == "chain" && kind->description().branches) {
      if (!value.is_array() || deep == deepestBranch) return Error{"the chain of a source is not a list of stages, or lies too deep"};
      if (auto fits = checkLength(value.size()); !fits) return fits.error();
      for (const Json& item : value) {
        auto inner = stageFromJson(item, in, deep + 1);
        if (!inner) return inner.error();
        stage.branch.push_back(std::move(*inner));
      }
      continue;
    }
    const std::size_t i = parameterIndex(kind->description(), key);
    if (i == parameters.size()) {
      unknown[key] = value;
      continue;
    }
    if (value.is_string() && isMovementText(parameters[i], value.get<std::string>())) {
      if (auto read = readValue(stage, i, value.get<std::string>(), 25); !read) return read.error();
      continue;
    }
    auto parsed = valueFromJson(parameters[i], value, in);
    if (!parsed) return parsed.error();
    stage.values[i] = *parsed;
  }
  stage.unknown = textOf(unknown);
  return stage;
}

Result<Stage> stageFromJson(const Json& json, const FileOfStages& in, int deep) {
  if (!json.is_object() || !json.contains("stage") || !json["stage"].is_string()) return Error{"a stage has no name"};
  const std::string id = json["stage"].get<std::string>();
  const StageKind* const kind = findStageKind(id);
  if (!kind) return Error{"it uses the stage \"" + id + "\", which this version does not have"};
  return settingFromJson(kind, json, in, deep);
}

struct BadProject {
  std::string what;
};

std::optional<std::int64_t> frameIn(const Json& json, const char* key) {
  if (!json.contains(key) || json[key].is_null()) return std::nullopt;
  const auto frame = wholeNumber(json[key], 0, mostFrames);
  if (!frame) throw BadProject{std::string("\"") + key + "\" is no frame number"};
  return frame;
}

std::string textIn(const Json& json, const char* key) {
  if (!json.contains(key)) return {};
  if (!json[key].is_string()) throw BadProject{std::string("\"") + key + "\" is no text"};
  std::string text = json[key].get<std::string>();
  if (text.find('\0') != std::string::npos) throw BadProject{std::string("\"") + key + "\" has a zero byte in it"};
  return text;
}

std::optional<Rational> rateIn(const Json& json, const char* key) {
  const std::string text = textIn(json, key);
  if (text.empty()) return std::nullopt;
  const auto rate = parseRate(text);
  if (!rate) throw BadProject{std::string("\"") + key + "\" is no picture rate"};
  return rate;
}

OutputSettings outputFromJson(const Json& json, const std::string& folder) {
  OutputSettings output;
  if (!json.is_object()) throw BadProject{"\"output\" is not an object"};
  output.path = absoluteFrom(textIn(json, "path"), folder);
  output.codec = textIn(json, "codec");
  if (json.contains("quality"))
    output.quality = static_cast<int>(wholeNumber(json["quality"], -1, mostQuality).value_or(-1));
  output.rate = rateIn(json, "rate");
  if (json.contains("length")) {
    output.length = parseRational(textIn(json, "length"));
    if (!output.length || *output.length <= Rational(0) || *output.length > Rational(longestPace))
      throw BadProject{"\"length\" is no length in seconds"};
  }
  if (json.contains("size")) {
    const Json& size = json["size"];
    const bool two = size.is_array() && size.size() == 2;
    const auto width = two ? wholeNumber(size[0], 1, widestPicture) : std::nullopt,
               height = two ? wholeNumber(size[1], 1, widestPicture) : std::nullopt;
    if (!width || !height) throw BadProject{"\"size\" is not a width and a height"};
    output.size = Size{static_cast<int>(*width), static_cast<int>(*height)};
  }
  output.unknown = textOf(unknownMembers(json, {"path", "codec", "quality", "rate", "length", "size"}));
  return output;
}

Chain chainFromJson(const Json& json, const FileOfStages& in) {
  if (!json.is_array()) throw BadProject{"a chain is not a list"};
  if (auto fits = checkLength(json.size()); !fits) throw BadProject{fits.error().message};
  Chain chain;
  for (const Json& item : json) {
    auto stage = stageFromJson(item, in);
    if (!stage) throw BadProject{stage.error().message};
    chain.push_back(std::move(*stage));
  }
  return chain;
}

Stage soundFromJson(const StageKind* kind, const Json& json, const FileOfStages& in) {
  if (!json.is_object()) throw BadProject{"a sound is not an object"};
  auto sound = settingFromJson(kind, json, in);
  if (!sound) throw BadProject{sound.error().message};
  return std::move(*sound);
}

Source sourceFromJson(const Json& json, const std::string& folder) {
  if (!json.is_object()) throw BadProject{"a source is not an object"};
  Source source;
  source.path = absoluteFrom(textIn(json, "path"), folder);
  source.rate = rateIn(json, "rate");
  if (const std::string between = textIn(json, "in-between"); !between.empty()) {
    const auto known = inBetweenOf(between);
    if (!known) throw BadProject{"\"in-between\" of a source is none of whole, mixed and flow"};
    source.between = *known;
  }
  source.unknown = textOf(unknownMembers(json, {"path", "rate", "in-between"}));
  return source;
}

/// The paths of all sources, the footage's first.
std::vector<std::string> sourcePaths(const Json& json, const std::string& folder) {
  std::vector<std::string> paths;
  if (!json.contains("sources")) return paths;
  const Json& list = json["sources"];
  if (!list.is_array() || list.empty()) throw BadProject{"\"sources\" is not a list of sources"};
  if (list.size() > mostSources) throw BadProject{"it names more than " + std::to_string(mostSources) + " sources"};
  for (const Json& one : list) {
    if (!one.is_object()) throw BadProject{"a source is not an object"};
    paths.push_back(absoluteFrom(textIn(one, "path"), folder));
  }
  return paths;
}

std::optional<Rational> secondsIn(const Json& json, const char* key) {
  const std::string text = textIn(json, key);
  if (text.empty()) return std::nullopt;
  const auto seconds = parseRational(text);
  if (!seconds || *seconds < Rational(0) || *seconds > Rational(longestPace)) throw BadProject{std::string("\"") + key + "\" of a shot is no time in seconds"};
  return seconds;
}

bool switchIn(const Json& json, const char* key, bool usual) {
  if (!json.contains(key)) return usual;
  if (!json[key].is_boolean()) throw BadProject{std::string("\"") + key + "\" of a shot is neither true nor false"};
  return json[key].get<bool>();
}

ShotPlace placeFromJson(const Json& json) {
  ShotPlace place{textIn(json, "name"), switchIn(json, "on", true), secondsIn(json, "from"), secondsIn(json, "to"), switchIn(json, "fills", false), {}};
  if (const auto cut = json.find("cut"); cut != json.end()) {
    if (!cut->is_object()) throw BadProject{"the cut of a shot is not an object"};
    place.cut = {secondsIn(*cut, "dissolve").value_or(0), switchIn(*cut, "linear-light", false), {}};
    if (const auto through = cut->find("run-through"); through != cut->end()) {
      if (!through->is_object()) throw BadProject{"the run-through of a cut is not an object"};
      place.cut.through = {secondsIn(*through, "speed").value_or(1), secondsIn(*through, "lasts").value_or(0)};
      if (place.cut.through.speed > Rational(fastestThrough) || place.cut.through.lasts > Rational(longestThrough) || place.cut.through.speed == Rational(0))
        throw BadProject{"a cut is run through faster or longer than can be, or not at all"};
    }
  }
  return place;
}

Shot shotFromJson(const Json& json, const Json& sources, const FileOfStages& in) {
  if (!json.is_object()) throw BadProject{"a shot is not an object"};
  Shot shot;
  if (sources.is_array() && !sources.empty()) {
    const auto number = json.contains("source") ? wholeNumber(json["source"], 0, static_cast<std::int64_t>(sources.size()) - 1) : 0;
    if (!number) throw BadProject{"a shot names a source that is not there"};
    shot.source = sourceFromJson(sources[static_cast<std::size_t>(*number)], in.folder);
  }
  if (json.contains("chain")) shot.chain = chainFromJson(json["chain"], in);
  if (json.contains("version-b")) shot.versionB = chainFromJson(json["version-b"], in);
  if (json.contains("sound")) shot.ownSound = soundFromJson(shot.ownSound.kind, json["sound"], in);
  shot.place = placeFromJson(json);
  shot.unknown = textOf(unknownMembers(json, {"source", "chain", "version-b", "sound", "name", "on", "from", "to", "fills", "cut"}));
  return shot;
}

Project projectFromJson(const Json& json, const std::string& folder) {
  Project project;
  project.unknown = textOf(unknownMembers(json, {"format", "sources", "shots", "reel", "sounds", "in", "out", "output"}));
  std::vector<std::string> sources = sourcePaths(json, folder);
  const Json none = Json::array();
  const Json& sourceList = sources.empty() ? none : json["sources"];
  const FileOfStages in{folder, &sources};
  if (!sources.empty()) project.source = sourceFromJson(sourceList[0], folder);
  std::vector<bool> ofShots(sources.size());
  if (!sources.empty()) ofShots[0] = true;
  if (json.contains("shots")) {
    const Json& list = json["shots"];
    if (!list.is_array() || list.empty()) throw BadProject{"\"shots\" is not a list of shots"};
    if (list.size() > mostShots) throw BadProject{"it has more than " + std::to_string(mostShots) + " shots"};
    std::vector<Shot> shots;
    for (const Json& one : list) {
      shots.push_back(shotFromJson(one, sourceList, in));
      if (one.contains("source") && !sources.empty()) ofShots[one["source"].get<std::size_t>()] = true;
    }
    project = withShots(std::move(project), std::move(shots));
  }
  for (std::size_t i = 0; i < sources.size(); ++i)
    if (!ofShots[i])
      if (const std::string unknown = textOf(unknownMembers(sourceList[i], {"path"})); !unknown.empty())
        project.unknownOfSources[sources[i]] = unknown;
  if (const auto reel = json.find("reel"); reel != json.end()) {
    if (!reel->is_object()) throw BadProject{"\"reel\" is not an object"};
    if (reel->contains("chain")) project.reelChain = chainFromJson((*reel)["chain"], in);
    if (const auto stops = reel->find("stops-at-cuts"); stops != reel->end()) {
      if (!stops->is_boolean()) throw BadProject{"\"stops-at-cuts\" is neither true nor false"};
      project.stopsAtCuts = stops->get<bool>();
    }
    project.unknownReel = textOf(unknownMembers(*reel, {"chain", "stops-at-cuts"}));
  }
  if (const auto sounds = json.find("sounds"); sounds != json.end()) {
    if (!sounds->is_array()) throw BadProject{"\"sounds\" is not a list"};
    if (sounds->size() > mostSounds) throw BadProject{"it has more than " + std::to_string(mostSounds) + " sounds"};
    const StageKind* const kind = layingSound({}, 0).kind;
    for (const Json& one : *sounds) {
      project.sounds.push_back(soundFromJson(kind, one, in));
      if (laidSound(project.sounds.back()).file.empty()) throw BadProject{"a sound names no file"};
    }
  }
  project.in = frameIn(json, "in");
  project.out = frameIn(json, "out");
  if (json.contains("output")) project.output = outputFromJson(json["output"], folder);
  return project;
}

/// The rate of a file of the first format's footage: what its header says, if it is there.
Rational rateOfFootage(const Json& footage, const std::string& folder) {
  constexpr int usual = 30;
  if (!footage.is_object()) return usual;
  const std::string path = absoluteFrom(textIn(footage, "path"), folder);
  std::error_code error;
  if (isStillsPattern(path) || fs::is_directory(path, error)) return rateIn(footage, "stills-rate").value_or(24);
  if (!fs::is_regular_file(path, error)) return usual;
  const auto demuxer = Demuxer::open(path);
  if (!demuxer) return usual;
  const AVRational rate = demuxer->stream().avg_frame_rate;
  return rate.num > 0 && rate.den > 0 && av_q2d(rate) <= 1000 ? usualRate(Rational(rate.num, rate.den))
                                                              : Rational(usual);
}

Project projectFromFormat1(const Json& json, const std::string& folder) {
  Json today{{"format", projectFormat}};
  Json source = Json::object(), shot = Json::object();
  const Json none = Json::array();
  const Json& footage = json.contains("footage") ? json["footage"] : source;
  const Json& chain = json.contains("chain") ? json["chain"] : none;
  const Json& other = json.contains("version-b") ? json["version-b"] : none;
  const Rational rate = format1::needsRate(chain) || format1::needsRate(other) ? rateOfFootage(footage, folder) : 30;
  if (!footage.is_object()) throw BadProject{"\"footage\" is not an object"};
  putMembers(source, footage);
  if (source.contains("stills-rate")) {
    source["rate"] = source["stills-rate"];
    source.erase("stills-rate");
  }
  source["in-between"] = inBetweenChoices()[static_cast<std::size_t>(format1::betweenOf(chain))].id;
  shot["chain"] = format1::chainOfToday(chain, rate);
  if (json.contains("version-b")) shot["version-b"] = format1::chainOfToday(other, rate);
  today["sources"] = Json::array({source});
  today["shots"] = Json::array({shot});
  putMembers(today, unknownMembers(json, {"format", "footage", "chain", "version-b"}));
  return projectFromJson(today, folder);
}

Json chainJson(const Chain& chain, const FileOfStages& in) {
  Json json = Json::array();
  for (const Stage& stage : chain) json.push_back(stageJson(stage, in));
  return json;
}

Json sourceJson(const Source& source, const std::string& folder) {
  Json json{{"path", relativeTo(source.path, folder)}};
  if (source.rate) json["rate"] = rateJson(*source.rate);
  json["in-between"] = inBetweenChoices()[static_cast<std::size_t>(source.between)].id;
  putMembers(json, membersOf(source.unknown));
  return json;
}

/// What is as usual is not written.
Json shotJson(const Shot& shot, std::ptrdiff_t source, const FileOfStages& in) {
  Json json{{"source", source}, {"chain", chainJson(shot.chain, in)}};
  if (shot.versionB) json["version-b"] = chainJson(*shot.versionB, in);
  if (!(shot.ownSound == ownSound())) json["sound"] = settingJson(shot.ownSound, in);
  const ShotPlace& place = shot.place;
  if (!place.name.empty()) json["name"] = place.name;
  if (!place.on) json["on"] = false;
  if (place.from) json["from"] = rationalText(*place.from);
  if (place.to) json["to"] = rationalText(*place.to);
  if (place.fills) json["fills"] = true;
  if (!(place.cut == Cut{})) {
    Json cut{{"dissolve", rationalText(place.cut.dissolve)}};
    if (place.cut.linearLight) cut["linear-light"] = true;
    if (!(place.cut.through == RunThrough{}))
      cut["run-through"] = {{"speed", rationalText(place.cut.through.speed)}, {"lasts", rationalText(place.cut.through.lasts)}};
    json["cut"] = std::move(cut);
  }
  putMembers(json, membersOf(shot.unknown));
  return json;
}

}  // namespace

std::string projectText(const Project& project, const std::string& folder) {
  Json json{{"format", projectFormat}};
  std::vector<Source> ofShots;
  std::vector<std::string> sources;
  for (std::size_t i = 0; i < shotCount(project); ++i)
    if (Source source = shotOf(project, i).source; std::find(ofShots.begin(), ofShots.end(), source) == ofShots.end()) {
      json["sources"].push_back(sourceJson(source, folder));
      sources.push_back(source.path);
      ofShots.push_back(std::move(source));
    }
  const FileOfStages in{folder, &sources};
  Json shots = Json::array();
  for (std::size_t i = 0; i < shotCount(project); ++i) {
    const Shot shot = shotOf(project, i);
    shots.push_back(shotJson(shot, std::find(ofShots.begin(), ofShots.end(), shot.source) - ofShots.begin(), in));
  }
  const Json reelChain = chainJson(project.reelChain, in);
  for (std::size_t i = ofShots.size(); i < sources.size(); ++i) {
    Json other{{"path", relativeTo(sources[i], folder)}};
    if (const auto known = project.unknownOfSources.find(sources[i]); known != project.unknownOfSources.end())
      putMembers(other, membersOf(known->second));
    json["sources"].push_back(std::move(other));
  }
  json["shots"] = std::move(shots);
  Json reel = Json::object();
  if (!project.reelChain.empty()) reel["chain"] = reelChain;
  if (project.stopsAtCuts) reel["stops-at-cuts"] = true;
  putMembers(reel, membersOf(project.unknownReel));
  if (!reel.empty()) json["reel"] = std::move(reel);
  for (const Stage& sound : project.sounds) json["sounds"].push_back(settingJson(sound, in));
  json["in"] = project.in ? Json(*project.in) : Json(nullptr);
  json["out"] = project.out ? Json(*project.out) : Json(nullptr);
  const OutputSettings& output = project.output;
  Json out{{"path", relativeTo(output.path, folder)}, {"codec", output.codec}, {"quality", output.quality}};
  if (output.rate) out["rate"] = rateJson(*output.rate);
  if (output.length) out["length"] = rationalText(*output.length);
  if (output.size) out["size"] = {output.size->width, output.size->height};
  putMembers(out, membersOf(output.unknown));
  json["output"] = std::move(out);
  putMembers(json, membersOf(project.unknown));
  // A name that is not UTF-8 is written as well as it can be, rather than losing the project over it.
  return json.dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

std::string chainText(const Chain& chain, const std::string& folder) {
  return chainJson(chain, {folder}).dump(2, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<Chain> parseChain(const std::string& text, Rational rate, const std::string& folder, int format) {
  auto json = parseJson(text);
  if (json && format == 1) json = format1::chainOfToday(*json, rate);
  Chain chain;
  if (json && json->is_array()) {
    if (auto fits = checkLength(json->size()); !fits) return Error{"The chain has too many stages: " + fits.error().message + "."};
    for (const Json& item : *json) {
      auto stage = stageFromJson(item, {folder});
      if (!stage) return stage.error();
      chain.push_back(std::move(*stage));
    }
  } else {
    std::istringstream lines(text);
    for (std::string line; std::getline(lines, line);) {
      const auto begin = line.find_first_not_of(" \t\r"), end = line.find_last_not_of(" \t\r");
      if (begin == std::string::npos) continue;
      if (auto added = appendStage(chain, line.substr(begin, end - begin + 1), rate); !added) return added.error();
      if (auto fits = checkLength(chain.size()); !fits) return Error{"The text is too long: " + fits.error().message + "."};
    }
  }
  if (chain.empty()) return Error{"There are no stages in this text."};
  return chain;
}

Result<Project> parseProject(const std::string& text, const std::string& folder) {
  const auto json = parseJson(text);
  if (!json || !json->is_object() || !json->contains("format") || !(*json)["format"].is_number_integer())
    return Error{"it is not a Molten Clock project, or it is damaged"};
  const auto format = wholeNumber((*json)["format"], 1, projectFormat);
  if (!format && (*json)["format"] > projectFormat)
    return Error{"it was saved by a later version of Molten Clock; open it with that one"};
  if (!format) return Error{"it is not a Molten Clock project, or it is damaged"};
  try {
    return *format == 1 ? projectFromFormat1(*json, folder) : projectFromJson(*json, folder);
  } catch (const BadProject& bad) {
    return Error{bad.what};
  }
}

Status saveProject(const Project& project, const std::string& path, Paths paths) {
  Project saved = project;
  const fs::path whole = placeOfBytes(path);
  auto files = writePaintings(chainsOf(saved), whole.string());
  if (!files) return files.error();
  auto file = SafeFile::of(
      whole.string(), projectText(saved, paths == Paths::Relative ? whole.parent_path().string() : std::string()));
  if (!file) return file.error();
  // The project last: until it is the new one, nothing names what is new.
  files->push_back(std::move(*file));
  if (auto done = commitTogether(std::move(*files)); !done) return done;
  clearLeftovers(whole.parent_path().string());
  return {};
}

Result<Project> loadProject(const std::string& path) {
  auto text = readWhole(path, mostBytes);
  if (!text) return text.error();
  auto project = parseProject(*text, placeOfBytes(path).parent_path().string());
  if (!project)
    return Error{fs::path(path).filename().string() + " cannot be opened: " + project.error().message + "."};
  // A painting that is missing is said where it is used; the project opens without it and goes on naming it.
  for (Chain* const chain : chainsOf(*project)) (void)readPaintings(*chain);
  return project;
}

}  // namespace molten
