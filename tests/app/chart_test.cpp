// The Time Chart in the real window: a Pace made and changed by mouse and keys, and what is seen of it.
#include <random>

#include "app/dials/order_editor.h"
#include "app/theme/theme.h"
#include "chart_fixture.h"
#include "core/time/pace_text.h"

namespace molten {
namespace {

using test::ChartTest;

TEST_F(ChartTest, AMarkBeginsAPaceAndChangesNothingThatIsSeen) {
  open(clip());
  EXPECT_EQ(project().chain.size(), 0u);
  openWithMarks();
  ASSERT_EQ(project().chain.size(), 1u);
  EXPECT_EQ(chain().tiles()[1].title, "Pace");
  ASSERT_EQ(paceNow().spans().size(), 3u);
  EXPECT_EQ(paceNow().beginOf(1), Rational(1, 2));
  EXPECT_EQ(paceNow().beginOf(2), Rational(6, 5));
  EXPECT_TRUE(shows(36));
  EXPECT_EQ(undoText(), "Mark at 1.200 s");
  EXPECT_TRUE(trigger("Undo Mark at 1.200 s"));
  EXPECT_EQ(paceNow().spans().size(), 2u);
}

TEST_F(ChartTest, ASpansSpeedIsTypedKeepingItsFootageOrItsLength) {
  openWithMarks();
  QTest::mouseDClick(&chart(), Qt::LeftButton, {}, onSpan(1));
  const QString effect = type("35%");
  EXPECT_EQ(effect, "2.000 s → 3.300 s long");
  EXPECT_EQ(paceNow().spans()[1].speed, Rational(35, 100));
  // What was shown before is what is: 0.7 s at 35 % take 2 s.
  EXPECT_EQ(paceNow().length(), Rational(33, 10));
  EXPECT_EQ(paceNow().sourceAt(2), Rational(6, 5));
  EXPECT_EQ(pieceNow().length, 99);
  EXPECT_TRUE(undoText().contains("35%")) << undoText().toStdString();
  // The middle of the slow span shows the middle of its footage.
  goTo(45);
  EXPECT_TRUE(shows(26));
  goTo(5);

  QTest::mouseClick(&button("speedKeeps=length"), Qt::LeftButton);
  QTest::mouseDClick(&chart(), Qt::LeftButton, {}, onSpan(1));
  EXPECT_EQ(type("-50%"), "stays 3.300 s long");
  EXPECT_EQ(paceNow().sourceAt(2), Rational(-1, 2));
  // What is no speed stays to be mended.
  QTest::mouseDClick(&chart(), Qt::LeftButton, {}, onSpan(0));
  type("fast");
  ASSERT_TRUE(chart().openPrompt());
  QTest::keyClick(chart().openPrompt()->field(), Qt::Key_Escape);
  QTest::qWait(10);
  EXPECT_FALSE(chart().openPrompt());
}

TEST_F(ChartTest, DraggingASpanUpMakesItFasterAndSaysWhatItDoes) {
  openWithMarks();
  const Rational before = paceNow().length();
  const QPointF from = onSpan(1);
  const QString said = saidWhileDragging(from, from + QPointF(0, -18));
  const PaceCurve after = paceNow();
  EXPECT_GT(after.spans()[1].speed, Rational(1));
  // On a step of five percent.
  EXPECT_EQ((after.spans()[1].speed * 20).den(), 1);
  EXPECT_LT(after.length(), before);
  EXPECT_TRUE(said.contains(QString::fromStdString(secondsText(before.toDouble())) + " → " +
                            QString::fromStdString(secondsText(after.length().toDouble()))))
      << said.toStdString();
  // One step of undo for the whole drag.
  EXPECT_TRUE(trigger("Undo " + undoText()));
  EXPECT_EQ(paceNow().length(), before);
}

TEST_F(ChartTest, MarksSlideAlongTheOutputOrTheFootage) {
  openWithMarks();
  QTest::mouseDClick(&chart(), Qt::LeftButton, {}, onSpan(1));
  type("50%");
  const PaceCurve before = paceNow();
  QPointF mark = chart().sight().markPoint(0);
  drag(chart(), mark, mark + QPointF(60, 0));
  PaceCurve after = paceNow();
  EXPECT_GT(after.beginOf(1), before.beginOf(1));
  EXPECT_EQ((after.beginOf(1) * 30).den(), 1) << "not on a frame";
  EXPECT_EQ(after.beginOf(2), before.beginOf(2));
  EXPECT_EQ(after.length(), before.length());

  QTest::mouseClick(&button("marksSlide=footage"), Qt::LeftButton);
  const PaceCurve again = paceNow();
  mark = chart().sight().markPoint(1);
  drag(chart(), mark, mark + QPointF(0, 14));
  after = paceNow();
  EXPECT_LT(after.sourceAt(2), again.sourceAt(2));
  EXPECT_EQ(after.sourceAt(1), again.sourceAt(1));
  EXPECT_EQ(after.sourceAt(3), again.sourceAt(3));
  for (std::size_t i = 0; i < 3; ++i) EXPECT_EQ(after.spans()[i].speed, again.spans()[i].speed);
}

TEST_F(ChartTest, FreezeBackwardsReplayRampsFitAndTrims) {
  openWithMarks();
  goTo(15);
  ASSERT_TRUE(trigger("Freeze here for…"));
  EXPECT_EQ(type("0.5s"), "2.000 s → 2.500 s long");
  EXPECT_EQ(paceNow().at(Rational(7, 10)).exact, Rational(1, 2));
  EXPECT_EQ(chain().tiles().back().lines[0].section(QChar(0xB7), 2).trimmed(), "2.5 s");
  goTo(24);
  EXPECT_TRUE(shows(15));
  EXPECT_EQ(undoText(), "Freeze for 0.5s");

  goTo(40);
  ASSERT_TRUE(trigger("Back and again…"));
  type("1");
  EXPECT_EQ(paceNow().spans().size(), 6u);
  EXPECT_EQ(paceNow().sourceAt(4), Rational(1, 2));
  EXPECT_EQ(paceNow().sourceAt(6), Rational(2));
  ASSERT_TRUE(trigger("Undo Back and again 1"));

  ASSERT_TRUE(trigger("Run backwards"));
  EXPECT_EQ(paceNow().spans()[2].speed, Rational(-1));
  ASSERT_TRUE(trigger("Undo " + undoText()));

  ASSERT_TRUE(trigger("Fit all of it, eased at both ends, to…"));
  // Half of the first span is what the ease and the next glide may each take of it.
  EXPECT_EQ(type("2s"), "eases 0.5s at both ends · 2.500 s → 2.000 s long · glide 1 finds room for 0.300 s only");
  EXPECT_EQ(paceNow().length(), Rational(2));
  EXPECT_NEAR(paceNow().at(2).seconds(), 2, 1e-9);
  EXPECT_NEAR(paceNow().speedAt(0.001), 0, 0.05);
  ASSERT_TRUE(trigger("Undo " + undoText()));

  goTo(6);
  ASSERT_TRUE(trigger("Trim the start to the playhead"));
  EXPECT_EQ(paceNow().from(), Rational(1, 5));
  EXPECT_EQ(paceNow().length(), Rational(23, 10));
  EXPECT_TRUE(shows(6));
  goTo(45);
  ASSERT_TRUE(trigger("Trim the end to the playhead"));
  EXPECT_EQ(paceNow().length(), Rational(3, 2));
  goTo(3);
  ASSERT_TRUE(trigger("Pick up speed over…"));
  type("0.4s");
  EXPECT_EQ(paceNow().spans()[0].speed, Rational(0));
  EXPECT_EQ(paceNow().spans()[0].glide, Rational(2, 5));
}

TEST_F(ChartTest, TheRestOfTheMenuDoesWhatItSays) {
  openWithMarks();
  // From mark to mark by keys.
  QTest::keyClick(&picture(), Qt::Key_Left, Qt::ControlModifier);
  EXPECT_TRUE(shows(15));
  EXPECT_EQ(chart().sight().mark, 0u);
  QTest::keyClick(&picture(), Qt::Key_Right, Qt::ControlModifier);
  EXPECT_TRUE(shows(36));
  // The speed of the span at the playhead, keeping its length.
  goTo(20);
  chart().selectSpan(std::nullopt);
  QTest::keyClick(&picture(), Qt::Key_S, Qt::ShiftModifier);
  EXPECT_EQ(type("150%"), "stays 2.000 s long");
  EXPECT_EQ(paceNow().spans()[1].speed, Rational(3, 2));
  chart().selectSpan(1);
  ASSERT_TRUE(trigger("Length of the span…"));
  EXPECT_EQ(type("1s"), "2.000 s → 2.300 s long");
  ASSERT_TRUE(trigger("Come to rest over…"));
  EXPECT_EQ(type("0.6s"), "stays 2.300 s long");
  EXPECT_EQ(paceNow().spans()[1].glide, Rational(3, 5));
  const PaceCurve before = paceNow();
  ASSERT_TRUE(trigger("Slip the footage by…"));
  type("-3f");
  EXPECT_EQ(paceNow().from(), Rational(-1, 10));
  EXPECT_EQ(paceNow().spans(), before.spans());
  ASSERT_TRUE(trigger("Fit all of it to…"));
  EXPECT_EQ(type("4.6s"), "2.300 s → 4.600 s long");
  EXPECT_EQ(paceNow().spans()[1].speed, Rational(3, 4));
  EXPECT_EQ(paceNow().sourceAt(3) - paceNow().from(), before.sourceAt(3) - before.from());
  chart().selectSpan(1);
  ASSERT_TRUE(trigger("Remove the span; what follows closes up"));
  EXPECT_EQ(paceNow().length(), Rational(26, 10));
  chart().selectMark(0);
  ASSERT_TRUE(trigger("Remove the mark"));
  EXPECT_EQ(paceNow().spans().size(), 1u);
  // Every edit was a step of its own, and all of them can be taken back.
  for (int i = 0; i < 10 && !project().chain.empty(); ++i) ASSERT_TRUE(trigger("Undo " + undoText()));
  EXPECT_TRUE(project().chain.empty());
}

TEST_F(ChartTest, StepsAreSeenOnTheChartAndInThePicture) {
  open(clip());
  ASSERT_TRUE(trigger("Step Rate"));
  stillFor(40);
  auto& rate = field("rate");
  rate.selectAll();
  QTest::keyClicks(&rate, "5");
  QTest::keyClick(&rate, Qt::Key_Return);
  EXPECT_EQ(chain().tiles()[1].lines[0], "5 fps");
  goTo(16);
  EXPECT_TRUE(shows(12));
  // The line on the chart is a staircase: level between steps.
  const QImage shown = chart().grab().toImage();
  const auto lineAt = [&](double t) {
    const int x = static_cast<int>(chart().sight().view.xOf(t));
    for (int y = static_cast<int>(chart().sight().view.area.top()); y < chart().sight().view.area.bottom(); ++y)
      if (qGray(shown.pixel(x, y)) > 170) return y;
    return -1;
  };
  EXPECT_EQ(lineAt(0.43), lineAt(0.5));
  EXPECT_LT(lineAt(0.7), lineAt(0.5));
}

/// A freeze that begins at a mark keeps its full length if the glide to it lies before the mark.
TEST_F(ChartTest, SlipAndLineUpKeepTheMarks) {
  openWithMarks();
  const PaceCurve before = paceNow();
  // The strip of pictures, pulled down: later footage under the same marks.
  drag(chart(), QPointF(30, 40), QPointF(30, 85));
  EXPECT_GT(paceNow().from(), before.from());
  EXPECT_EQ((paceNow().from() * 30).den(), 1) << "not by whole frames";
  for (std::size_t i = 0; i <= 3; ++i) EXPECT_EQ(paceNow().beginOf(i), before.beginOf(i));
  goTo(30);
  ASSERT_TRUE(trigger("Line up a source frame here…"));
  EXPECT_EQ(type("42"), "frame 42 · stays 2.000 s long");
  EXPECT_TRUE(shows(42));
  EXPECT_EQ(paceNow().from(), Rational(12, 30));
  // The end now reads past the clip: hatched, said, and trimmed off by a click.
  EXPECT_TRUE(chain().tiles().back().notice);
  ASSERT_FALSE(chart().remedyRect().isEmpty());
  const QImage shown = chart().grab().toImage();
  int hatched = 0;
  for (int x = 0; x < shown.width(); ++x)
    for (int y = 0; y < 40; ++y) hatched += shown.pixelColor(x, y).rgb() == theme::outside.rgb();
  EXPECT_GT(hatched, 20);
  QTest::mouseClick(&chart(), Qt::LeftButton, {}, chart().remedyRect().center().toPoint());
  EXPECT_EQ(project().out, 47);
  EXPECT_TRUE(until([&] { return !chain().tiles().back().notice; }));
  chart().grab();
  EXPECT_TRUE(chart().remedyRect().isEmpty()) << "and the chart offers it no more";
}

TEST_F(ChartTest, TheChartScrubsZoomsAndFits) {
  openWithMarks();
  const ChartView whole = chart().sight().view;
  EXPECT_NEAR(whole.right, 2, 1e-9);
  QTest::mouseClick(&chart(), Qt::LeftButton, {},
                    QPoint(static_cast<int>(whole.xOf(1.5)), static_cast<int>(whole.area.top()) + 12));
  EXPECT_TRUE(shows(45));
  const QPointF about(whole.xOf(0.5), whole.area.center().y());
  QWheelEvent wheel(about, chart().mapToGlobal(about), {}, {0, 240}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase,
                    false);
  QApplication::sendEvent(&chart(), &wheel);
  EXPECT_LT(chart().sight().view.right - chart().sight().view.left, 1.5);
  EXPECT_NEAR(chart().sight().view.xOf(0.5), about.x(), 0.5) << "what is under the hand stays there";
  QWheelEvent up(about, chart().mapToGlobal(about), {}, {0, 120}, Qt::NoButton, Qt::ControlModifier, Qt::NoScrollPhase,
                 false);
  QApplication::sendEvent(&chart(), &up);
  EXPECT_LT(chart().sight().view.top - chart().sight().view.bottom, whole.top - whole.bottom);
  QTest::mouseClick(&button("chartFit"), Qt::LeftButton);
  EXPECT_NEAR(chart().sight().view.right, 2, 1e-9);
}

TEST_F(ChartTest, WhatIsMixedInIsDotted) {
  open(clip());
  ASSERT_TRUE(trigger("Loop"));
  QTest::mouseClick(&button("kind-of-loop=dissolve"), Qt::LeftButton);
  stillFor(40);
  // 15 of 60 frames dissolve: at 0.2 s the moment 1.7 s is mixed in.
  EXPECT_EQ(pieceNow().length, 45);
  const QImage shown = chart().grab().toImage();
  int dots = 0;
  for (double x = chart().sight().view.xOf(0.15); x < chart().sight().view.xOf(0.25); x += 1)
    for (double y = chart().sight().view.yOf(1.8); y < chart().sight().view.yOf(1.6); y += 1)
      dots += shown.pixelColor(static_cast<int>(x), static_cast<int>(y)).rgb() == theme::dim.rgb();
  EXPECT_GT(dots, 10);
}

TEST_F(ChartTest, SpeedUpwardIsTheSameChart) {
  openWithMarks();
  QTest::mouseClick(&button("chartUp"), Qt::LeftButton);
  const QPointF from = chart().sight().spanPoint(2);
  EXPECT_NEAR(chart().sight().view.sourceAt(from.y()), 100, 1e-6);
  drag(chart(), from, QPointF(from.x(), chart().sight().view.yOf(40)));
  EXPECT_EQ(paceNow().spans()[2].speed, Rational(2, 5));
  QTest::keyClick(&chart(), Qt::Key_Up);
  EXPECT_EQ(paceNow().spans()[2].speed, Rational(45, 100));
  QTest::mouseClick(&button("chartUp"), Qt::LeftButton);
  EXPECT_EQ(chart().sight().up, ChartUp::Source);
}

TEST_F(ChartTest, SmallPicturesOfTheFootageStandAlongTheSource) {
  open(clip());
  QTest::keyClick(&picture(), Qt::Key_D);  // in a low deck there is no room for them
  EXPECT_TRUE(until([&] {
    const QImage shown = chart().grab().toImage();
    int bright = 0;
    for (int y = 0; y < shown.height(); ++y) bright += qGray(shown.pixel(20, y)) > 150;
    return bright > 3;
  }));
}

TEST_F(ChartTest, TheOutputsRateAndLengthAreSetAtTheChainsEnd) {
  openWithMarks();
  QTest::mouseClick(&chain(), Qt::LeftButton, {}, chain().tileRect(2).center());
  auto& rate = *bench->findChild<QLineEdit*>("output-rate");
  rate.selectAll();
  QTest::keyClicks(&rate, "12");
  QTest::keyClick(&rate, Qt::Key_Return);
  EXPECT_EQ(project().output.rate, Rational(12));
  EXPECT_EQ(pieceNow().length, 24);
  goTo(6);
  EXPECT_TRUE(shows(15));
  auto& length = *bench->findChild<QLineEdit*>("output-length");
  length.selectAll();
  QTest::keyClicks(&length, "3s");
  QTest::keyClick(&length, Qt::Key_Return);
  EXPECT_EQ(pieceNow().length, 36);
  EXPECT_EQ(chain().tiles().back().lines[1], "length fixed");
  QTest::mouseClick(&button("output-length=follows"), Qt::LeftButton);
  EXPECT_EQ(pieceNow().length, 24);
  EXPECT_EQ(chain().tiles().back().lines[1], "as long as the chain");
  QTest::mouseClick(&button("output-rate=footage"), Qt::LeftButton);
  EXPECT_FALSE(project().output.rate);
}

TEST_F(ChartTest, AFrameOrderIsClickedTogether) {
  open(clip());
  ASSERT_TRUE(trigger("Frame Order"));
  stillFor(60);
  auto& editor = *bench->findChild<OrderEditor*>();
  const auto click = [&](std::int32_t frame) {
    QTest::mouseClick(&editor, Qt::LeftButton, {}, editor.frameRect(frame).center().toPoint());
  };
  click(2);
  click(2);
  click(0);
  click(3);
  EXPECT_EQ(frameOrderText(std::get<FrameOrder>(project().chain[0].values[0])), "2:2+0+3");
  QTest::keyClick(&editor, Qt::Key_Left, Qt::ControlModifier);
  QTest::keyClick(&editor, Qt::Key_Up);
  EXPECT_EQ(field("order").text(), "2:2+3:2+0");
  EXPECT_EQ(pieceNow().length, 5);
  goTo(3);
  EXPECT_TRUE(shows(3));
  QTest::keyClick(&editor, Qt::Key_Delete);
  EXPECT_EQ(field("order").text(), "2:2+0");
}

TEST_F(ChartTest, ALoopSaysHowWellItClosesAndFindsABetterLoop) {
  // A bar that comes back to its place after 40 of 60 frames.
  const std::string path = folder / "turning.mkv";
  ASSERT_EQ(test::runCommand("ffmpeg -v error -f lavfi -i "
                             "\"color=c=gray:s=320x180:r=30:d=2,format=gray,geq=lum='128+100*sin((X/160+N/40)*2*PI)'\" "
                             "-c:v ffv1 " +
                             path)
                .exitCode,
            0);
  open(path);
  ASSERT_TRUE(trigger("Loop"));
  QTest::mouseClick(&button("kind-of-loop=round"), Qt::LeftButton);
  field("skip-end").selectAll();
  QTest::keyClicks(&field("skip-end"), "15f");
  QTest::keyClick(&field("skip-end"), Qt::Key_Return);
  auto& finding = *bench->findChild<QLabel*>("finding Loop length");
  EXPECT_TRUE(until([&] { return finding.text().startsWith("Seam:"); })) << finding.text().toStdString();
  EXPECT_FALSE(finding.text().contains(" 1.0 ×"));
  QTest::mouseClick(&button("find-a-loop"), Qt::LeftButton);
  EXPECT_TRUE(until([&] { return pieceNow().length == 40; })) << pieceNow().length;
  EXPECT_EQ(undoText(), "Find a loop");
  EXPECT_TRUE(until([&] { return finding.text().contains(" 1.0 ×") || finding.text().contains(" 0.9 ×"); }))
      << finding.text().toStdString();
  EXPECT_EQ(chain().tiles().back().lines[1], "a loop");
  // Where there is none better, what was measured is said again.
  QTest::mouseClick(&button("find-a-loop"), Qt::LeftButton);
  EXPECT_EQ(finding.text(), "looking for a loop…");
  EXPECT_TRUE(until([&] { return finding.text().startsWith("Seam:"); })) << finding.text().toStdString();
}

TEST_F(ChartTest, WithALoopThePaceIsEditedAlone) {
  openWithMarks();
  ASSERT_TRUE(trigger("Loop"));
  EXPECT_FALSE(chart().sight().state.pace) << "the whole chain is shown";
  EXPECT_EQ(pieceNow().length, 118);
  QTest::keyClick(&picture(), Qt::Key_1);
  ASSERT_TRUE(chart().sight().state.pace);
  QTest::mouseDClick(&chart(), Qt::LeftButton, {}, onSpan(0));
  type("50%");
  EXPECT_EQ(paceNow().length(), Rational(5, 2));
  EXPECT_EQ(pieceNow().length, 148);
  // On the way back the playhead stands where the Pace is read, and a mark falls there: picture 148 − 100 of it.
  goTo(100);
  EXPECT_EQ(chart().sight().state.frame, 48);
  QTest::keyClick(&picture(), Qt::Key_M);
  const PaceCurve marked = paceNow();
  ASSERT_EQ(marked.spans().size(), 4u);
  EXPECT_TRUE(marked.beginOf(1) == Rational(48, 30) || marked.beginOf(2) == Rational(48, 30));
}

/// Whatever hands do, a Pace stays one that can be saved, and every step can be taken back.
TEST_F(ChartTest, RestlessHandsBreakNothing) {
  openWithMarks();
  const Project before = project();
  const int steps = bench->document().undoStack().index();
  std::mt19937 random(12);
  const auto within = [&](int least, int most) { return std::uniform_int_distribution<>(least, most)(random); };
  const auto anywhere = [&] {
    const auto marks = static_cast<int>(paceNow().spans().size()) - 1;
    if (chart().sight().state.pace && within(0, 2) == 0)
      return chart().sight().spanPoint(static_cast<std::size_t>(within(0, marks)));
    if (chart().sight().state.pace && marks > 0 && within(0, 1) == 0) {
      const auto mark = static_cast<std::size_t>(within(0, marks - 1));
      return within(0, 1) ? chart().sight().markPoint(mark) : chart().sight().glidePoint(mark, within(0, 1) == 1);
    }
    return QPointF(within(0, chart().width() - 1), within(0, chart().height() - 1));
  };
  const auto undoOne = [&] {
    if (bench->document().undoStack().index() > steps) trigger("Undo " + undoText());
  };
  const Qt::Key keys[] = {Qt::Key_M,      Qt::Key_Up,     Qt::Key_Down,   Qt::Key_BracketLeft, Qt::Key_BracketRight,
                          Qt::Key_Delete, Qt::Key_Return, Qt::Key_Escape, Qt::Key_Left,        Qt::Key_Space,
                          Qt::Key_F};
  const char* const menu[] = {"Run backwards",
                              "Trim the start to the playhead",
                              "Trim the end to the playhead",
                              "Remove the span; what follows closes up",
                              "Remove the mark",
                              "Loop",
                              "Time Field",
                              "Step Rate"};
  for (int i = 0; i < 250; ++i) {
    switch (within(0, 6)) {
      case 0:
      case 1:
      case 2:
        drag(chart(), anywhere(), anywhere());
        break;
      case 3: {
        const QPointF at = anywhere();
        QWheelEvent wheel(at, chart().mapToGlobal(at), {}, {0, within(0, 1) ? 240 : -240}, Qt::NoButton,
                          within(0, 1) ? Qt::ControlModifier : Qt::NoModifier, Qt::NoScrollPhase, false);
        QApplication::sendEvent(&chart(), &wheel);
        break;
      }
      case 4:
        QTest::keyClick(&chart(), keys[within(0, static_cast<int>(std::size(keys)) - 1)]);
        break;
      case 5:
        QTest::mouseDClick(&chart(), Qt::LeftButton, {}, anywhere().toPoint());
        if (chart().openPrompt()) type(QString::number(within(-300, 300)) + (within(0, 1) ? "%" : "f"));
        if (chart().openPrompt()) QTest::keyClick(chart().openPrompt()->field(), Qt::Key_Escape);
        QTest::qWait(2);
        break;
      default:
        if (within(0, 3) == 0) trigger(menu[within(0, static_cast<int>(std::size(menu)) - 1)]);
        if (within(0, 1)) undoOne();
    }
    if (project().chain.size() > 4) undoOne();
    for (const Stage& stage : project().chain) {
      const auto read = parseStage(stageText(stage), 30);
      ASSERT_TRUE(read) << stageText(stage) << ": " << read.error().message;
      EXPECT_EQ(read->values, stage.values) << stageText(stage);
    }
    ASSERT_GE(pieceNow().length, 1);
  }
  bench->document().undoStack().setIndex(steps);
  EXPECT_EQ(project(), before);
}

TEST_F(ChartTest, PlayingGoesOnWhileTheChartIsEdited) {
  openWithMarks();
  QTest::keyClick(&picture(), Qt::Key_Space);
  ASSERT_TRUE(bench->player().playing());
  const QPointF from = onSpan(0);
  drag(chart(), from, from + QPointF(0, 10));
  EXPECT_TRUE(bench->player().playing());
  int shown = 0;
  const auto counting = QObject::connect(bench.get(), &Bench::pictureShown, [&] { ++shown; });
  EXPECT_TRUE(until([&] { return shown > 10; }));
  QObject::disconnect(counting);
}

}  // namespace
}  // namespace molten
