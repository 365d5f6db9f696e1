// What a user does on the Bench, and what is seen.
#include <QDropEvent>
#include <QMimeData>
#include <QSettings>
#include <QUrl>
#include <fstream>
#include <set>

#include "bench_fixture.h"
#include "core/project/project_file.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::BenchTest;

TEST_F(BenchTest, FirstStartSaysWhatToDo) {
  auto* welcome = bench->findChild<Welcome*>();
  ASSERT_TRUE(welcome->isVisible());
  QStringList words;
  for (auto* label : welcome->findChildren<QLabel*>()) words << label->text();
  EXPECT_TRUE(words.join(' ').contains("Drop footage here"));
  auto* demo = welcome->findChildren<QPushButton*>().last();
  EXPECT_EQ(demo->text(), "Open the demo");
  QTest::mouseClick(demo, Qt::LeftButton);
  ASSERT_TRUE(until([&] { return bench->footage() != nullptr; }));
  EXPECT_EQ(bench->document().title(), "gather.molten");
  EXPECT_FALSE(welcome->isVisible());
  EXPECT_EQ(project().chain.size(), 1u);
}

TEST_F(BenchTest, DroppedFootageIsShownAndScrubbed) {
  QMimeData files;
  files.setUrls({QUrl::fromLocalFile(QString::fromStdString(clip()))});
  QDragEnterEvent enter(QPoint(300, 300), Qt::CopyAction, &files, Qt::LeftButton, Qt::NoModifier);
  QApplication::sendEvent(bench.get(), &enter);
  EXPECT_TRUE(enter.isAccepted());
  QDropEvent drop(QPointF(300, 300), Qt::CopyAction, &files, Qt::LeftButton, Qt::NoModifier);
  QApplication::sendEvent(bench.get(), &drop);
  ASSERT_TRUE(until([&] { return bench->footage() != nullptr; }));
  EXPECT_TRUE(shows(0));
  QTest::keyClick(&picture(), Qt::Key_Right);
  EXPECT_TRUE(shows(1));
  QTest::keyClick(&picture(), Qt::Key_Right, Qt::ShiftModifier);
  EXPECT_TRUE(shows(11));
  QTest::keyClick(&picture(), Qt::Key_End);
  EXPECT_TRUE(shows(59));
  QTest::mouseClick(&scrubber(), Qt::LeftButton, {}, QPoint(static_cast<int>(scrubber().xOf(30)) + 3, 14));
  EXPECT_TRUE(shows(30));
  EXPECT_TRUE(chain().tiles()[0].lines[0].contains("clip.mkv"));
}

TEST_F(BenchTest, AFieldAddedByHandShowsItsMoments) {
  open(clip());
  QTest::keyClick(&picture(), Qt::Key_End);
  addTimeField();
  // Back 1 s at 30 frames a second over the height: the rows of blocks show earlier frames higher up.
  ASSERT_EQ(picture().state().handles.size(), 2u);
  EXPECT_EQ(picture().state().handles[0].label, "−1.000 s");
  EXPECT_EQ(picture().state().handles[1].label, "now");
  EXPECT_TRUE(shows(numberInField(59)));
  EXPECT_EQ(bench->document().undoStack().undoText(), "Add Time Field");
}

TEST_F(BenchTest, DraggedHandlesAreOneNamedStep) {
  open(clip());
  addTimeField();
  const QPointF from = picture().toWidget({0.5, 1});
  drag(picture(), from, from + QPointF(-40, -120));
  const Place end = valueOf<Place>(project().chain[0], "end");
  EXPECT_NEAR(end.x, 0.5 - 40 / (picture().toWidget({1, 0}).x() - picture().toWidget({0, 0}).x()), 0.01);
  EXPECT_LT(end.y, 0.9);
  EXPECT_TRUE(bench->document().undoStack().undoText().startsWith("End 0."));
  EXPECT_EQ(bench->document().undoStack().count(), 2);  // footage, stage, handle
  QTest::keyClick(bench.get(), Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ(valueOf<Place>(project().chain[0], "end"), (Place{0.5, 1}));
  QTest::keyClick(bench.get(), Qt::Key_Z, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_EQ(valueOf<Place>(project().chain[0], "end"), end);
}

TEST_F(BenchTest, NumbersAreTypedDraggedAndSteppedWithUnits) {
  open(clip());
  addTimeField();
  QLineEdit& number = field("back");
  number.setFocus();
  number.selectAll();
  QTest::keyClicks(&number, "36f");
  QTest::keyClick(&number, Qt::Key_Return);
  EXPECT_DOUBLE_EQ(back(), 1.2);
  EXPECT_EQ(number.text(), "1.200 s");
  EXPECT_EQ(picture().state().handles[0].label, "−1.200 s");
  QTest::keyClick(&number, Qt::Key_Up);
  EXPECT_NEAR(back(), 1.25, 1e-9);
  number.selectAll();
  QTest::keyClicks(&number, "soon");
  QTest::keyClick(&number, Qt::Key_Return);
  EXPECT_NEAR(back(), 1.25, 1e-9);
  EXPECT_EQ(number.text(), "soon") << "left to be mended";
  EXPECT_TRUE(sentence().contains("takes a time")) << sentence().toStdString();
  number.setFocus();
  QTest::keyClick(&number, Qt::Key_Escape);
  EXPECT_EQ(number.text(), "1.250 s");
  EXPECT_TRUE(sentence().isEmpty());
}

TEST_F(BenchTest, ReadsOutsideAreSaidAndTrimmed) {
  open(clip());
  addTimeField();
  auto* notice = bench->findChild<QLabel*>("outside");
  ASSERT_TRUE(notice && until([&] { return notice->isVisible(); }));
  EXPECT_TRUE(notice->text().contains("first 1.00 s reads before the clip"));
  EXPECT_TRUE(chain().tiles().back().notice);
  emit notice->linkActivated("remedy");
  EXPECT_EQ(project().in, 30);
  EXPECT_TRUE(until([&] { return !notice->isVisible(); }));
  EXPECT_EQ(bench->document().undoStack().undoText(), "Trim to the footage");
}

TEST_F(BenchTest, BeforeIsShownWhileTheKeyIsHeld) {
  open(clip());
  QTest::keyClick(&picture(), Qt::Key_End);
  addTimeField();
  QTest::keyPress(&picture(), Qt::Key_B);
  EXPECT_TRUE(shows(59));
  QTest::keyRelease(&picture(), Qt::Key_B);
  EXPECT_TRUE(shows(numberInField(59)));
}

TEST_F(BenchTest, PlaysLoopsAndStops) {
  open(clip("short.mkv", 15));
  std::set<std::int64_t> seen;
  QObject::connect(&bench->player(), &Player::frameReached, [&](std::int64_t frame) { seen.insert(frame); });
  QTest::keyClick(&picture(), Qt::Key_Space);
  EXPECT_TRUE(bench->player().playing());
  // Half a second long: it comes round, and however slow the machine is, most frames are seen some time.
  EXPECT_TRUE(until([&] { return seen.size() >= 10; }));
  QTest::keyClick(&picture(), Qt::Key_Space);
  EXPECT_FALSE(bench->player().playing());
  EXPECT_TRUE(shows(static_cast<int>(scrubber().state().frame)));
  bench->player().setLoop(false);
  QTest::keyClick(&picture(), Qt::Key_Home);
  QTest::keyClick(&picture(), Qt::Key_L);
  ASSERT_TRUE(until([&] { return !bench->player().playing(); }));
  EXPECT_EQ(scrubber().state().frame, 14);
  QTest::keyClick(&picture(), Qt::Key_J);
  ASSERT_TRUE(until([&] { return !bench->player().playing(); }));
  EXPECT_EQ(scrubber().state().frame, 0);
}

TEST_F(BenchTest, AHandleIsDraggedWhilePlaying) {
  open(clip());
  addTimeField();
  QTest::keyClick(&picture(), Qt::Key_Space);
  const auto runs = [&] {
    const auto from = scrubber().state().frame;
    return until([&] { return scrubber().state().frame != from; });
  };
  ASSERT_TRUE(runs());
  drag(picture(), picture().toWidget({0.5, 0}), picture().toWidget({0.2, 0.3}));
  EXPECT_TRUE(runs());
  EXPECT_TRUE(bench->player().playing());
  EXPECT_NEAR(valueOf<Place>(project().chain[0], "start").x, 0.2, 0.01);
  QTest::keyClick(&picture(), Qt::Key_Space);
}

TEST_F(BenchTest, InAndOutByKeyAndByHand) {
  open(clip());
  for (int i = 0; i < 5; ++i) QTest::keyClick(&picture(), Qt::Key_Right);
  QTest::keyClick(&picture(), Qt::Key_I);
  QTest::keyClick(&picture(), Qt::Key_Right, Qt::ShiftModifier);
  QTest::keyClick(&picture(), Qt::Key_O);
  EXPECT_EQ(project().in, 5);
  EXPECT_EQ(project().out, 15);
  drag(scrubber(), QPointF(scrubber().xOf(16), 17), QPointF(scrubber().xOf(41), 17));
  EXPECT_EQ(project().out, 40);
  QTest::keyClick(&picture(), Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ(project().out, 15);
}

TEST_F(BenchTest, ZoomsToThePixelPansAndFits) {
  open(clip());
  const double fitted = picture().shownZoom();
  QWheelEvent wheel(QPointF(100, 300), picture().mapToGlobal(QPointF(100, 300)), {}, {0, 120}, Qt::NoButton,
                    Qt::NoModifier, Qt::NoScrollPhase, false);
  const QPointF from = picture().toWidget({0, 0});
  const double across = (100 - from.x()) / (picture().toWidget({1, 1}).x() - from.x());
  QApplication::sendEvent(&picture(), &wheel);
  EXPECT_NEAR(picture().shownZoom(), fitted * 1.25, 1e-6);
  // What is under the pointer stays there.
  EXPECT_NEAR(picture().toWidget({across, 0}).x(), 100, 1);
  picture().setZoom(8);
  stillFor(60);
  const QPointF before = picture().toWidget({0.5, 0.5});
  drag(picture(), QPointF(400, 300), QPointF(350, 280));
  EXPECT_NEAR(picture().toWidget({0.5, 0.5}).x(), before.x() - 50, 1.5);
  QTest::keyClick(&picture(), Qt::Key_0, Qt::ControlModifier);
  EXPECT_NEAR(picture().shownZoom(), fitted, 1e-6);
}

TEST_F(BenchTest, TheChainIsWorkedByMouseAndKeys) {
  open(clip());
  addTimeField();
  QTest::keyClick(&picture(), Qt::Key_D, Qt::ControlModifier);
  ASSERT_EQ(project().chain.size(), 2u);
  button("flip").click();
  EXPECT_TRUE(valueOf<bool>(project().chain[1], "flip"));
  drag(chain(), chain().tileRect(2).center(), chain().tileRect(1).center() - QPoint(60, 0));
  EXPECT_TRUE(valueOf<bool>(project().chain[0], "flip"));
  EXPECT_EQ(bench->document().undoStack().undoText(), "Move Time Field");
  QTest::mouseClick(&chain(), Qt::LeftButton, {}, chain().tileRect(1).topRight() + QPoint(-12, 12));
  EXPECT_FALSE(project().chain[0].on);
  QTest::keyClick(&picture(), Qt::Key_2);
  QTest::keyClick(&picture(), Qt::Key_Delete);
  EXPECT_EQ(project().chain.size(), 1u);
}

TEST_F(BenchTest, SavesOpensAndRemembers) {
  open(clip());
  addTimeField();
  const QString path = QString::fromStdString(folder / "piece.molten");
  ASSERT_TRUE(bench->document().save(path));
  EXPECT_FALSE(bench->document().modified());
  button("past-the-ends=go-round").click();
  EXPECT_TRUE(bench->document().modified());
  QTest::keyClick(&picture(), Qt::Key_S, Qt::ControlModifier);
  EXPECT_FALSE(bench->document().modified());
  const Project saved = project();
  bench.reset();
  makeBench();
  open(path.toStdString());
  EXPECT_EQ(project(), saved);
  EXPECT_TRUE(QSettings().value("recent").toStringList().contains(path));
}

TEST_F(BenchTest, WhatWasNotSavedIsRestored) {
  open(clip());
  addTimeField();
  bench->document().autosaveNow();
  const Project lost = project();
  // While the window is open its autosave is nobody else's.
  const QString autosave = QString::fromStdString(folder / "autosave");
  EXPECT_FALSE(Document::findLostWork(autosave));
  // What a crash leaves: the autosave, and a lock that nobody holds.
  std::filesystem::copy(folder / "autosave", folder / "crashed");
  for (const auto& file : std::filesystem::directory_iterator(folder / "crashed"))
    if (file.path().extension() == ".lock") std::filesystem::remove(file.path());
  bench.reset();
  EXPECT_FALSE(Document::findLostWork(autosave)) << "a proper end leaves nothing to restore";
  const auto found = Document::findLostWork(QString::fromStdString(folder / "crashed"));
  ASSERT_TRUE(found);
  makeBench();
  ASSERT_TRUE(bench->document().restore(*found));
  EXPECT_EQ(project(), lost);
  EXPECT_TRUE(bench->document().modified());
  ASSERT_TRUE(until([&] { return bench->footage() != nullptr; }));
  EXPECT_FALSE(Document::findLostWork(QString::fromStdString(folder / "crashed")));
}

TEST_F(BenchTest, ReplacedFootageKeepsTheChain) {
  open(clip());
  addTimeField();
  const std::string other = clip("other.mkv", 20);
  bench->openPath(QString::fromStdString(other));
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->path() == other; }));
  EXPECT_EQ(project().chain.size(), 1u);
  EXPECT_EQ(bench->document().undoStack().undoText(), "Replace footage with other.mkv");
  QTest::keyClick(bench.get(), Qt::Key_Z, Qt::ControlModifier);
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->path() == clip(); }));
}

TEST_F(BenchTest, FootageThatIsGoneIsSaidAndNothingIsLost) {
  open(clip());
  addTimeField();
  const QString path = QString::fromStdString(folder / "piece.molten");
  ASSERT_TRUE(bench->document().save(path));
  bench.reset();
  std::filesystem::rename(folder / "clip.mkv", folder / "moved.mkv");
  makeBench();
  bench->openPath(path);
  auto* trouble = bench->findChild<QLabel*>("trouble");
  ASSERT_TRUE(until([&] { return trouble->isVisible(); }));
  EXPECT_TRUE(trouble->text().contains("There is no file clip.mkv"));
  EXPECT_EQ(project().chain.size(), 1u);
  // The clip is dropped in from where it is now.
  bench->openPath(QString::fromStdString(folder / "moved.mkv"));
  ASSERT_TRUE(until([&] { return bench->footage() != nullptr; }));
  EXPECT_EQ(project().chain.size(), 1u);
}

TEST_F(BenchTest, TheMemoryBudgetIsTheUsers) {
  open(clip());
  const auto measure = [&] {
    QString text;
    for (auto* label : bench->findChildren<QLabel*>())
      if (label->text().contains("memory")) text = label->text();
    return text;
  };
  ASSERT_TRUE(until([&] { return measure().endsWith("of 0.5 GB"); })) << measure().toStdString();
  ASSERT_TRUE(trigger("0.25 GB"));
  EXPECT_TRUE(measure().endsWith("of 0.2 GB") || measure().endsWith("of 0.3 GB")) << measure().toStdString();
  ASSERT_TRUE(trigger("1 GB"));
  EXPECT_TRUE(measure().endsWith("of 1.0 GB"));
  // The next start knows it.
  bench.reset();
  makeBench();
  open(clip());
  ASSERT_TRUE(until([&] { return measure().endsWith("of 1.0 GB"); })) << measure().toStdString();
  for (QAction* action : bench->findChildren<QAction*>())
    if (action->text().startsWith("Usual: ")) action->trigger();
  EXPECT_TRUE(measure().endsWith("of 0.5 GB")) << measure().toStdString();
}

/// A bar moves eight pixels a frame; where a field asks for the moment between two frames, Flow shows it between.
TEST_F(BenchTest, FlowIsChosenInTheDialsAndSeen) {
  const std::string path = folder / "bar.mkv";
  ASSERT_EQ(
      test::runCommand("ffmpeg -v error -f lavfi -i color=black:s=640x360:r=30:d=1 -f lavfi -i "
                       "color=white:s=60x360:r=30:d=1 -filter_complex \"overlay=x='100+8*n':y=0\" -pix_fmt yuv420p "
                       "-c:v ffv1 " +
                       path)
          .exitCode,
      0);
  open(path);
  ASSERT_TRUE(trigger("Time Field"));
  // The whole picture reads half a frame back.
  ASSERT_TRUE(trigger("In at the playhead"));
  for (const auto& [name, text] : {std::pair{"back", "0.5f"}, std::pair{"start", "0.5x2"}, std::pair{"end", "0.5x3"}}) {
    QLineEdit& line = field(name);
    line.setFocus();
    line.selectAll();
    QTest::keyClicks(&line, text);
    QTest::keyClick(&line, Qt::Key_Return);
  }
  const auto edgeOf = [&] {
    const QImage image = picture().grab().toImage();
    const QPointF from = picture().toWidget({0, 0.3}), to = picture().toWidget({1, 0.3});
    const double scale = (to.x() - from.x()) / 640;
    // Between black and white, summed up left of the bar's middle.
    double light = 0;
    for (int x = 0; x < 250; ++x)
      light += qGray(image.pixel(static_cast<int>(from.x() + (x + 0.5) * scale), static_cast<int>(from.y()))) / 255.0;
    return 250 - light;
  };
  QTest::keyClick(&picture(), Qt::Key_Home);
  for (int i = 0; i < 15; ++i) QTest::keyClick(&picture(), Qt::Key_Right);
  stillFor(200);
  button("in-between=whole").click();
  ASSERT_TRUE(until([&] { return edgeOf() > 218; }));
  stillFor(500);
  const double nearest = edgeOf();
  button("in-between=flow").click();
  EXPECT_TRUE(until([&] { return std::abs(edgeOf() - (nearest - 4)) < 1; })) << edgeOf() << " beside " << nearest;
  // Not a mix of two bars: the bar's edge is a step, not a slope of eight pixels.
  const QImage image = picture().grab().toImage();
  const QPointF from = picture().toWidget({0, 0.3}), to = picture().toWidget({1, 0.3});
  int gray = 0;
  for (int x = 200; x < 232; ++x) {
    const int value = qGray(
        image.pixel(static_cast<int>(from.x() + (x + 0.5) * (to.x() - from.x()) / 640), static_cast<int>(from.y())));
    gray += value > 64 && value < 192;
  }
  EXPECT_LE(gray, 5);
}

/// Frames left out of a 15 fps clip: it is told in its own rate, which may be changed by hand.
TEST_F(BenchTest, TheRateOfFramesThatWereLeftOutIsShownAndChanged) {
  const std::string path = folder / "left-out.mkv";
  test::makeNumberedClip(path, 90, {320, 180},
                         "-vf \"select='not(mod(n,2))*not(between(mod(n,26),6,16))'\" -vsync vfr -c:v ffv1");
  open(path);
  ASSERT_TRUE(bench->footage()->clock().varying());
  QLineEdit& rate = *bench->findChild<QLineEdit*>("footage-rate");
  EXPECT_TRUE(rate.isVisible());
  EXPECT_EQ(rate.text(), "15 fps");
  const std::int64_t pictures = pieceNow().length;
  const auto typed = [&](const char* text) {
    rate.setFocus();
    rate.selectAll();
    QTest::keyClicks(&rate, text);
    QTest::keyClick(&rate, Qt::Key_Return);
    stillFor(100);
  };
  typed("30");
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->clock().rate() == Rational(30); }));
  EXPECT_EQ(project().source.rate, Rational(30));
  EXPECT_NEAR(static_cast<double>(pieceNow().length), 2.0 * static_cast<double>(pictures), 1);
  typed("fast");
  EXPECT_TRUE(sentence().contains("is no picture rate"));
  EXPECT_EQ(project().source.rate, Rational(30));
  ASSERT_TRUE(trigger("Undo " + bench->document().undoStack().undoText()));
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->clock().rate() == Rational(15); }));
}

/// The last frame stands a day after the one before it.
TEST_F(BenchTest, AGapOfADayIsScrubbedAndDrawn) {
  const std::string path = folder / "gap.mkv";
  test::makeNumberedClip(
      path, 12, {320, 180},
      "-vf \"settb=1/1000,setpts='N*33+86400000*gte(N,11)'\" -enc_time_base 1:1000 -vsync passthrough -c:v ffv1");
  open(path);
  ASSERT_TRUE(bench->footage()->clock().varying());
  EXPECT_GT(pieceNow().length, 2'000'000);
  for (const auto key : {Qt::Key_2, Qt::Key_End, Qt::Key_Home, Qt::Key_1}) {
    QTest::keyClick(&picture(), key);
    stillFor(150);
  }
  QTest::keyClick(&picture(), Qt::Key_End);
  EXPECT_TRUE(until([&] { return picture().state().message.isEmpty() && !picture().image().isNull(); }));
  chart().grab();
  ASSERT_TRUE(trigger("Time Field"));
  ASSERT_TRUE(trigger("Loop"));
  stillFor(200);
  EXPECT_FALSE(picture().image().isNull());
}

TEST_F(BenchTest, BadFilesAreSaidInASentence) {
  std::ofstream(folder / "words.mp4") << "no footage at all";
  std::ofstream(folder / "broken.molten") << "{";
  auto* trouble = bench->findChild<QLabel*>("trouble");
  bench->openPath(QString::fromStdString(folder / "words.mp4"));
  ASSERT_TRUE(until([&] { return trouble->isVisible(); }));
  EXPECT_TRUE(trouble->text().startsWith("words.mp4 "));
  trouble->clear();
  bench->openPath(QString::fromStdString(folder / "broken.molten"));
  EXPECT_TRUE(trouble->text().contains("broken.molten cannot be opened"));
}

}  // namespace
}  // namespace molten
