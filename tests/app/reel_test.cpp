// The reel, as a hand works on it: shots dropped, ordered, trimmed, split and played through.
#include <random>

#include "app/reel/cut_pair.h"
#include "app/sound/sound_lanes.h"
#include "core/project/project_file.h"
#include "core/project/reel.h"
#include "reel_fixture.h"

namespace molten {
namespace {

using test::ReelTest;

TEST_F(ReelTest, SeveralThatAreDroppedPlayOneAfterTheOther) {
  open(clip());
  EXPECT_FALSE(strip().isVisible()) << "one shot needs no reel";
  ASSERT_TRUE(trigger("New"));
  three();
  EXPECT_TRUE(strip().isVisible());
  EXPECT_EQ(titles(), (QStringList{"a", "b", "c"}));
  EXPECT_TRUE(strip().state().summary.contains("3 shots")) << strip().state().summary.toStdString();
  EXPECT_TRUE(strip().state().summary.contains("3.7 s")) << strip().state().summary.toStdString();
  QTest::keyClick(&picture(), Qt::Key_End);
  EXPECT_TRUE(shows(19));
  EXPECT_EQ(strip().state().taken, 2u);
  for (int i = 0; i < 20; ++i) QTest::keyClick(&picture(), Qt::Key_Left);
  EXPECT_TRUE(shows(65535 - 29));
  EXPECT_EQ(strip().state().taken, 1u) << "the shot under the playhead is in hand";
  QTest::keyClick(&picture(), Qt::Key_Home);
  EXPECT_TRUE(shows(0));
  // From the middle of the first over both cuts to the end, with nothing left out for long.
  QTest::keyClick(&picture(), Qt::Key_Space);
  EXPECT_TRUE(until([&] { return strip().state().under == 1; }));
  EXPECT_TRUE(until([&] { return strip().state().under == 2; }));
  EXPECT_TRUE(until([&] { return strip().state().under == 0; })) << "it goes round";
  QTest::keyClick(&picture(), Qt::Key_Space);
  EXPECT_EQ(strip().state().taken, strip().state().under);
}

TEST_F(ReelTest, AShotInHandHasItsOwnChain) {
  three();
  click(1);
  EXPECT_TRUE(shows(65535));
  ASSERT_TRUE(trigger("Step Rate"));
  stillFor(60);
  EXPECT_TRUE(project().chain.empty());
  ASSERT_EQ(project().more[0].chain.size(), 1u);
  EXPECT_EQ(chain().tiles().size(), 3u);
  click(0);
  stillFor(60);
  EXPECT_EQ(chain().tiles().size(), 2u);
  // What the hand sets on the shot's own time is seen in the reel: 12 a second of 30.
  click(1);
  for (int i = 0; i < 4; ++i) QTest::keyClick(&picture(), Qt::Key_Right);
  EXPECT_TRUE(shows(65535 - 3));
  QTest::keyClick(bench.get(), Qt::Key_Z, Qt::ControlModifier);
  EXPECT_TRUE(shows(65535 - 4));
}

TEST_F(ReelTest, ShotsAreDraggedAndTrimmed) {
  three();
  const QRect first = strip().shotRect(0), last = strip().shotRect(2);
  drag(strip(), last.center(), QPointF(first.left() + 4, first.center().y()));
  EXPECT_EQ(titles(), (QStringList{"c", "a", "b"}));
  EXPECT_TRUE(shows(0));
  EXPECT_EQ(strip().state().taken, 0u) << "what was moved stays in hand";
  // The end of the first is pulled in by half a second: 40 pixels a second.
  const QRect box = strip().shotRect(1);
  drag(strip(), QPointF(box.right() - 2, box.center().y()), QPointF(box.right() - 22, box.center().y()));
  EXPECT_TRUE(known(95));
  EXPECT_EQ(project().more[0].place.to, Rational(45, 30));
  EXPECT_TRUE(shows(44)) << "its last picture";
  QTest::keyClick(&picture(), Qt::Key_Right);
  EXPECT_TRUE(shows(65535)) << "and then the next shot";
  EXPECT_EQ(bench->document().undoStack().undoText(), "Trim a");
  QTest::keyClick(bench.get(), Qt::Key_Z, Qt::ControlModifier);
  EXPECT_TRUE(known(110));
  QTest::keyClick(bench.get(), Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ(titles(), (QStringList{"a", "b", "c"}));
}

TEST_F(ReelTest, InAndOutInTheDeckAreTheShotsEnds) {
  three();
  click(0);
  goTo(20);
  QTest::keyClick(bench.get(), Qt::Key_I);
  EXPECT_TRUE(known(90));
  EXPECT_TRUE(shows(20));
  goTo(39);
  QTest::keyClick(bench.get(), Qt::Key_O);
  EXPECT_TRUE(known(70));
  EXPECT_EQ(project().place.from, Rational(20, 30));
  EXPECT_EQ(project().place.to, Rational(40, 30));
  QTest::keyClick(&picture(), Qt::Key_Home);
  EXPECT_TRUE(shows(20));
  // Pulled out to all of it, it is trimmed no more.
  drag(scrubber(), QPointF(scrubber().xOf(20), 14), QPointF(scrubber().xOf(0), 14));
  EXPECT_FALSE(project().place.from);
  EXPECT_EQ(project().place.to, Rational(40, 30));
}

TEST_F(ReelTest, AShotIsSplitDoubledSwitchedAndRemoved) {
  open(numbered("a.mkv", 60));
  for (int i = 0; i < 25; ++i) QTest::keyClick(&picture(), Qt::Key_Right);
  QTest::keyClick(bench.get(), Qt::Key_X);
  ASSERT_TRUE(known(60));
  EXPECT_EQ(strip().state().shots.size(), 2u);
  EXPECT_EQ(strip().state().taken, 1u);
  EXPECT_TRUE(shows(25)) << "what was seen is seen";
  ASSERT_TRUE(trigger("Duplicate the shot"));
  EXPECT_TRUE(known(95));
  ASSERT_TRUE(trigger("Shot on"));
  EXPECT_TRUE(known(60));
  EXPECT_FALSE(strip().state().shots[2].on);
  ASSERT_TRUE(trigger("Remove the shot"));
  EXPECT_EQ(strip().state().shots.size(), 2u);
  while (bench->document().undoStack().canUndo()) bench->document().undoStack().undo();
  EXPECT_FALSE(strip().isVisible());
  EXPECT_TRUE(project().more.empty());
}

TEST_F(ReelTest, ACutIsDissolvedAndThereIsNoMoreThanThereIsRoomFor) {
  three();
  const auto choose = [&](const QString& name) {
    for (QMenu* menu : bench->findChildren<QMenu*>())
      if (menu->title() == "Cut after this shot") emit menu->aboutToShow();
    return trigger(name);
  };
  ASSERT_TRUE(choose("Dissolve of 0.5 s"));
  EXPECT_TRUE(known(95));
  EXPECT_DOUBLE_EQ(strip().state().shots[0].dissolve, 0.5);
  // In its middle both are seen: a number and all that it lacks make gray.
  QTest::keyClick(&picture(), Qt::Key_Home);
  for (int i = 0; i < 5; ++i) QTest::keyClick(&picture(), Qt::Key_Right, Qt::ShiftModifier);
  for (int i = 0; i < 2; ++i) QTest::keyClick(&picture(), Qt::Key_Right);
  stillFor(100);
  const QImage image = picture().grab().toImage();
  const QPointF at = picture().toWidget({6.9 / 8, 7.0 / 8});
  EXPECT_NEAR(qGray(image.pixel(at.toPoint())), 128, 30);
  ASSERT_TRUE(choose("Dissolve of 2 s"));
  EXPECT_TRUE(until([&] { return picture().state().corner.contains("0.50 s"); })) << picture().state().corner.toStdString();
  ASSERT_TRUE(choose("Hard"));
  EXPECT_TRUE(known(110));
}

/// Two clips dropped and the cut pulled: two acts.
TEST_F(ReelTest, ACutIsPulledToBeRunThrough) {
  drop(*bench, {300, 300}, {numbered("a.mkv", 60), numbered("b.mkv", 60, true)});
  ASSERT_TRUE(known(120));
  const QPointF cut = strip().cutRect(0).center();
  QTest::mousePress(&strip(), Qt::LeftButton, {}, cut.toPoint());
  for (const double by : {20.0, 60.0, 90.0}) {
    const QPointF at = cut + QPointF(0, by);
    QMouseEvent move(QEvent::MouseMove, at, strip().mapToGlobal(at), Qt::NoButton, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(&strip(), &move);
  }
  auto* const pair = bench->findChild<CutPair*>();
  EXPECT_TRUE(pair->isVisible()) << "both pictures are in sight";
  // What the first ends with: number 59, bright where its bits are.
  const auto bit = [&](int x0, int n) { return qGray(pair->grab().toImage().pixel(x0 + 190 * ((n % 4) * 2 + 1) / 8, 8 + 107 * (n / 4 * 2 + 1) / 8)) > 128; };
  EXPECT_TRUE(until([&] { return bit(8, 0) && bit(8, 1) && !bit(8, 2) && bit(8, 3) && bit(8, 4) && bit(8, 5) && !bit(8, 6); }));
  EXPECT_TRUE(until([&] { return bit(204, 0) && bit(204, 15); })) << "the second begins with all of them";
  QTest::mouseRelease(&strip(), Qt::LeftButton, {}, (cut + QPointF(0, 90)).toPoint());
  EXPECT_FALSE(pair->isVisible());
  EXPECT_EQ(project().place.cut.through.speed, Rational(4));
  EXPECT_EQ(bench->document().undoStack().count(), 1) << "one step";
  EXPECT_EQ(bench->document().undoStack().undoText(), "Run through at 400 %");
  // The picture before the cut and the one after it are the ones that were shown.
  ASSERT_TRUE(until([&] { return strip().state().summary.contains("2 shots"); }));
  click(1);
  EXPECT_TRUE(shows(65535));
  QTest::keyClick(&picture(), Qt::Key_Left);
  EXPECT_TRUE(shows(59));
  QTest::keyClick(bench.get(), Qt::Key_Z, Qt::ControlModifier);
  EXPECT_TRUE(known(120));
}

TEST_F(ReelTest, ACutIsMovedToWhereTheMotionAgrees) {
  // One that turns back at its frame 12, and one that goes on to the left; waves, so that motion can be seen.
  const auto moving = [&](const char* name, const std::function<double(int)>& right) {
    test::makeGrayClip(folder / name, 30, {160, 90}, [&](int frame, int x, int y) {
      const double u = x - right(frame);
      return 128 + static_cast<int>(50 * std::sin(u * 0.19) * std::cos(y * 0.23) + 40 * std::sin((u + y) * 0.07));
    });
    return folder / name;
  };
  const std::string turns = moving("turns.mkv", [](int n) { return n < 12 ? 1.5 * n : 36 - 1.5 * n; }), left = moving("left.mkv", [](int n) { return -1.5 * n; });
  drop(*bench, {300, 300}, {turns, left});
  ASSERT_TRUE(known(60));
  // The first ends with its frame 9.
  bench->document().apply(trimShot(project(), 0, std::nullopt, Rational(10, 25)));
  ASSERT_TRUE(known(40));
  const std::string before = projectText(project(), {});
  const auto choose = [&] {
    for (QMenu* menu : bench->findChildren<QMenu*>())
      if (menu->title() == "Cut after this shot") emit menu->aboutToShow();
    return trigger("Cut where the motion agrees");
  };
  ASSERT_TRUE(choose());
  ASSERT_TRUE(until([&] { return placeOf(project(), 0).to != Rational(10, 25); }));
  EXPECT_GE(*placeOf(project(), 0).to, Rational(13, 25)) << "it has turned back by then";
  EXPECT_TRUE(picture().state().corner.contains("The motion differs by")) << picture().state().corner.toStdString();
  // It cannot be better now; and all of it is one step back.
  const std::string moved = projectText(project(), {});
  ASSERT_TRUE(choose());
  EXPECT_TRUE(until([&] { return picture().state().corner.contains("No cut within ten pictures"); })) << picture().state().corner.toStdString();
  EXPECT_EQ(projectText(project(), {}), moved);
  bench->document().undoStack().undo();
  EXPECT_EQ(projectText(project(), {}), before);
}

TEST_F(ReelTest, OneShotAloneGoesRound) {
  three();
  click(1);
  ASSERT_TRUE(trigger("This shot alone"));
  QTest::keyClick(&picture(), Qt::Key_End);
  EXPECT_TRUE(shows(65535 - 29));
  QTest::keyClick(&picture(), Qt::Key_Home);
  EXPECT_TRUE(shows(65535));
  EXPECT_TRUE(strip().state().summary.contains("alone"));
}

TEST_F(ReelTest, WhatIsMissingIsSaidAndTheOthersGoOn) {
  three();
  const std::string path = folder / "reel.molten";
  ASSERT_TRUE(bench->document().save(QString::fromStdString(path)));
  std::filesystem::remove(folder / "b.mkv");
  bench->openPath(QString::fromStdString(path));
  ASSERT_TRUE(until([&] { return strip().state().shots.size() == 3 && !strip().state().shots[1].trouble.isEmpty(); }));
  EXPECT_TRUE(strip().state().shots[1].trouble.contains("b.mkv")) << strip().state().shots[1].trouble.toStdString();
  click(2);
  EXPECT_TRUE(shows(0));
  QTest::keyClick(&picture(), Qt::Key_Right);
  EXPECT_TRUE(shows(1)) << picture().state().message.toStdString() << strip().state().under << " " << strip().state().playhead;
  click(0);
  EXPECT_TRUE(shows(0));
  // The first one as well, which the window itself tries to open.
  std::filesystem::remove(folder / "a.mkv");
  bench->openPath(QString::fromStdString(path));
  ASSERT_TRUE(until([&] { return strip().state().shots.size() == 3 && strip().state().shots[0].trouble.contains("a.mkv") && !strip().state().shots[1].trouble.isEmpty(); }));
  click(2);
  EXPECT_TRUE(shows(0));
  QTest::keyClick(&picture(), Qt::Key_Right);
  EXPECT_TRUE(shows(1));
}

TEST_F(ReelTest, SoundsLieOnTheReelsTime) {
  three();
  click(1);
  Project laid = project();
  laid.sounds.push_back(layingSound(folder / "none.wav", 2.5));
  bench->document().apply({"Lay", laid, {}});
  const auto* const lanes = bench->findChild<SoundLanes*>();
  ASSERT_TRUE(until([&] { return lanes->sight().state.lanes.size() == 1; }));
  EXPECT_NEAR(lanes->sight().state.lanes[0].begin, 0.5, 1e-9) << "half a second into the second shot";
  click(2);
  ASSERT_TRUE(until([&] { return lanes->sight().state.lanes.size() == 1 && std::abs(lanes->sight().state.lanes[0].begin + 0.5) < 1e-9; }));
}

/// Whatever is done is taken back to the first byte.
TEST_F(ReelTest, FiveHundredActsAreTakenBackToTheFirstByte) {
  three();
  const std::string before = projectText(project(), {});
  std::mt19937 random(7);
  const QStringList acts = {"Split at the playhead", "Duplicate the shot", "Earlier in the reel", "Later in the reel", "Shot on",
                            "Cut to the reel's shape", "Remove the shot", "Next shot", "Shot before", "In at the playhead",
                            "Out at the playhead", "Whole clip", "Step Rate", "Echoes", "Remove", "Dissolve of 0.2 s", "Hard", "Undo", "Redo",
                            "All shots: what comes after the last cut", "What comes after it stops at cuts", "Turn the chain into a source", "Take the source apart", "Cut where the motion agrees"};
  for (int i = 0; i < 500; ++i) {
    const std::size_t shots = shotCount(project());
    QString act = acts[static_cast<int>(random() % static_cast<unsigned>(acts.size()))];
    if (shots > 12 && (act.startsWith("Split") || act.startsWith("Dup"))) act = "Remove the shot";
    if (act == "Undo" || act == "Redo") {
      act == "Undo" ? bench->document().undoStack().undo() : bench->document().undoStack().redo();
      continue;
    }
    if (act.startsWith("Dissolve") || act == "Hard" || act.startsWith("Cut where"))
      for (QMenu* menu : bench->findChildren<QMenu*>())
        if (menu->title() == "Cut after this shot") emit menu->aboutToShow();
    trigger(act);
    if (i % 7 == 0) QTest::keyClick(&picture(), Qt::Key_Right, random() % 2 ? Qt::ShiftModifier : Qt::NoModifier);
    if (i % 50 == 0) QTest::qWait(20);
  }
  while (bench->document().undoStack().canUndo()) bench->document().undoStack().undo();
  EXPECT_EQ(projectText(project(), {}), before);
  EXPECT_TRUE(until([&] { return titles() == QStringList({"a", "b", "c"}); }));
}

}  // namespace
}  // namespace molten
