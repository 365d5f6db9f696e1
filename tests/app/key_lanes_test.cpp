// The key lanes in the real window: choosing, dragging, shaping, copying and stretching keys.
#include "app/chart/key_lanes.h"

#include <QMenu>
#include <QTimer>

#include "app/dials/movement_button.h"
#include "bench_fixture.h"

namespace molten::test {
namespace {

class KeyLanesTest : public BenchTest {
 protected:
  KeyLanes& lanes() { return *bench->findChild<KeyLanes*>(); }
  const Stage& stage() { return project().chain[0]; }
  const KeyTrack& track(const char* id) { return stage().keys.at(parameterIndex(stage().kind->description(), id)); }
  int steps() { return bench->document().undoStack().index(); }
  QString undoText() { return bench->document().undoStack().undoText(); }

  /// Two lanes: back with keys at frames 0, 12, 30 and ahead with keys at 6 and 24.
  void openWithKeys() {
    open(clip());
    addTimeField();
    Project keyed = project();
    const auto put = [&](const char* id, std::initializer_list<std::pair<int, double>> keys) {
      const std::size_t i = parameterIndex(keyed.chain[0].kind->description(), id);
      KeyTrack all;
      for (const auto& [frame, value] : keys) all = withKey(all, Rational(frame, 30), {value, 0});
      keyed = setKeys(keyed, 0, i, all, 0, "Keys").after;
    };
    put("back", {{0, 1.0}, {12, 0.4}, {30, 0.8}});
    put("ahead", {{6, 0.2}, {24, 0.6}});
    bench->document().apply({"Keys", keyed, {}});
    bench->document().endGesture();
    stillFor(60);
    ASSERT_EQ(lanes().sight().state.lanes.size(), 2u);
    ASSERT_TRUE(lanes().isVisible());
  }
  std::vector<int> frames(const char* id) {
    std::vector<int> all;
    for (const Key& key : track(id)) all.push_back(static_cast<int>((key.at * 30).floor()));
    return all;
  }
  double frameWidth() { return (lanes().sight().keyPoint(0, 2).x() - lanes().sight().keyPoint(0, 0).x()) / 30; }
  void click(std::size_t lane, std::size_t key, Qt::KeyboardModifiers with = {}) {
    QTest::mouseClick(&lanes(), Qt::LeftButton, with, lanes().sight().keyPoint(lane, key).toPoint());
  }
  /// Chooses from the menu at a key; false if there is no such entry, or it is dim.
  bool fromMenu(std::size_t lane, std::size_t key, const QString& entry) {
    bool done = false;
    QTimer::singleShot(0, bench.get(), [&] {
      auto* menu = qobject_cast<QMenu*>(QApplication::activePopupWidget());
      if (!menu) return;
      for (QAction* action : menu->actions())
        if (action->text().remove('&').section('\t', 0, 0) == entry && action->isEnabled()) {
          done = true;
          action->trigger();
          break;
        }
      menu->close();
    });
    const QPoint at = lanes().sight().keyPoint(lane, key).toPoint();
    QContextMenuEvent asks(QContextMenuEvent::Mouse, at, lanes().mapToGlobal(at));
    QApplication::sendEvent(&lanes(), &asks);
    return done;
  }
};

using Frames = std::vector<int>;

TEST_F(KeyLanesTest, AKeyIsDraggedToAnotherFrameAndValueInOneStep) {
  openWithKeys();
  const int before = steps();
  drag(lanes(), lanes().sight().keyPoint(0, 1), lanes().sight().keyPoint(0, 1) + QPointF(frameWidth() * 5.2, 0));
  EXPECT_EQ(frames("back"), (Frames{0, 17, 30})) << "to the frame";
  EXPECT_EQ(track("back")[1].value[0], 0.4) << "along alone, the value stays";
  EXPECT_EQ(steps(), before + 1);
  EXPECT_EQ(undoText(), "Move keys of Back");
  // Past its neighbour: it takes its place in the order; before the beginning there is nothing.
  drag(lanes(), lanes().sight().keyPoint(0, 1), lanes().sight().keyPoint(0, 1) + QPointF(-frameWidth() * 40, 0));
  EXPECT_EQ(frames("back").front(), 0);
  for (const Key& key : track("back")) EXPECT_GE(key.at, Rational(0));
  bench->document().undoStack().undo();
  EXPECT_EQ(frames("back"), (Frames{0, 17, 30})) << "nothing that was passed over is lost by undo";
  // Up: another value, and not out of the parameter's range.
  drag(lanes(), lanes().sight().keyPoint(0, 1), lanes().sight().keyPoint(0, 1) + QPointF(0, -10));
  EXPECT_GT(track("back")[1].value[0], 0.4);
  EXPECT_EQ(frames("back"), (Frames{0, 17, 30}));
  drag(lanes(), lanes().sight().keyPoint(0, 1), lanes().sight().keyPoint(0, 1) + QPointF(0, 400));
  EXPECT_GE(track("back")[1].value[0], 0);
}

TEST_F(KeyLanesTest, SeveralInTwoLanesMoveTogetherAndKeepTheirDistances) {
  openWithKeys();
  click(0, 1);
  click(1, 0, Qt::ShiftModifier);
  click(1, 1, Qt::ShiftModifier);
  ASSERT_EQ(lanes().sight().selected.size(), 3u);
  const int before = steps();
  drag(lanes(), lanes().sight().keyPoint(1, 0), lanes().sight().keyPoint(1, 0) + QPointF(frameWidth() * 3, 14));
  EXPECT_EQ(frames("back"), (Frames{0, 15, 30}));
  EXPECT_EQ(frames("ahead"), (Frames{9, 27}));
  EXPECT_EQ(track("ahead")[0].value[0], 0.2) << "up and down is for one key alone";
  EXPECT_EQ(lanes().sight().selected.size(), 3u) << "they stay chosen";
  bench->document().undoStack().undo();
  EXPECT_EQ(frames("back"), (Frames{0, 12, 30}));
  EXPECT_EQ(frames("ahead"), (Frames{6, 24}));
  EXPECT_EQ(steps(), before) << "one step for both lanes";
  // With Shift once more, one of them is let go.
  click(1, 0, Qt::ShiftModifier);
  EXPECT_EQ(lanes().sight().selected.size(), 2u);
}

TEST_F(KeyLanesTest, AFrameDrawnRoundKeysChoosesThem) {
  openWithKeys();
  const QPointF from = lanes().sight().keyPoint(0, 1) - QPointF(frameWidth() * 3, 0);
  drag(lanes(), QPointF(from.x(), 1), QPointF(lanes().sight().keyPoint(0, 2).x() + 6, lanes().height() - 2.0));
  using Name = KeyName;
  EXPECT_EQ(lanes().sight().selected, (std::set<Name>{{0, 1}, {0, 2}, {1, 1}}));
  QTest::keyClick(&lanes(), Qt::Key_Escape);
  EXPECT_TRUE(lanes().sight().selected.empty());
}

TEST_F(KeyLanesTest, ArrowsNudgeDeleteRemovesAndTheStageStays) {
  openWithKeys();
  click(0, 1);
  QTest::keyClick(&lanes(), Qt::Key_Right);
  EXPECT_EQ(frames("back"), (Frames{0, 13, 30}));
  QTest::keyClick(&lanes(), Qt::Key_Right, Qt::ShiftModifier);
  EXPECT_EQ(frames("back"), (Frames{0, 23, 30}));
  QTest::keyClick(&lanes(), Qt::Key_Left);
  EXPECT_EQ(frames("back"), (Frames{0, 22, 30}));
  // All keys of a lane go: the value stays as it is at the playhead, and the lane closes.
  goTo(0);
  for (const std::size_t key : {0u, 1u, 2u}) click(0, key, key ? Qt::ShiftModifier : Qt::NoModifier);
  QTest::keyClick(&lanes(), Qt::Key_Delete);
  EXPECT_EQ(project().chain.size(), 1u);
  EXPECT_EQ(stage().keys.size(), 1u);
  EXPECT_EQ(back(), 1.0);
  ASSERT_EQ(lanes().sight().state.lanes.size(), 1u);
  EXPECT_EQ(lanes().sight().state.lanes[0].label, "Ahead");
  bench->document().undoStack().undo();
  EXPECT_EQ(frames("back"), (Frames{0, 22, 30}));
}

TEST_F(KeyLanesTest, KeysAreCopiedAndPastedAtThePlayhead) {
  openWithKeys();
  click(0, 0);
  click(0, 1, Qt::ShiftModifier);
  QTest::keyClick(&lanes(), Qt::Key_C, Qt::ControlModifier);
  goTo(36);
  QTest::keyClick(&lanes(), Qt::Key_V, Qt::ControlModifier);
  EXPECT_EQ(frames("back"), (Frames{0, 12, 30, 36, 48}));
  EXPECT_EQ(track("back")[3].value[0], 1.0);
  EXPECT_EQ(track("back")[4].value[0], 0.4);
  EXPECT_EQ(project().chain.size(), 1u) << "the stage itself was not copied";
  EXPECT_EQ(lanes().sight().selected.size(), 2u) << "what came is chosen";
  EXPECT_EQ(undoText(), "Paste keys of Back");
}

TEST_F(KeyLanesTest, TheWayToAKeyIsShapedByHandAndFromItsMenu) {
  openWithKeys();
  click(0, 1);
  const int before = steps();
  const QPointF arrive = lanes().sight().easePoint(0, 1, true);
  drag(lanes(), arrive, arrive - QPointF(frameWidth() * 4, 0));
  EXPECT_EQ(track("back")[1].ease.way, Ease::Way::Curve);
  EXPECT_GT(track("back")[1].ease.arrive, 0.2);
  EXPECT_EQ(track("back")[1].ease.leave, 0);
  EXPECT_EQ(steps(), before + 1);
  // Halfway, the value has come nearer to where it lingers.
  EXPECT_LT(std::get<double>(stage().valuesAt(0.2)[parameterIndex(stage().kind->description(), "back")]), 0.7);
  ASSERT_TRUE(fromMenu(0, 1, "Hold, then jump here"));
  EXPECT_EQ(track("back")[1].ease.way, Ease::Way::Hold);
  ASSERT_TRUE(fromMenu(0, 1, "Come here softly"));
  EXPECT_EQ(track("back")[1].ease, softEase);
  ASSERT_TRUE(fromMenu(0, 1, "Come here evenly"));
  EXPECT_EQ(track("back")[1].ease, Ease{});
  EXPECT_EQ(track("back")[2].ease, Ease{}) << "the others are as they were";
}

TEST_F(KeyLanesTest, TheMenuStretchesAndRemovesWhatIsChosen) {
  openWithKeys();
  click(0, 0);
  EXPECT_FALSE(fromMenu(0, 0, "Twice as long")) << "one key has no length";
  click(0, 1, Qt::ShiftModifier);
  ASSERT_TRUE(fromMenu(0, 1, "Twice as long"));
  EXPECT_EQ(frames("back"), (Frames{0, 24, 30}));
  ASSERT_TRUE(fromMenu(0, 1, "Half as long"));
  EXPECT_EQ(frames("back"), (Frames{0, 12, 30}));
  EXPECT_FALSE(fromMenu(0, 1, "Paste at the playhead")) << "nothing was copied";
  ASSERT_TRUE(fromMenu(0, 1, "Remove"));
  EXPECT_EQ(frames("back"), (Frames{30}));
  // At a key that is not chosen, the menu is about that one.
  QTest::keyClick(&lanes(), Qt::Key_Escape);
  ASSERT_TRUE(fromMenu(1, 0, "Remove"));
  EXPECT_EQ(frames("ahead"), (Frames{24}));
  EXPECT_EQ(frames("back"), (Frames{30}));
}

TEST_F(KeyLanesTest, ADoubleClickMakesAKeyOnTheCurveAndAClickGoesThere) {
  openWithKeys();
  const std::size_t i = parameterIndex(stage().kind->description(), "back");
  const double before = std::get<double>(stage().valuesAt(20 / 30.0)[i]), wide = frameWidth();
  const QPointF between(lanes().sight().keyPoint(0, 1).x() + 8 * wide, lanes().sight().keyPoint(0, 0).y() + 3);
  QTest::mouseDClick(&lanes(), Qt::LeftButton, {}, between.toPoint());
  ASSERT_EQ(frames("back"), (Frames{0, 12, 20, 30}));
  EXPECT_DOUBLE_EQ(track("back")[2].value[0], before) << "nothing changes by it";
  EXPECT_EQ(frames("ahead"), (Frames{6, 24}));
  QTest::mouseClick(
      &lanes(), Qt::LeftButton, {},
      QPointF(lanes().sight().keyPoint(0, 0).x() + 40 * wide, lanes().sight().keyPoint(0, 0).y() + 8).toPoint());
  EXPECT_TRUE(until([&] { return scrubber().state().frame == 40; }));
}

/// A place has two curves; its keys are taken hold of on either.
TEST_F(KeyLanesTest, APlacesKeysAreHeldOnEitherCurve) {
  open(clip());
  addTimeField();
  const std::size_t i = parameterIndex(stage().kind->description(), "start");
  KeyTrack path = withKey(withKey({}, 0, {0.1, 0.9}), Rational(1), {0.8, 0.2});
  bench->document().apply(setKeys(project(), 0, i, path, 0, "Keys"));
  stillFor(60);
  ASSERT_EQ(lanes().sight().state.lanes.size(), 1u);
  EXPECT_EQ(lanes().sight().state.lanes[0].curves, 2u);
  const double frame = (lanes().sight().keyPoint(0, 1).x() - lanes().sight().keyPoint(0, 0).x()) / 30;
  drag(lanes(), lanes().sight().keyPoint(0, 1), lanes().sight().keyPoint(0, 1) + QPointF(frame * 6, -12));
  ASSERT_EQ(track("start").size(), 2u);
  EXPECT_EQ(track("start")[1].at, Rational(36, 30));
  EXPECT_EQ(track("start")[1].value, (KeyValue{0.8, 0.2, 0})) << "places are moved on the Picture";
}

}  // namespace
}  // namespace molten::test
