// What cards say of themselves, when parameters count, and names that parameters had before.
#include "core/stages/cards.h"

#include <gtest/gtest.h>

#include "core/project/project_file.h"
#include "core/stages/loop.h"
#include "core/stages/slit_scan.h"
#include "core/stages/time_field.h"
#include "support/stages.h"

namespace molten {
namespace {

ParameterValue read(const Stage& stage, std::string_view id, std::string_view text) {
  const auto& parameters = stage.kind->description().parameters;
  return *parseValue(parameters[parameterIndex(stage.kind->description(), id)], text, 30);
}
void set(Stage& stage, std::string_view id, std::string_view text) {
  stage.values[parameterIndex(stage.kind->description(), id)] = read(stage, id, text);
}
bool counts(const Stage& stage, std::string_view id) {
  return isInUse(stage.kind->description(), stage.values, parameterIndex(stage.kind->description(), id));
}

TEST(Cards, SayHowTheyStandInOneLine) {
  Stage field = newStage(timeField());
  const StageDescription& described = field.kind->description();
  EXPECT_EQ(cardWords(described, field.values, "Shaping"), "as it comes");
  EXPECT_EQ(cardWords(described, field.values, "Second shape"), "alone");
  set(field, "repeat", "2.5");
  set(field, "mirror", "on");
  set(field, "end-above", "0.5");
  EXPECT_EQ(cardWords(described, field.values, "Shaping"), "end above 0.5 · repeat 2.5 · mirror");
  set(field, "response", "0x0+0.3x0.7+1x1");
  EXPECT_NE(cardWords(described, field.values, "Shaping").find("response drawn"), std::string::npos);
  // What does not count is not said.
  EXPECT_EQ(cardWords(described, field.values, "Dither"), "as it comes");
  EXPECT_TRUE(cardOf(described, "Shaping").seldom);
  EXPECT_FALSE(cardOf(described, "Reach").seldom);
}

/// Every card that a description speaks of is one that parameters stand on, and every note has lines to stand on.
TEST(Cards, AreThoseThatParametersStandOn) {
  for (const StageKind* const kind : stageKinds())
    for (const CardDescription& card : kind->description().cards) {
      const auto& all = kind->description().parameters;
      EXPECT_TRUE(std::any_of(all.begin(), all.end(), [&](const auto& one) { return one.card == card.title; }))
          << kind->description().id << ": " << card.title;
    }
}

/// Conditions over more than one parameter.
TEST(Conditions, HoldTogetherAndTurnedRound) {
  Stage loop = newStage(molten::loop());
  EXPECT_TRUE(counts(loop, "end-frames"));
  set(loop, "ease", "0.5s");
  EXPECT_FALSE(counts(loop, "end-frames")) << "time does not turn at once";
  set(loop, "kind-of-loop", "round");
  EXPECT_FALSE(counts(loop, "end-frames"));
  EXPECT_FALSE(counts(loop, "ease"));
  Stage slit = newStage(slitScan());
  EXPECT_TRUE(counts(slit, "before-the-slit"));
  set(slit, "result", "one-picture");
  EXPECT_TRUE(counts(slit, "before-the-slit")) << "a slit that travels makes no one picture";
  set(slit, "slit", "stands");
  EXPECT_FALSE(counts(slit, "before-the-slit"));
  Stage field = newStage(timeField());
  set(field, "shape", "picture");
  EXPECT_FALSE(counts(field, "centre"));
  EXPECT_FALSE(counts(field, "width"));
  set(field, "fit", "placed");
  EXPECT_TRUE(counts(field, "centre") && counts(field, "width"));
  set(field, "shape", "radial");
  EXPECT_TRUE(counts(field, "centre"));
}

/// Names of before open as what they are called now, in files and as text; what is written has the new ones.
TEST(EarlierNames, OpenAsTodays) {
  const auto project = parseProject(R"({"format": 2, "sources": [{"path": "a.mp4"}], "shots": [{"source": 0, "chain": [
    {"stage": "loop", "way": "dissolve"},
    {"stage": "slit-scan", "way": "there-and-back"},
    {"stage": "time-field", "dither": 2, "fresh": true, "levels-from": 0.25, "levels-to": 0.75, "out-from": 0.1,
     "out-to": 0.9}]}]})",
                                    "/films");
  ASSERT_TRUE(project) << project.error().message;
  const Chain& chain = project->chain;
  EXPECT_EQ(valueOf<std::size_t>(chain[0], "kind-of-loop"), 2u);
  EXPECT_EQ(valueOf<std::size_t>(chain[1], "at-the-end"), 1u);
  EXPECT_TRUE(valueOf<bool>(chain[2], "every-picture-anew"));
  EXPECT_EQ(valueOf<double>(chain[2], "start-below"), 0.25);
  EXPECT_EQ(valueOf<double>(chain[2], "end-above"), 0.75);
  EXPECT_EQ(valueOf<double>(chain[2], "start-becomes"), 0.1);
  EXPECT_EQ(valueOf<double>(chain[2], "end-becomes"), 0.9);
  for (const Stage& stage : chain) EXPECT_TRUE(stage.unknown.empty()) << stage.unknown;
}

/// What a person types: out of range is the nearest that can be, and that is said.
TEST(TypedValues, AreBroughtIntoTheRangeAndSaySo) {
  const Stage field = newStage(timeField());
  const auto& parameters = field.kind->description().parameters;
  const auto typed = [&](std::string_view id, std::string_view text) {
    return typedValue(parameters[parameterIndex(field.kind->description(), id)], text, 30);
  };
  EXPECT_EQ(std::get<double>(typed("back", "1,25s")->value), 1.25);
  EXPECT_TRUE(typed("back", "1,25s")->said.empty());
  EXPECT_EQ(std::get<double>(typed("back", "-1")->value), 0);
  EXPECT_EQ(typed("back", "-1")->said, "Back goes from 0.000 s to 3600.000 s: it is 0.000 s now.");
  EXPECT_EQ(std::get<double>(typed("panes", "5.6")->value), 6);
  EXPECT_EQ(std::get<double>(typed("panes", "99999")->value), 1000);
  EXPECT_FALSE(typed("back", "1/0"));
  EXPECT_FALSE(typed("back", "1.000,5"));
  EXPECT_EQ(std::get<Place>(typed("start", "0,5x1,25")->value), (Place{0.5, 1.25}));
}

TEST(FrameOrders, HoldsAreTimesToo) {
  EXPECT_EQ(frameOrderText(*parseFrameOrder("1:0.2s+3:1/10s+5:2", 30)), "1:6+3:3+5:2");
  EXPECT_EQ(frameOrderText(*parseFrameOrder("1:0.001s", 30)), "1") << "a picture at least";
  for (const char* const none : {"1:0s", "1:-2s", "1:soon", "1:", "1:1e99s"})
    EXPECT_FALSE(parseFrameOrder(none, 30)) << none;
}

}  // namespace
}  // namespace molten
