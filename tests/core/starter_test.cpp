// Starters: those of the program are whole, and adapt; one's own come back as they were saved.
#include "core/project/starter.h"

#include <fstream>

#include "core/project/project_file.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

TEST(Starters, ThoseOfTheProgramAreWhole) {
  ASSERT_GE(builtInStarters().size(), 9u);
  for (const Starter& starter : builtInStarters()) {
    EXPECT_FALSE(starter.chain.empty()) << starter.name;
    EXPECT_FALSE(starter.help.empty()) << starter.name;
    // A stage whose text were wrong would be missing.
    EXPECT_EQ(starter.chain.size(),
              starter.name == "Day fan" || starter.name == "Race and rest" ? 2u : starter.chain.size());
  }
}

TEST(Starters, AdaptToLengthAndSize) {
  Starter starter{"Test", "", {{1280, 720}, 1, 30, 240}, {}};
  for (const char* const text : {"time-field:back=0s@0s+2s@8s", "pace:spans=2s@50%~1s+6s@100%",
                                 "strips:stagger=12f,divider-line=4px", "echoes:repeats=7,nearest=33%"})
    starter.chain.push_back(*parseStage(text, 30));
  // Half as long, twice as wide.
  const Chain half = fitted(starter, {{2560, 1440}, 1, 60, 240});
  EXPECT_EQ(stageText(half[0]), stageText(*parseStage("time-field:back=0s@0s+1s@4s", 30)));
  EXPECT_EQ(stageText(half[1]), stageText(*parseStage("pace:spans=1s@50%~0.5s+3s@100%", 30)));
  EXPECT_DOUBLE_EQ(valueOf<double>(half[2], "stagger"), 12);
  EXPECT_DOUBLE_EQ(valueOf<double>(half[2], "divider-line"), 8);
  EXPECT_DOUBLE_EQ(valueOf<double>(half[3], "nearest"), 0.33);
  // Twice as long: what follows the length is stretched, a spacing is not.
  const Chain twice = fitted(starter, {{640, 360}, 1, 25, 400});
  EXPECT_EQ(stageText(twice[1]), stageText(*parseStage("pace:spans=4s@50%~2s+12s@100%", 30)));
  EXPECT_DOUBLE_EQ(valueOf<double>(twice[2], "stagger"), 10);  // 0.4 s
}

/// Fitted to whatever footage, they make projects that can be opened again.
TEST(Starters, FittedToAnyFootageCanBeSavedAndOpened) {
  Starter slow{"Slow", "", {{1280, 720}, 1, 30, 30}, {*parseStage("pace:spans=0.3s@50%~0.2s+0.7s@100%", 30),
                                                       *parseStage("time-field:back=0s@0s+2s@1s", 30)}};
  std::vector<Starter> all(builtInStarters().begin(), builtInStarters().end());
  all.push_back(slow);
  for (const Starter& starter : all)
    for (const std::int64_t length : {std::int64_t(1), std::int64_t(7), std::int64_t(240), std::int64_t(30) * 3600 * 23,
                                      std::int64_t(30) * 3600 * 40, std::int64_t(30000001)})
      for (const Rational rate : {Rational(30), Rational(30000, 1001), Rational(1000), Rational(1)}) {
        Project project;
        project.source.path = "/films/gather.mp4";
        project.chain = fitted(starter, {{3840, 2160}, 1, rate, length});
        const auto back = parseProject(projectText(project, "/films"), "/films");
        ASSERT_TRUE(back) << starter.name << " for " << length << ": " << back.error().message;
        EXPECT_TRUE(back->chain == project.chain) << starter.name << " for " << length;
      }
}

TEST(Starters, ComeBackAsTheyWereSaved) {
  const test::TempFolder folder;
  Starter starter{"Mine, of \"glass\"", "what it does", {{1920, 1080}, 1, Rational(30000, 1001), 300}, {}};
  starter.chain = {*parseStage("echoes:mix=layers,top=oldest,repeats=9", 30),
                   *parseStage("time-field:back=1s@0s+2s@3s~ease", 30)};
  starter.chain[0].name = "Ghost";
  starter.chain[1].on = false;
  ASSERT_TRUE(saveStarter(starter, folder / "mine.molten-starter"));
  const auto back = loadStarter(folder / "mine.molten-starter");
  ASSERT_TRUE(back) << back.error().message;
  EXPECT_EQ(back->name, starter.name);
  EXPECT_EQ(back->madeFor.length, 300);
  EXPECT_EQ(back->madeFor.rate, Rational(30000, 1001));
  EXPECT_TRUE(back->chain == starter.chain);
}

TEST(Starters, WhatIsNoneSaysSo) {
  const test::TempFolder folder;
  const auto fails = [&](const std::string& text) {
    std::ofstream(folder / "a.molten-starter") << text;
    const auto loaded = loadStarter(folder / "a.molten-starter");
    return !loaded && loaded.error().message.starts_with("a.molten-starter");
  };
  EXPECT_TRUE(fails(""));
  EXPECT_TRUE(fails("[]"));
  EXPECT_TRUE(fails(R"({"format":1,"starter":3,"chain":[]})"));
  EXPECT_TRUE(fails(R"({"format":1,"starter":"A","chain":[]})"));
  EXPECT_TRUE(fails(R"({"format":9,"starter":"A","chain":[{"stage":"echoes"}]})"));
  EXPECT_TRUE(fails(R"({"format":1,"starter":"A","chain":[{"stage":"nothing-known"}]})"));
  EXPECT_FALSE(loadStarter(folder / "none.molten-starter"));
}

}  // namespace
}  // namespace molten
