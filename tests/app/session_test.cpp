// The session by itself, without a window: what is open, where one stands in it, and who is told what.
#include <QSignalSpy>

#include "app/files/demos.h"
#include "app/picture/moment_finder.h"
#include "app/playback/player.h"
#include "app/session/outside_words.h"
#include "app/session/session.h"
#include "app/session/stage_edits.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten::test {
namespace {

class SessionTest : public ::testing::Test {
 protected:
  SessionTest() : session(QString::fromStdString(folder / "autosave")) {}

  template <class Condition>
  bool until(Condition condition) {
    for (int i = 0; i < 1000 && !condition(); ++i) QTest::qWait(10);
    return condition();
  }
  std::string clip(const char* name = "clip.mkv", int frames = 60) {
    makeNumberedClip(folder / name, frames, {64, 36}, "-c:v ffv1");
    return folder / name;
  }
  void open(const std::string& path) {
    session.useFootage(QString::fromStdString(path));
    ASSERT_TRUE(until([&] { return session.footage() && session.footage()->path() == path; }));
  }
  void add(const char* stage) {
    session.apply(insertStages(session.project(), session.project().chain.size(), {*parseStage(stage, 30)}, stage));
  }
  TempFolder folder;
  Session session;
};

TEST_F(SessionTest, EachEditIsToldOnceWithItsReading) {
  open(clip());
  QSignalSpy told(&session, &Session::changed);
  const auto before = session.reading();
  add("time-field:back=1s");
  EXPECT_EQ(told.count(), 1);
  EXPECT_NE(session.reading(), before);
  EXPECT_EQ(session.reading()->size(), 1u);
  const auto now = session.reading();
  session.select(1);
  session.goTo(20);
  EXPECT_EQ(session.reading(), now) << "neither selecting nor moving makes another";
  EXPECT_EQ(told.count(), 1);
  session.document().undoStack().undo();
  EXPECT_EQ(told.count(), 2);
  EXPECT_EQ(session.reading()->size(), 0u);
}

TEST_F(SessionTest, ThePlayheadStaysInThePieceAndTheSelectionInTheChain) {
  session.goTo(5);
  EXPECT_EQ(session.frame(), 0) << "without footage there is nowhere to go";
  EXPECT_EQ(session.length(), 0);
  open(clip());
  QSignalSpy taken(&session, &Session::playheadTaken), moved(&session, &Session::frameChanged);
  session.goTo(1000);
  EXPECT_EQ(session.frame(), 59);
  session.goTo(-3);
  EXPECT_EQ(session.frame(), 0);
  EXPECT_EQ(taken.count(), 2);
  session.follow(40);
  EXPECT_EQ(taken.count(), 2) << "what plays takes nothing out of its own hands";
  EXPECT_EQ(moved.count(), 3);
  add("pace:spans=1s@100%");
  EXPECT_EQ(session.length(), 30);
  EXPECT_EQ(session.frame(), 29) << "the piece has become shorter";
  session.select(7);
  EXPECT_EQ(session.selected(), 2u) << "the output";
  EXPECT_FALSE(session.selectedStage());
  session.select(1);
  EXPECT_EQ(session.selectedStage(), 0u);
  session.apply(removeStage(session.project(), 0));
  EXPECT_EQ(session.selected(), 1u);
  EXPECT_FALSE(session.selectedStage());
}

TEST_F(SessionTest, AStagesMomentGoesThroughWhatStandsAfterIt) {
  open(clip());
  add("time-field:back=0.1s");
  add("pace:spans=1s@200%");
  session.goTo(10);
  EXPECT_EQ(session.stageMoment(1), Rational(1, 3));
  EXPECT_EQ(session.stageMoment(0), Rational(2, 3)) << "the Pace after it shows its picture 20";
  session.apply(switchStage(session.project(), 1, false));
  EXPECT_EQ(session.stageMoment(0), Rational(1, 3));
  // What enters a stage is counted among those that are on.
  EXPECT_EQ(session.placeOn(1), 1u);
  session.apply(switchStage(session.project(), 0, false));
  EXPECT_EQ(session.placeOn(1), 0u);
  EXPECT_EQ(session.videoInto(1).length, 60);
}

TEST_F(SessionTest, WhatReadsOutsideIsKnownAndSaid) {
  open(clip());
  EXPECT_EQ(outsideSentence(session), "");
  add("time-field:back=0.5s");
  ASSERT_TRUE(until([&] { return !session.outside().empty(); }));
  EXPECT_EQ(outsideSentence(session).toStdString(), "The first 0.50 s reads before the clip.");
  session.apply(setChain(session.project(), {*parseStage("time-field:back=0.5s,ahead=0.2s", 30)}, "Both"));
  ASSERT_TRUE(until([&] { return session.outside().size() == 2; }));
  // The last row of the picture is half a row short of all of the reach.
  EXPECT_EQ(outsideSentence(session).toStdString(),
            "The first 0.50 s reads before the clip, the last 0.17 s past its end.");
  session.apply(*trimToFootage(session.project(), session.video()));
  EXPECT_TRUE(until([&] { return session.outside().empty(); }));
  session.apply(setChain(session.project(), {*parseStage("time-field:back=9s", 30)}, "Far"));
  EXPECT_TRUE(until([&] { return outsideSentence(session) == "Every picture reads outside the clip."; }));
  EXPECT_EQ(whatHappensThere(PastTheEnds::TurnBack), "Turn back: time runs back from the end.");
}

TEST_F(SessionTest, TheNewestFootageWinsAndUndoBringsTheOtherBack) {
  const std::string first = clip("first.mkv", 30), second = clip("second.mkv", 45);
  QSignalSpy leaves(&session, &Session::footageLeaves), arrives(&session, &Session::footageArrived);
  session.useFootage(QString::fromStdString(first));
  session.useFootage(QString::fromStdString(second));
  ASSERT_TRUE(until([&] { return session.footage() != nullptr; }));
  EXPECT_EQ(session.footage()->path(), second);
  QTest::qWait(50);
  EXPECT_EQ(arrives.count(), 1) << "the one that was overtaken does not come";
  EXPECT_EQ(session.length(), 45);
  QSignalSpy replacing(&session, &Session::replacing);
  open(first);
  EXPECT_EQ(replacing.count(), 1);
  session.document().undoStack().undo();
  ASSERT_TRUE(until([&] { return session.footage() && session.footage()->path() == second; }));
  EXPECT_EQ(session.length(), 45);
  session.document().newProject();
  EXPECT_FALSE(session.footage());
  EXPECT_LT(session.indexing(), 0);
}

TEST_F(SessionTest, FootageThatCannotBeReadIsSaidAndTriedAgain) {
  QSignalSpy failed(&session, &Session::footageFailed);
  const std::string path = folder / "later.mkv";
  session.useFootage(QString::fromStdString(path));
  ASSERT_TRUE(until([&] { return failed.count() == 1; }));
  EXPECT_TRUE(failed[0][0].toString().contains("later.mkv"));
  EXPECT_FALSE(session.footage());
  EXPECT_EQ(session.project().source.path, path) << "the project keeps its name";
  makeNumberedClip(path, 12, {64, 36}, "-c:v ffv1");
  const int steps = session.document().undoStack().count();
  session.useFootage(QString::fromStdString(path));
  ASSERT_TRUE(until([&] { return session.footage() != nullptr; }));
  EXPECT_EQ(session.document().undoStack().count(), steps) << "the same again is no step";
}

TEST_F(SessionTest, ChangesAreNamedByWhatDiffersAndAreOneStepAtOneMoment) {
  open(clip());
  add("time-field:back=1s");
  session.select(1);
  const auto with = [&](const char* words) { return parseStage(std::string("time-field:") + words, 30)->values; };
  EXPECT_EQ(nameOfChange(session.project().chain[0], with("back=0.5s"), 0), "Back 0.500 s");
  EXPECT_EQ(nameOfChange(session.project().chain[0], with("back=1s"), 0), "Time Field");
  const int steps = session.document().undoStack().count();
  changeStage(session, 0, with("back=0.5s"), "pull");
  changeStage(session, 0, with("back=0.4s"), "pull");
  EXPECT_EQ(session.document().undoStack().count(), steps + 1);
  session.document().endGesture();
  changeStage(session, 0, with("back=0.3s"), "pull");
  EXPECT_EQ(session.document().undoStack().count(), steps + 2);
  EXPECT_EQ(session.document().undoStack().undoText(), "Back 0.300 s");
}

/// What a place reads is what the chain's reading says of it, for fields of numbers and of pictures; the newest
/// question is the one that is answered.
TEST_F(SessionTest, APlacesMomentIsWhatIsReadThere) {
  open(clip());
  Player player;
  player.setFootage(session.footage(), std::size_t(256) << 20);
  MomentFinder finder(session, player);
  for (const char* words : {"time-field:back=1s", "time-field:shape=radial,back=0.4s,ahead=0.3s",
                            "time-field:shape=footage,back=0.5s"}) {
    session.apply(setChain(session.project(), {*parseStage(words, 30)}, words));
    session.goTo(30);
    const Place place{0.3, 0.6};
    std::optional<double> found;
    int answers = 0;
    finder.find(0, {0.9, 0.1}, [&](double) { ++answers; });
    finder.find(0, place, [&](double seconds) { found = seconds, ++answers; });
    ASSERT_TRUE(until([&] { return found.has_value(); })) << words;
    EXPECT_EQ(answers, 1) << words;
    const auto material = fieldMaterial(session.footage(), 1);
    const ChainReading reading(session.project().chain, session.video(), material, {}, session.footage()->clock());
    const double read =
        reading.at(session.piece().moment(30), place.x * session.video().size.width, place.y * session.video().size.height)
            .position;
    EXPECT_NEAR(*found, read / 30 - 1, 1e-6) << words;
  }
  // What was asked before the footage went is not answered.
  int late = 0;
  finder.find(0, {0.5, 0.5}, [&](double) { ++late; });
  finder.forget();
  QTest::qWait(60);
  EXPECT_EQ(late, 0);
}

/// The list beside the demonstrations names files that are there, each once, and says what each shows.
TEST(Demos, AllThatAreListedAreThereAndReadable) {
  std::ifstream list(std::string(MOLTEN_SOURCE) + "/demo/demonstrations.txt");
  ASSERT_TRUE(list);
  std::vector<std::string> names;
  for (std::string line; std::getline(list, line);) {
    if (line.starts_with("#")) continue;
    const auto tab = line.find('\t');
    ASSERT_NE(tab, std::string::npos) << line;
    names.push_back(line.substr(0, tab));
    EXPECT_GT(line.size(), tab + 5) << line;
    EXPECT_TRUE(std::filesystem::exists(std::string(MOLTEN_SOURCE) + "/demo/" + names.back())) << line;
  }
  std::size_t projects = 0;
  for (const auto& entry : std::filesystem::directory_iterator(std::string(MOLTEN_SOURCE) + "/demo"))
    projects += entry.path().extension() == ".molten";
  EXPECT_EQ(names.size(), projects) << "each is in the menu";
  std::sort(names.begin(), names.end());
  EXPECT_EQ(std::unique(names.begin(), names.end()), names.end());
}

}  // namespace
}  // namespace molten::test
