// Marks and glides on the Time Chart, by mouse and keys.
#include "chart_fixture.h"
#include "core/time/pace_text.h"

namespace molten {
namespace {

using test::ChartTest;

TEST_F(ChartTest, GlidesAreDraggedTypedBentAndMoveNoMark) {
  openWithMarks();
  QTest::mouseDClick(&chart(), Qt::LeftButton, {}, onSpan(1));
  type("200%");
  const PaceCurve before = paceNow();
  QTest::mouseClick(&chart(), Qt::LeftButton, {}, chart().sight().markPoint(0).toPoint());
  ASSERT_EQ(chart().sight().mark, 0u);
  const QPointF handle = chart().sight().glidePoint(0, true);
  drag(chart(), handle, handle + QPointF(25, 0));
  EXPECT_GT(paceNow().spans()[0].glide, before.spans()[0].glide);
  QTest::keyClick(&chart(), Qt::Key_BracketLeft);
  QTest::keyClick(&picture(), Qt::Key_G);
  type("0.25s");
  EXPECT_EQ(paceNow().spans()[0].glide, Rational(1, 4));
  QTest::mouseClick(&chart(), Qt::LeftButton, {}, chart().sight().markPoint(0).toPoint());
  const QPointF bend = chart().sight().bendPoint(0);
  drag(chart(), bend, bend + QPointF(-15, 0));
  EXPECT_GT(paceNow().spans()[0].bend, Rational(0));
  EXPECT_EQ(paceNow().length(), before.length());
  for (std::size_t i = 0; i <= 3; ++i) EXPECT_EQ(paceNow().sourceAt(i), before.sourceAt(i));
  QTest::keyClick(&chart(), Qt::Key_Delete);
  EXPECT_EQ(paceNow().spans().size(), 2u);
  EXPECT_EQ(project().chain.size(), 1u) << "Delete was about the mark, not the stage";
}

TEST_F(ChartTest, AGlideLiesBeforeAroundOrAfterItsMark) {
  openWithMarks();
  QTest::mouseDClick(&chart(), Qt::LeftButton, {}, onSpan(1));
  type("0%");
  chart().selectMark(0);
  QTest::keyClick(&picture(), Qt::Key_G);
  type("0.2s");
  const PaceCurve around = paceNow();
  ASSERT_TRUE(trigger("Before the mark"));
  const PaceCurve before = paceNow();
  EXPECT_EQ(before.spans()[0].side, GlideSide::Before);
  EXPECT_EQ(before.length(), around.length());
  const Rational mark = before.beginOf(1);
  EXPECT_EQ(before.at(mark).seconds(), before.at(mark + Rational(1, 20)).seconds()) << "it stands from the mark on";
  EXPECT_LT(around.at(mark).seconds(), around.at(mark + Rational(1, 20)).seconds())
      << "around it, it still came to rest";
  EXPECT_EQ(before.glideAfter(0).begin + before.glideAfter(0).length, mark) << "its end is the mark";
  ASSERT_TRUE(trigger("After the mark"));
  EXPECT_EQ(paceNow().spans()[0].side, GlideSide::After);
  ASSERT_TRUE(trigger("Undo " + undoText()));
  ASSERT_TRUE(trigger("Undo " + undoText()));
  EXPECT_EQ(paceNow().spans()[0].side, GlideSide::Around);
  // One that finds no room says so where it is typed.
  chart().selectMark(0);
  QTest::keyClick(&picture(), Qt::Key_G);
  EXPECT_TRUE(type("30s").contains("glide 1 finds room for")) << "and how much";
}

/// The circle of a mark stands on the curve; with a glide that is beside the mark itself. A nudge is a nudge.
TEST_F(ChartTest, AMarkWithAGlideGoesAsFarAsTheHand) {
  openWithMarks();
  QTest::mouseDClick(&chart(), Qt::LeftButton, {}, onSpan(1));
  type("300%");
  chart().selectMark(0);
  QTest::keyClick(&picture(), Qt::Key_G);
  type("0.8s");
  const PaceCurve before = paceNow();
  const double off = std::abs(before.at(before.beginOf(1)).seconds() - before.sourceAt(1).toDouble());
  ASSERT_GT(off * 30, 1.2) << "the glide leads past the mark by more than a frame";
  chart().setAlong(Along::Footage);
  const QPointF from = chart().sight().markPoint(0);
  drag(chart(), from, from + QPointF(0, -4));
  const double moved = (paceNow().sourceAt(1) - before.sourceAt(1)).toDouble(),
               wanted = chart().sight().view.sourceAt(from.y() - 4) - chart().sight().view.sourceAt(from.y());
  EXPECT_NEAR(moved, wanted, 1.0 / 30) << "to the next frame at most";
}

/// From the mark in hand to the next one, whatever picture the playhead stands on; what is typed then is that one's.
TEST_F(ChartTest, MarksAreGoneThroughFromTheOneInHand) {
  openWithMarks();
  ASSERT_TRUE(trigger("Undo " + undoText()));
  goTo(17);
  QTest::keyClick(&picture(), Qt::Key_M);
  stillFor(40);
  goTo(40);
  QTest::keyClick(&picture(), Qt::Key_M);
  stillFor(40);
  chart().selectMark(0);
  goTo(50);
  chart().selectMark(0);
  QTest::keyClick(&picture(), Qt::Key_Right, Qt::ControlModifier);
  EXPECT_EQ(chart().sight().mark, 1u);
  QTest::keyClick(&picture(), Qt::Key_G);
  type("0.1s");
  EXPECT_EQ(paceNow().spans()[1].glide, Rational(1, 10));
  EXPECT_NE(paceNow().spans()[0].glide, Rational(1, 10));
}

TEST_F(ChartTest, MarksSnapToThePlayheadAndTheChartIsPulledAlong) {
  openWithMarks();
  goTo(22);
  const QPointF mark = chart().sight().markPoint(0);
  drag(chart(), mark, QPointF(chart().sight().view.xOf(22 / 30.0) + 5, mark.y()));
  EXPECT_EQ(paceNow().beginOf(1), Rational(22, 30));
  const ChartView before = chart().sight().view;
  const QPointF from = before.area.center();
  QTest::mousePress(&chart(), Qt::MiddleButton, {}, from.toPoint());
  const QPointF to = from + QPointF(-80, 20);
  QMouseEvent move(QEvent::MouseMove, to, chart().mapToGlobal(to), Qt::NoButton, Qt::MiddleButton, Qt::NoModifier);
  QApplication::sendEvent(&chart(), &move);
  QTest::mouseRelease(&chart(), Qt::MiddleButton, {}, to.toPoint());
  EXPECT_NEAR(chart().sight().view.xOf(1), before.xOf(1) - 80, 1);
  EXPECT_NEAR(chart().sight().view.yOf(1), before.yOf(1) + 20, 1);
}

}  // namespace
}  // namespace molten
