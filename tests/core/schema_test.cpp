// What docs/project.schema.json promises of a project file, held against files that are really written, by a plain
// validator of the words that the schema uses.
#include <nlohmann/json.hpp>
#include <regex>
#include <set>

#include "core/project/project_file.h"
#include "core/project/project_schema.h"
#include "core/stages/stage.h"
#include "support/clips.h"
#include "support/random_chains.h"

namespace molten {
namespace {

using nlohmann::json;

bool isType(const json& value, const json& types) {
  if (types.is_array())
    return std::any_of(types.begin(), types.end(), [&](const json& one) { return isType(value, one); });
  const std::string type = types;
  if (type == "object") return value.is_object();
  if (type == "array") return value.is_array();
  if (type == "string") return value.is_string();
  if (type == "boolean") return value.is_boolean();
  if (type == "null") return value.is_null();
  if (type == "integer") return value.is_number_integer();
  return type == "number" && value.is_number();
}

/// Why a value is not as the schema says, with its place; empty if it is.
std::string amiss(const json& schema, const json& value, const std::string& at) {
  if (schema.contains("const") && value != schema["const"]) return at + " is not " + schema["const"].dump();
  if (schema.contains("enum") && std::find(schema["enum"].begin(), schema["enum"].end(), value) == schema["enum"].end())
    return at + " is none of its choices: " + value.dump();
  if (schema.contains("type") && !isType(value, schema["type"])) return at + " is no " + schema["type"].dump();
  if (value.is_number()) {
    if (schema.contains("minimum") && value.get<double>() < schema["minimum"]) return at + " is too small";
    if (schema.contains("maximum") && value.get<double>() > schema["maximum"]) return at + " is too large";
  }
  if (value.is_string() && schema.contains("pattern") &&
      !std::regex_search(value.get<std::string>(), std::regex(schema["pattern"].get<std::string>())))
    return at + " is not of its pattern: " + value.dump();
  if (value.is_array()) {
    if (schema.contains("minItems") && value.size() < schema["minItems"]) return at + " has too few";
    if (schema.contains("maxItems") && value.size() > schema["maxItems"]) return at + " has too many";
    if (schema.contains("items"))
      for (std::size_t i = 0; i < value.size(); ++i)
        if (auto why = amiss(schema["items"], value[i], at + "[" + std::to_string(i) + "]"); !why.empty()) return why;
  }
  if (value.is_object()) {
    for (const json& name : schema.value("required", json::array()))
      if (!value.contains(name.get<std::string>())) return at + " lacks " + name.dump();
    const json known = schema.value("properties", json::object());
    for (const auto& [name, member] : value.items()) {
      if (known.empty()) break;  // said by what it may be
      if (!known.contains(name)) return at + " has a member that the schema does not know: " + name;
      if (auto why = amiss(known[name], member, at + "." + name); !why.empty()) return why;
    }
  }
  for (const char* some : {"oneOf", "anyOf"}) {
    if (!schema.contains(some)) continue;
    std::string all;
    int fits = 0;
    for (const json& each : schema[some]) {
      const std::string why = amiss(each, value, at);
      fits += why.empty();
      // Of stages, the one that is meant says it best.
      if (!why.empty() && why.find("stage is not") == std::string::npos) all += "\n  " + why;
    }
    if (fits == 0) return at + " fits nothing that it may be:" + all;
    if (std::string(some) == "oneOf" && fits > 1) return at + " fits several";
  }
  return {};
}

const json& schema() {
  static const json all = json::parse(projectSchema());
  return all;
}

std::string amissIn(const Project& project) {
  return amiss(schema(), json::parse(projectText(project, "/nowhere")), "project");
}

TEST(Schema, EveryStageAsItIsAddedIsAsItSays) {
  for (const StageKind* kind : stageKinds()) {
    Project project;
    project.chain = {newStage(*kind)};
    EXPECT_EQ(amissIn(project), "") << kind->description().id;
  }
}

TEST(Schema, AnyChainIsAsItSays) {
  test::RandomChains random(11, 40);
  for (int round = 0; round < 300; ++round) {
    Project project;
    project.source.path = "/nowhere/clip.mkv";
    project.chain = random.chain(random.within(0, 6));
    if (random.oneIn(3)) project.versionB = random.chain(2);
    if (random.oneIn(3)) project.source.rate = Rational(24000, 1001);
    if (random.oneIn(3)) project.in = random.within(0, 9), project.out = random.within(10, 30);
    if (random.oneIn(3)) project.output.size = Size{random.within(1, 4000), random.within(1, 4000)};
    if (random.oneIn(3)) project.output.rate = Rational(25), project.output.length = Rational(7, 2);
    if (random.oneIn(3)) project.output.path = "/nowhere/film.mp4", project.output.codec = "h264";
    if (!project.chain.empty() && random.oneIn(2)) project.chain[0].on = false, project.chain[0].name = "Мост · 5";
    const std::string why = amissIn(project);
    ASSERT_EQ(why, "") << test::chainWords(project.chain);
  }
}

/// A program that heeds the schema and writes anything at all that it allows is read: each stage, each parameter at
/// its borders.
TEST(Schema, WhatItAllowsIsRead) {
  const json& stages = schema()["properties"]["shots"]["items"]["properties"]["chain"]["items"]["oneOf"];
  ASSERT_EQ(stages.size(), stageKinds().size());
  int tried = 0;
  const auto reads = [&](const json& stage, const std::string& member, const json& value) {
    json written = {{"stage", stage["properties"]["stage"]["const"]}, {member, value}};
    const json project = {{"format", 2},
                          {"sources", {{{"path", "clip.mkv"}}}},
                          {"shots", {{{"source", 0}, {"chain", {written}}}}}};
    const std::string why = amiss(schema(), project, "project");
    ASSERT_EQ(why, "") << project.dump();
    const auto read = parseProject(project.dump(), "/nowhere");
    ASSERT_TRUE(read) << project.dump() << read.error().message;
    ASSERT_EQ(read->chain.size(), 1u);
    ++tried;
  };
  for (const json& stage : stages)
    for (const auto& [member, said] : stage["properties"].items()) {
      if (member == "stage") continue;
      for (const json& choice : said.value("enum", json::array())) reads(stage, member, choice);
      std::vector<json> simple{said};
      for (const json& each : said.value("anyOf", json::array())) simple.push_back(each);
      for (const json& each : simple) {
        const json type = each.value("type", json());
        if (type == "boolean") reads(stage, member, true), reads(stage, member, false);
        for (const char* border : {"minimum", "maximum"})
          if (each.contains(border)) reads(stage, member, each[border]);
      }
    }
  EXPECT_GT(tried, 150);
}

/// The validator is no yes-sayer.
TEST(Schema, WhatIsAmissIsFound) {
  Project project;
  project.source.path = "/nowhere/clip.mkv";
  project.chain = {*parseStage("time-field:back=1s", 25)};
  const json whole = json::parse(projectText(project, "/nowhere"));
  ASSERT_EQ(amiss(schema(), whole, "project"), "");
  const auto with = [&](const std::string& pointer, const json& value) {
    json changed = whole;
    changed[json::json_pointer(pointer)] = value;
    return amiss(schema(), changed, "project");
  };
  EXPECT_NE(with("/format", 1), "");
  EXPECT_NE(with("/formats", 2), "");
  EXPECT_NE(with("/shots", json::object()), "");
  EXPECT_NE(with("/shots/0/chain/0/stage", "ripples"), "");
  EXPECT_NE(with("/shots/0/chain/0/back", "soon"), "");
  EXPECT_NE(with("/shots/0/chain/0/back", -1), "");
  EXPECT_NE(with("/shots/0/chain/0/past-the-ends", "vanish"), "");
  EXPECT_NE(with("/sources/0/rate", "fast"), "");
}

}  // namespace
}  // namespace molten
