#include "core/project/project_format1.h"

#include <algorithm>
#include <cmath>
#include <functional>
#include <map>
#include <string>

#include "core/stages/key_text.h"
#include "core/stages/parameter.h"

namespace molten::format1 {
namespace {

using Json = nlohmann::ordered_json;
using Words = std::map<std::string, std::string>;

const Words& pastTheEnds() {
  static const Words words{
      {"hold", "stand-still"}, {"bounce", "turn-back"}, {"wrap", "go-round"}, {"clear", "transparent"}};
  return words;
}

std::string textOf(const Json& stage, const char* id, const char* initial) {
  const auto at = stage.find(id);
  return at != stage.end() && at->is_string() ? at->get<std::string>() : initial;
}
/// A number that has no keys.
double numberOf(const Json& stage, const char* id, double initial) {
  const auto at = stage.find(id);
  return at != stage.end() && at->is_number() ? at->get<double>() : initial;
}
bool isKeyed(const Json& stage, const char* id) {
  const auto at = stage.find(id);
  return at != stage.end() && at->is_string() && at->get<std::string>().find('@') != std::string::npos;
}

/// Names and choices of a stage at one time and at another; what is not listed stays.
struct Renaming {
  Words ids;
  std::map<std::string, Words> choices;  ///< by the id of today
};

Json renamed(const Json& stage, const Renaming& renaming) {
  Json today = Json::object();
  for (const auto& [key, value] : stage.items()) {
    const auto id = renaming.ids.find(key);
    const std::string& name = id == renaming.ids.end() ? key : id->second;
    today[name] = value;
    const auto words = renaming.choices.find(name);
    if (words == renaming.choices.end() || !value.is_string()) continue;
    if (const auto word = words->second.find(value.get<std::string>()); word != words->second.end())
      today[name] = word->second;
  }
  return today;
}

/// A number, or each of its keys, as `change` makes it. `was` and `is`: its unit.
void changeNumber(Json& stage, const char* id, Unit was, Unit is, Rational rate,
                  const std::function<double(double)>& change) {
  const auto at = stage.find(id);
  if (at == stage.end()) return;
  if (at->is_number()) {
    *at = change(at->get<double>());
    return;
  }
  const auto described = [&](Unit unit) {
    return ParameterDescription{id, id, "", "", true, NumberDescription{unit, -1e9, 1e9, 0, 1, 1, 3, Tense::None}};
  };
  if (!at->is_string()) return;
  auto track = parseKeys(described(was), at->get<std::string>(), rate);
  if (!track) return;
  for (Key& key : *track) key.value[0] = change(key.value[0]);
  *at = keysText(described(is), *track);
}

Json timeField(const Json& stage, Rational) {
  static const Renaming names = [] {
    Renaming all{{{"steps", "panes"}, {"anchor", "start-holds"}, {"ease-out", "let-go-over"}},
                 {{"past-the-ends", pastTheEnds()},
                  {"combine",
                   {{"multiply", "product"},
                    {"lighten", "larger"},
                    {"darken", "smaller"},
                    {"add", "sum"},
                    {"masked-by", "only-where"}}}}};
    for (const std::string prefix : {"", "second-"})
      for (const auto& [was, is] : Words{{"scale", "cloud-size"},
                                         {"detail", "finer-layers"},
                                         {"evolution", "change"},
                                         {"full-motion", "fastest-motion"}})
        all.ids[prefix + was] = prefix + is;
    return all;
  }();
  Json today = renamed(stage, names);
  // What was not written was 2.
  for (const char* const id : {"finer-layers", "second-finer-layers"})
    if (!today.contains(id)) today[id] = 2;
  return today;
}

Json loopOfTurnaround(const Json& stage, Rational) {
  static const Renaming names{{{"skip-at-start", "skip-start"}, {"skip-at-end", "skip-end"}},
                              {{"way", {{"wrap", "round"}}}, {"end-frames", {{"doubled", "twice"}}}}};
  Json today = renamed(stage, names);
  today["stage"] = "loop";
  return today;
}

Json strips(const Json& stage, Rational rate) {
  static const Renaming names{
      {{"spacing", "gap"}, {"rule", "divider-line"}, {"rule-colour", "line-colour"}},
      {{"past-the-ends", pastTheEnds()}, {"gap", {{"each", "by-length"}, {"spread", "over-the-clip"}}}}};
  Json today = renamed(stage, names);
  if (!today.contains("stagger")) today["stagger"] = 0.1;
  changeNumber(today, "stagger", Unit::Seconds, Unit::Frames, rate, [&](double seconds) {
    const double frames = seconds * rate.toDouble();
    return std::abs(frames - std::round(frames)) < 1e-6 ? std::round(frames) : frames;
  });
  const std::string order = textOf(stage, "order", "left");
  today.erase("order");
  static const Words standsAt{
      {"left", "first"}, {"right", "last"}, {"from-middle", "middle"}, {"to-middle", "both-edges"}};
  const auto at = standsAt.find(order);
  today["now-stands-at"] = at == standsAt.end() ? "first" : at->second;
  today["delays"] = order == "shuffled" ? "by-lot" : order == "curve" ? "drawn" : "even";
  return today;
}

Json slitScan(const Json& stage, Rational) {
  static const Renaming names{{}, {{"before-the-slit", {{"clear", "transparent"}, {"last", "last-sweep"}}}}};
  return renamed(stage, names);
}

/// The strength of repeat k was the falloff to the power of k, which the strengths of the nearest and the farthest say
/// exactly.
Json echoes(const Json& stage, Rational rate) {
  static const Renaming names{{{"own-rate", "copies-fps"},
                               {"lead", "present"},
                               {"falloff", "nearest"},
                               {"exposure-hold", "keep-brightness"},
                               {"light", "reckoned-in"},
                               {"until-full", "where-moments-are-missing"}},
                              {{"where-moments-are-missing", {{"hold", "stand-still"}}}}};
  Json today = renamed(stage, names);
  if (!today.contains("nearest")) today["nearest"] = 0.75;
  today["farthest"] = today["nearest"];
  const double repeats = numberOf(stage, "repeats", 6);
  changeNumber(today, "farthest", Unit::Percent, Unit::Percent, rate,
               [&](double falloff) { return std::pow(falloff, repeats); });
  today["copy-speed"] = 1 - numberOf(stage, "drift", 0);
  const std::string combine = textOf(stage, "combine", "lighten"), direction = textOf(stage, "direction", "behind");
  for (const char* const gone : {"drift", "combine"}) today.erase(gone);
  static const Words mixes{{"add", "light"},    {"screen", "light"}, {"lighten", "wins"}, {"darken", "wins"},
                           {"average", "mean"}, {"over", "layers"},  {"under", "layers"}};
  if (const auto mix = mixes.find(combine); mix != mixes.end()) today["mix"] = mix->second;
  today["below-white"] = combine == "screen";
  today["winner"] = combine == "darken" ? "darkest" : "brightest";
  // Repeats lay over what is nearer to now, or under it.
  const bool farOnTop = combine == "over", ahead = direction == "ahead";
  today["top"] = farOnTop == ahead ? "newest" : "oldest";
  return today;
}

/// It opened `phase` after the picture's moment, for `angle`; in degrees of a picture's time.
Json shutter(const Json& stage, Rational rate) {
  static const Renaming names{{{"angle", "open"},
                               {"rate", "fps"},
                               {"made", "built-from"},
                               {"samples", "moments"},
                               {"light", "reckoned-in"},
                               {"phase", "offset"}},
                              {}};
  Json today = renamed(stage, names);
  if (!today.contains("open")) today["open"] = 180.0;
  if (!today.contains("offset")) today["offset"] = -90.0;
  if (!today.contains("moments")) today["moments"] = 16;
  const auto turns = [](double degrees) { return degrees / 360; };
  changeNumber(today, "open", Unit::Degrees, Unit::Percent, rate, turns);
  changeNumber(today, "offset", Unit::Degrees, Unit::Percent, rate, turns);
  today["falls"] = "after";
  if (isKeyed(today, "open") || isKeyed(today, "offset")) return today;
  const double open = today["open"].get<double>(), opens = today["offset"].get<double>();
  const std::pair<const char*, double> sides[] = {{"around", -open / 2}, {"after", 0}, {"before", -open}};
  const auto nearest = std::min_element(std::begin(sides), std::end(sides), [&](const auto& a, const auto& b) {
    return std::abs(opens - a.second) < std::abs(opens - b.second);
  });
  today["falls"] = nearest->first;
  const double off = opens - nearest->second;
  today["offset"] = std::abs(off) < 1e-9 ? 0.0 : off;
  return today;
}

Json frameOrder(const Json& stage, Rational) {
  Json today = renamed(stage, {{}, {{"past-the-ends", pastTheEnds()}}});
  std::string order = textOf(stage, "order", "whole");
  std::replace(order.begin(), order.end(), 'x', ':');
  today["order"] = order;
  return today;
}

Json endsOnly(const Json& stage, Rational) {
  return renamed(stage, {{}, {{"past-the-ends", pastTheEnds()}}});
}

const std::map<std::string, std::function<Json(const Json&, Rational)>>& stages() {
  static const std::map<std::string, std::function<Json(const Json&, Rational)>> all{
      {"time-field", timeField},   {"turnaround", loopOfTurnaround},
      {"strips", strips},          {"slit-scan", slitScan},
      {"echoes", echoes},          {"shutter", shutter},
      {"frame-order", frameOrder}, {"pace", endsOnly},
      {"step-rate", endsOnly}};
  return all;
}

}  // namespace

Json stageOfToday(const Json& stage, Rational rate) {
  if (!stage.is_object()) return stage;
  const auto known = stages().find(textOf(stage, "stage", ""));
  Json today = known == stages().end() ? stage : known->second(stage, rate);
  today.erase("in-between");
  return today;
}

Json chainOfToday(const Json& chain, Rational rate) {
  if (!chain.is_array()) return chain;
  Json today = Json::array();
  for (const Json& stage : chain) today.push_back(stageOfToday(stage, rate));
  return today;
}

InBetween betweenOf(const Json& chain) {
  InBetween best = InBetween::Whole;
  if (!chain.is_array()) return best;
  for (const Json& stage : chain) {
    if (!stage.is_object()) continue;
    if (const auto on = stage.find("on"); on != stage.end() && on->is_boolean() && !on->get<bool>()) continue;
    const std::string between = textOf(stage, "in-between", "nearest");
    best = std::max(best, between == "flow"    ? InBetween::Flow
                          : between == "blend" ? InBetween::Mixed
                                               : InBetween::Whole);
  }
  return best;
}

bool needsRate(const Json& chain) {
  return chain.is_array() && std::any_of(chain.begin(), chain.end(), [](const Json& stage) {
           return stage.is_object() && textOf(stage, "stage", "") == "strips";
         });
}

}  // namespace molten::format1
