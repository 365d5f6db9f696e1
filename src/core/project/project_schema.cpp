#include "core/project/project_schema.h"

#include <nlohmann/json.hpp>

#include "core/project/project_file.h"

namespace molten {
namespace {

using Json = nlohmann::ordered_json;

/// What a stage's or a sound's parameters may be set to, by their ids.
Json parameterSchema(const StageDescription& described) {
  Json properties{{"on", {{"type", "boolean"}}}, {"name", {{"type", "string"}}}};
  for (const auto& parameter : described.parameters) {
    Json property;
    if (const auto* number = std::get_if<NumberDescription>(&parameter.kind)) {
      property = {{"type", "number"}, {"minimum", number->least}, {"maximum", number->most}};
      if (number->unit == Unit::Seconds) property["description"] = parameter.help + " In seconds.";
      if (number->unit == Unit::PerSecond) property["description"] = parameter.help + " In fps.";
      if (number->unit == Unit::Times) property["description"] = parameter.help + " Times a second.";
    } else if (std::holds_alternative<PlaceDescription>(parameter.kind)) {
      property = {{"type", "array"},
                  {"items", {{"type", "number"}, {"minimum", -2}, {"maximum", 3}}},
                  {"minItems", 2},
                  {"maxItems", 2}};
    } else if (std::holds_alternative<ToggleDescription>(parameter.kind)) {
      property = {{"type", "boolean"}};
    } else if (const auto* file = std::get_if<FileDescription>(&parameter.kind); file && file->isSource) {
      property = {{"type", {"integer", "string"}},
                  {"minimum", 0},
                  {"description", parameter.help + " Its number among the sources; empty: none."}};
    } else if (!std::holds_alternative<ChoicesDescription>(parameter.kind)) {
      property = {{"type", "string"}};
    } else {
      property = {{"enum", Json::array()}};
      for (const auto& choice : std::get<ChoicesDescription>(parameter.kind).choices)
        property["enum"].push_back(choice.id);
    }
    if (!property.contains("description")) property["description"] = parameter.help;
    // Instead of a value there may be what moves it.
    if (parameter.animatable)
      property = {{"description", property["description"]},
                  {"anyOf", {property, {{"type", "string"}, {"pattern", "^[^@_]+(@|_[a-z])"}}}}};
    properties[parameter.id] = std::move(property);
  }
  return properties;
}

}  // namespace

std::string projectSchema() {
  const auto rate = Json{{"type", "string"}, {"pattern", "^[0-9]+/[0-9]+$"}};
  const auto frame = Json{{"type", {"integer", "null"}}, {"minimum", 0}};
  Json stages = Json::array();
  for (const StageKind* kind : stageKinds()) {
    const StageDescription& described = kind->description();
    Json properties{{"stage", {{"const", described.id}}}};
    properties.update(parameterSchema(described));
    if (described.branches)
      properties["chain"] = {{"type", "array"}, {"description", "What its source passes first: stages as in the shot's."}};
    stages.push_back({{"title", described.label},
                      {"type", "object"},
                      {"properties", std::move(properties)},
                      {"required", {"stage"}}});
  }
  Json between = Json::array();
  for (const ChoiceDescription& choice : inBetweenChoices()) between.push_back(choice.id);
  const Json seconds{{"type", "string"}, {"description", "In seconds: \"7\", \"1001/30\"."}};
  const Json schema{{"$schema", "https://json-schema.org/draft/2020-12/schema"},
                    {"title", "Molten Clock project"},
                    {"type", "object"},
                    {"required", {"format"}},
                    {"properties",
                     {{"format", {{"const", projectFormat}}},
                      {"sources",
                       {{"type", "array"},
                        {"description", "What is read, counted from 0: the shot's, then what stages name; those have a path alone."},
                        {"items",
                         {{"type", "object"},
                          {"properties",
                           {{"path", {{"type", "string"}}},
                            {"rate",
                             {{"type", "string"},
                              {"pattern", "^[0-9]+/[0-9]+$"},
                              {"description", "Of stills, or of footage whose rate varies; none: its own."}}},
                            {"in-between", {{"enum", between}}}}}}}}},
                      {"shots",
                       {{"type", "array"},
                        {"description", "In the order of the reel."},
                        {"items",
                         {{"type", "object"},
                          {"properties",
                           {{"source", {{"type", "integer"}, {"minimum", 0}}},
                            {"chain", {{"type", "array"}, {"items", {{"oneOf", std::move(stages)}}}}},
                            {"version-b",
                             {{"type", "array"},
                              {"description", "Other settings, kept to be compared: stages as in \"chain\"."}}},
                            {"sound",
                             {{"type", "object"},
                              {"description", "How its footage's sound is heard; none: as it is."},
                              {"properties", parameterSchema(ownSound().kind->description())}}},
                            {"name", {{"type", "string"}, {"description", "None: its footage's."}}},
                            {"on", {{"type", "boolean"}}},
                            {"from", seconds},
                            {"to", seconds},
                            {"fills",
                             {{"type", "boolean"},
                              {"description", "Of another shape than the reel: it is cut to that, not fitted into it."}}},
                            {"cut",
                             {{"type", "object"},
                              {"description", "How it goes over into the next shot; none: at once."},
                              {"properties",
                               {{"dissolve", seconds},
                                {"linear-light", {{"type", "boolean"}}},
                                {"run-through",
                                 {{"type", "object"},
                                  {"description", "Both shots race at it: as fast as this at the cut, for so many seconds each."},
                                  {"properties",
                                   {{"speed", {{"type", "string"}, {"pattern", "^[0-9]+(/[0-9]+)?$"}}}, {"lasts", seconds}}}}}}}}}}}}}}},
                      {"reel",
                       {{"type", "object"},
                        {"properties",
                         {{"chain",
                           {{"type", "array"}, {"description", "After the last cut: stages as in a shot's."}}},
                          {"stops-at-cuts",
                           {{"type", "boolean"}, {"description", "What they read of other moments ends where its shot does."}}}}}}},
                      {"sounds",
                       {{"type", "array"},
                        {"description", "Laid on the result's time, each on a lane of its own."},
                        {"items",
                         {{"type", "object"},
                          {"properties", parameterSchema(layingSound({}, 0).kind->description())},
                          {"required", {"file"}}}}}},
                      {"in", frame},
                      {"out", frame},
                      {"output",
                       {{"type", "object"},
                        {"properties",
                         {{"path", {{"type", "string"}}},
                          {"codec", {{"type", "string"}}},
                          {"quality", {{"type", "integer"}}},
                          {"rate", rate},
                          {"length", {{"type", "string"}, {"description", "In seconds; none: it follows the chain."}}},
                          {"size",
                           {{"type", "array"},
                            {"items", {{"type", "integer"}, {"minimum", 1}, {"maximum", 32768}}},
                            {"minItems", 2},
                            {"maxItems", 2}}}}}}}}}};
  return schema.dump(2) + "\n";
}

}  // namespace molten
