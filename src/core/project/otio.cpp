#include "core/project/otio.h"

#include <algorithm>
#include <cmath>
#include <filesystem>

#include "core/project/json_text.h"

namespace molten {
namespace {

using Json = nlohmann::ordered_json;

constexpr std::size_t mostClips = 1000, mostKeys = 100'000;
constexpr double longest = 86400, fastestRate = 1000;

// ---- writing

Json rationalTime(double seconds, Rational rate) {
  // Whole frames are whole numbers, however they were reckoned.
  constexpr double fine = 1e5;
  return {{"OTIO_SCHEMA", "RationalTime.1"}, {"rate", rate.toDouble()}, {"value", std::round(seconds * rate.toDouble() * fine) / fine}};
}

Json timeRange(double start, Rational startRate, double length, Rational rate) {
  return {{"OTIO_SCHEMA", "TimeRange.1"}, {"duration", rationalTime(length, rate)}, {"start_time", rationalTime(start, startRate)}};
}

std::string urlOf(const std::string& path) {
  static constexpr char digits[] = "0123456789ABCDEF";
  std::string url = path.starts_with('/') ? "file://" : "";
  for (const char c : path) {
    const auto byte = static_cast<unsigned char>(c);
    if (std::isalnum(byte) || std::string_view("/-_.~").find(c) != std::string_view::npos) {
      url += c;
    } else {
      url += '%';
      url += digits[byte >> 4];
      url += digits[byte & 15];
    }
  }
  return url;
}

Json clipJson(const ListedClip& clip, Rational rate) {
  Json effects = Json::array(), metadata = Json::object();
  if (!clip.keys.empty()) {
    Json keys = Json::array();
    for (const ListedKey& key : clip.keys) keys.push_back({key.at.toDouble(), key.source});
    metadata["molten-clock"] = {{"keys", std::move(keys)}};
  }
  if (clip.speed == Rational(0))
    effects.push_back({{"OTIO_SCHEMA", "FreezeFrame.1"}, {"metadata", Json::object()}, {"name", ""}, {"effect_name", "FreezeFrame"}, {"time_scalar", 0.0}});
  else if (!(clip.speed == Rational(1)))
    effects.push_back({{"OTIO_SCHEMA", "LinearTimeWarp.1"}, {"metadata", Json::object()}, {"name", ""}, {"effect_name", "LinearTimeWarp"}, {"time_scalar", std::round(clip.speed.toDouble() * 1e8) / 1e8}});
  const Json media = clip.path.empty() ? Json{{"OTIO_SCHEMA", "MissingReference.1"}, {"metadata", Json::object()}, {"name", ""}, {"available_range", nullptr}}
                                       : Json{{"OTIO_SCHEMA", "ExternalReference.1"},
                                              {"metadata", Json::object()},
                                              {"name", std::filesystem::path(clip.path).filename().string()},
                                              {"available_range", nullptr},
                                              {"target_url", urlOf(clip.path)}};
  return {{"OTIO_SCHEMA", "Clip.2"},
          {"metadata", std::move(metadata)},
          {"name", clip.name},
          {"source_range", timeRange(clip.from.toDouble(), clip.sourceRate, clip.length.toDouble(), rate)},
          {"effects", std::move(effects)},
          {"markers", Json::array()},
          {"enabled", true},
          {"media_references", {{"DEFAULT_MEDIA", media}}},
          {"active_media_reference_key", "DEFAULT_MEDIA"}};
}

// ---- reading

struct BadList {
  std::string what;
};

std::string schemaOf(const Json& json) {
  if (!json.is_object() || !json.contains("OTIO_SCHEMA") || !json["OTIO_SCHEMA"].is_string()) return {};
  const std::string schema = json["OTIO_SCHEMA"].get<std::string>();
  return schema.substr(0, schema.find('.'));
}

double numberIn(const Json& json, const char* key) {
  if (!json.is_object() || !json.contains(key) || !json[key].is_number()) throw BadList{std::string("a time has no \"") + key + "\""};
  const double number = json[key].get<double>();
  if (!std::isfinite(number)) throw BadList{std::string("\"") + key + "\" is no number"};
  return number;
}

struct Time {
  Rational seconds, rate;
};
Time timeIn(const Json& json, const char* key) {
  if (!json.is_object() || !json.contains(key)) throw BadList{std::string("\"") + key + "\" is missing"};
  const double value = numberIn(json[key], "value"), rate = numberIn(json[key], "rate");
  if (!(rate > 0) || rate > fastestRate || std::abs(value / rate) > longest) throw BadList{std::string("\"") + key + "\" is no time that can be worked with"};
  const Rational exact = usualRate(Rational::near(rate));
  return {Rational::near(value) / exact, exact};
}

std::string textIn(const Json& json, const char* key) {
  return json.is_object() && json.contains(key) && json[key].is_string() ? json[key].get<std::string>() : std::string();
}

/// Of a `file:` address, or a path as it is; empty: it names no file of this computer.
std::string pathOf(const std::string& url, const std::string& folder) {
  std::string path = url;
  if (path.starts_with("file://")) {
    path = path.substr(7);
    if (path.starts_with("localhost/")) path = path.substr(9);
  } else if (path.find("://") != std::string::npos) {
    return {};
  }
  std::string plain;
  for (std::size_t i = 0; i < path.size(); ++i) {
    const auto digit = [&](std::size_t at) { return at < path.size() && std::isxdigit(static_cast<unsigned char>(path[at])); };
    if (path[i] == '%' && digit(i + 1) && digit(i + 2)) {
      plain += static_cast<char>(std::stoi(path.substr(i + 1, 2), nullptr, 16));
      i += 2;
    } else {
      plain += path[i];
    }
  }
  if (plain.empty() || plain.find('\0') != std::string::npos) return {};
  if (std::filesystem::path(plain).is_absolute() || folder.empty()) return plain;
  return (std::filesystem::path(folder) / plain).lexically_normal().string();
}

ListedClip clipOf(const Json& json, const std::string& folder, std::vector<std::string>& lost) {
  ListedClip clip;
  clip.name = textIn(json, "name");
  Json media;
  if (const auto all = json.find("media_references"); all != json.end() && all->is_object()) {
    const std::string active = textIn(json, "active_media_reference_key");
    if (const auto at = all->find(active.empty() ? "DEFAULT_MEDIA" : active); at != all->end()) media = *at;
  } else if (const auto one = json.find("media_reference"); one != json.end()) {
    media = *one;
  }
  const std::string said = clip.name.empty() ? "A clip" : clip.name;
  if (schemaOf(media) == "ExternalReference") clip.path = pathOf(textIn(media, "target_url"), folder);
  if (clip.path.empty()) lost.push_back(said + " names no file of this computer: choose its footage.");
  const Json* range = json.contains("source_range") && json["source_range"].is_object() ? &json["source_range"] : nullptr;
  if (!range && media.is_object() && media.contains("available_range") && media["available_range"].is_object()) range = &media["available_range"];
  if (!range) throw BadList{said + " does not say what of it is shown"};
  const Time start = timeIn(*range, "start_time"), length = timeIn(*range, "duration");
  // Both are in the file's own time, which may begin anywhere.
  const bool begins = media.is_object() && media.contains("available_range") && media["available_range"].is_object();
  clip.from = begins ? start.seconds - timeIn(media["available_range"], "start_time").seconds : start.seconds;
  clip.sourceRate = start.rate;
  clip.length = length.seconds;
  if (!(clip.length > Rational(0)) || clip.from < Rational(0)) throw BadList{said + " lasts no time, or begins before its footage"};
  if (const auto effects = json.find("effects"); effects != json.end() && effects->is_array())
    for (const Json& effect : *effects) {
      const std::string kind = schemaOf(effect);
      if (kind == "FreezeFrame") {
        clip.speed = 0;
      } else if (kind == "LinearTimeWarp") {
        const double speed = numberIn(effect, "time_scalar");
        if (std::abs(speed) > fastestSpeed) throw BadList{said + " is faster than can be"};
        clip.speed = Rational::near(speed);
      } else {
        lost.push_back(said + ": the effect " + textIn(effect, "effect_name") + " is not taken.");
      }
    }
  if (const auto metadata = json.find("metadata"); metadata != json.end() && metadata->is_object() && metadata->contains("molten-clock")) {
    const Json& ours = (*metadata)["molten-clock"];
    if (ours.is_object() && ours.contains("keys") && ours["keys"].is_array() && ours["keys"].size() <= mostKeys)
      for (const Json& key : ours["keys"]) {
        if (!key.is_array() || key.size() != 2 || !key[0].is_number() || !key[1].is_number()) throw BadList{said + ": a key is no pair of times"};
        const double at = key[0].get<double>(), source = key[1].get<double>();
        if (!std::isfinite(at) || !std::isfinite(source) || std::abs(at) > longest || std::abs(source) > longest) throw BadList{said + ": a key is out of bounds"};
        if (!clip.keys.empty() && Rational::near(at) <= clip.keys.back().at) throw BadList{said + ": its keys do not rise"};
        clip.keys.push_back({Rational::near(at), source});
      }
    // Whoever has trimmed the clip since has not known of them.
    const auto at0 = [&] {
      const auto next = std::find_if(clip.keys.begin() + 1, clip.keys.end() - 1, [](const ListedKey& key) { return key.at > Rational(0); });
      const ListedKey &a = *(next - 1), &b = *next;
      return a.source + (b.source - a.source) * (a.at.toDouble() / (a.at - b.at).toDouble());
    };
    if (clip.keys.size() < 2 || std::abs(at0() - clip.from.toDouble()) > 1e-3) clip.keys.clear();
  }
  return clip;
}

CutList listOf(const Json& json, const std::string& folder, std::vector<std::string>& lost) {
  if (schemaOf(json) != "Timeline") throw BadList{"it is no timeline"};
  CutList list;
  list.name = textIn(json, "name");
  const Json none = Json::array();
  const Json& tracks = json.contains("tracks") && json["tracks"].is_object() && json["tracks"].contains("children") ? json["tracks"]["children"] : none;
  const Json* video = nullptr;
  std::size_t others = 0;
  if (tracks.is_array())
    for (const Json& track : tracks) {
      const bool shows = schemaOf(track) == "Track" && (textIn(track, "kind") == "Video" || textIn(track, "kind").empty());
      if (shows && !video)
        video = &track;
      else
        ++others;
    }
  if (!video || !video->contains("children") || !(*video)["children"].is_array()) throw BadList{"it has no track of pictures"};
  if (others > 0) lost.push_back(std::to_string(others) + (others == 1 ? " other track is" : " other tracks are") + " not taken.");
  bool first = true;
  Rational comes = 0;  // of a dissolve that lies before the next clip
  for (const Json& child : (*video)["children"]) {
    const std::string kind = schemaOf(child);
    if (kind == "Clip" && child.contains("enabled") && child["enabled"].is_boolean() && !child["enabled"].get<bool>()) {
      lost.push_back((textIn(child, "name").empty() ? std::string("A clip") : textIn(child, "name")) + " is off, and not taken.");
    } else if (kind == "Clip") {
      if (list.clips.size() == mostClips) throw BadList{"it has more than " + std::to_string(mostClips) + " clips"};
      list.clips.push_back(clipOf(child, folder, lost));
      list.clips.back().before = std::exchange(comes, Rational(0));
      // The list's rate is that in which its clips' lengths are counted.
      if (first) list.rate = timeIn(child.contains("source_range") && child["source_range"].is_object() ? child["source_range"] : Json(), "duration").rate;
      first = false;
    } else if (kind == "Transition") {
      const Rational in = timeIn(child, "in_offset").seconds, out = timeIn(child, "out_offset").seconds;
      if (in < Rational(0) || out < Rational(0)) throw BadList{"a transition lasts no time"};
      if (list.clips.empty()) continue;
      list.clips.back().after = out;
      comes = in;
      if (textIn(child, "transition_type") != "SMPTE_Dissolve") lost.push_back("A transition is taken as a dissolve.");
    } else {
      lost.push_back((kind == "Gap" ? std::string("A gap") : "An item of the kind " + (kind.empty() ? "unknown" : kind)) + " between clips is not taken.");
    }
  }
  if (list.clips.empty()) throw BadList{"there is no clip in it"};
  return list;
}

}  // namespace

std::string otioText(const CutList& list) {
  Json children = Json::array();
  for (std::size_t i = 0; i < list.clips.size(); ++i) {
    const ListedClip& clip = list.clips[i];
    children.push_back(clipJson(clip, list.rate));
    const Rational in = i + 1 < list.clips.size() ? list.clips[i + 1].before : Rational(0);
    if (in > Rational(0) || clip.after > Rational(0))
      children.push_back({{"OTIO_SCHEMA", "Transition.1"},
                          {"metadata", Json::object()},
                          {"name", "Dissolve"},
                          {"in_offset", rationalTime(in.toDouble(), list.rate)},
                          {"out_offset", rationalTime(clip.after.toDouble(), list.rate)},
                          {"transition_type", "SMPTE_Dissolve"}});
  }
  const Json track{{"OTIO_SCHEMA", "Track.1"}, {"metadata", Json::object()}, {"name", "Reel"},          {"source_range", nullptr},
                   {"effects", Json::array()}, {"markers", Json::array()},   {"enabled", true},         {"children", std::move(children)},
                   {"kind", "Video"}};
  const Json stack{{"OTIO_SCHEMA", "Stack.1"}, {"metadata", Json::object()}, {"name", "tracks"}, {"source_range", nullptr},
                   {"effects", Json::array()}, {"markers", Json::array()},   {"enabled", true},  {"children", Json::array({track})}};
  const Json timeline{{"OTIO_SCHEMA", "Timeline.1"}, {"metadata", Json::object()}, {"name", list.name}, {"global_start_time", nullptr}, {"tracks", stack}};
  return timeline.dump(4, ' ', false, Json::error_handler_t::replace) + "\n";
}

Result<CutList> parseOtio(const std::string& text, const std::string& folder, std::vector<std::string>& lost) {
  const auto json = parseJson(text);
  if (!json) return Error{"It is no OpenTimelineIO file, or it is damaged."};
  try {
    return listOf(*json, folder, lost);
  } catch (const BadList& bad) {
    return Error{"The list cannot be read: " + bad.what + "."};
  }
}

}  // namespace molten
