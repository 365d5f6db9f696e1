// The hand's rules: what is typed, refused and taken; opening and saving; keys; the fewest acts for what is done often.
#include <QDialog>
#include <QTextBrowser>
#include <set>

#include "app/chart/deck.h"
#include "app/dials/movement_button.h"
#include "app/dials/spans_editor.h"
#include "app/theme/value_field.h"
#include "chart_fixture.h"
#include "core/time/pace_text.h"

namespace molten::test {
namespace {

QString text(const std::string& words) {
  return QString::fromStdString(words);
}

class Hand : public ChartTest {
 protected:
  /// One act of a hand: a click, a drag, a key, a value typed with its Enter, an entry of a menu.
  int acts = 0;
  void click(const char* name) {
    ++acts;
    auto* const widget = bench->findChild<QPushButton*>(name);
    ASSERT_NE(widget, nullptr) << name;
    QTest::mouseClick(widget, Qt::LeftButton);
    settle();
  }
  void choose(const QString& entry) {
    ++acts;
    ASSERT_TRUE(trigger(entry)) << entry.toStdString();
    settle();
  }
  void key(Qt::Key key, Qt::KeyboardModifiers with = {}) {
    ++acts;
    QTest::keyClick(&picture(), key, with);
    settle();
  }
  void set(const QString& name, const QString& words) {
    ++acts;
    auto* const line = bench->findChild<QLineEdit*>(name);
    ASSERT_NE(line, nullptr) << name.toStdString();
    QTest::mouseClick(line, Qt::LeftButton, {}, line->rect().center());
    QTest::keyClicks(line, words);
    QTest::keyClick(line, Qt::Key_Return);
    settle();
  }
  void answer(const QString& words) {
    ++acts;
    ASSERT_NE(chart().openPrompt(), nullptr);
    type(words);
  }
  void go(std::int64_t frame) {
    ++acts;
    goTo(frame);
  }
  void settle() {
    QCoreApplication::processEvents();
    QCoreApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  }
  ValueField& value(const char* name) { return *bench->findChild<ValueField*>(name); }
};

// ---- what is typed

TEST_F(Hand, CommasArePoints) {
  open(clip());
  addTimeField();
  set("back", "1,5");
  EXPECT_EQ(back(), 1.5);
  set("start", "0,25x0,5");
  EXPECT_EQ(valueOf<Place>(project().chain[0], "start"), (Place{0.25, 0.5}));
}

/// What cannot stand there is left in place, marked, with a sentence; Escape brings the old value back.
TEST_F(Hand, WhatIsRefusedStaysMarkedWithASentence) {
  open(clip());
  addTimeField();
  set("back", "0.5s");
  for (const char* const words : {"soon", "1/0", "1;5", "--2"}) {
    set("back", words);
    EXPECT_EQ(back(), 0.5) << words;
    EXPECT_EQ(field("back").text(), words);
    EXPECT_TRUE(value("back").refused());
    EXPECT_TRUE(sentence().contains("a time like")) << sentence().toStdString();
    // Leaving it changes nothing of that.
    picture().setFocus();
    EXPECT_EQ(field("back").text(), words);
    EXPECT_FALSE(sentence().isEmpty());
    field("back").setFocus();
    QTest::keyClick(&field("back"), Qt::Key_Escape);
    EXPECT_EQ(field("back").text(), "0.500 s");
    EXPECT_FALSE(value("back").refused());
    EXPECT_TRUE(sentence().isEmpty());
  }
}

TEST_F(Hand, OutOfRangeIsTheNearestThatCanBeAndSaysSo) {
  open(clip());
  ASSERT_TRUE(trigger("Echoes"));
  set("spacing", "-0.2s");
  EXPECT_EQ(valueOf<double>(project().chain[0], "spacing"), 0);
  EXPECT_TRUE(sentence().contains("it is 0.000 s now")) << sentence().toStdString();
  set("repeats", "7.4");
  EXPECT_EQ(valueOf<double>(project().chain[0], "repeats"), 7);
  set("repeats", "1000");
  EXPECT_EQ(valueOf<double>(project().chain[0], "repeats"), 60);
  EXPECT_EQ(field("repeats").text(), "60");
  EXPECT_FALSE(value("repeats").refused());
}

/// A window that goes while a sentence stands hides its parts one after another: none of them is deleted on the way.
TEST_F(Hand, AWindowMayGoWhileASentenceStands) {
  open(clip());
  ASSERT_TRUE(trigger("Echoes"));
  set("spacing", "-0.2s");
  const QPointer<QLabel> label = bench->findChild<QLabel*>("sentence");
  ASSERT_TRUE(label && label->isVisible());
  bench->hide();
  EXPECT_TRUE(label);
  QApplication::sendPostedEvents(nullptr, QEvent::DeferredDelete);
  EXPECT_FALSE(label);
}

/// An order that is refused stays to be mended; the one that plays is the old one, and Escape shows it again.
TEST_F(Hand, ARefusedFrameOrderIsNotTakenForTheOneThatPlays) {
  open(clip("clip.mkv", 24));
  ASSERT_TRUE(trigger("Frame Order"));
  set("order", "1:4+3");
  set("order", "1:4+three");
  EXPECT_EQ(field("order").text(), "1:4+three");
  EXPECT_TRUE(value("order").refused());
  EXPECT_FALSE(sentence().isEmpty());
  EXPECT_EQ(frameOrderText(valueOf<FrameOrder>(project().chain[0], "order")), "1:4+3");
  field("order").setFocus();
  QTest::keyClick(&field("order"), Qt::Key_Escape);
  EXPECT_EQ(field("order").text(), "1:4+3");
}

/// Ten notches over the Dials scroll, and change nothing.
TEST_F(Hand, TheWheelScrollsWhereNothingHasTheFocus) {
  open(clip());
  ASSERT_TRUE(trigger("Strips"));
  picture().setFocus();
  const Project before = project();
  for (QWidget* const widget : bench->findChild<Dials*>()->findChildren<QWidget*>()) {
    if (!widget->isVisible()) continue;
    const QPointF at = QRectF(widget->rect()).center();
    for (int i = 0; i < 10; ++i) {
      QWheelEvent event(at, widget->mapToGlobal(at), {}, {0, -120}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase,
                        false);
      QApplication::sendEvent(widget, &event);
    }
  }
  EXPECT_EQ(project(), before);
}

/// A control keeps its place whatever is said on its card.
TEST_F(Hand, WhatIsUnderTheHandDoesNotMove) {
  open(clip());
  addTimeField();
  stillFor(400);
  const auto places = [&] {
    std::vector<QPoint> all;
    for (const char* const name : {"back", "ahead", "panes", "dither"})
      all.push_back(field(name).mapTo(bench.get(), QPoint(0, 0)));
    return all;
  };
  const auto before = places();
  // Reads outside, pictures torn apart, nothing read but now: each is said on its card.
  for (const char* const words : {"0s", "0.02s", "1.9s", "300s"}) {
    set("back", words);
    stillFor(300);
    EXPECT_EQ(places(), before) << words;
  }
}

TEST_F(Hand, TheZoomIsTypedAndHasKeys) {
  open(clip());
  QTest::keyClick(&picture(), Qt::Key_2, Qt::ControlModifier);
  EXPECT_DOUBLE_EQ(picture().zoom(), 2);
  ASSERT_TRUE(trigger("Zoom to…"));
  auto* zoom = picture().findChild<QLineEdit*>("zoom");
  ASSERT_NE(zoom, nullptr);
  EXPECT_EQ(zoom->selectedText(), "200 %");
  QTest::keyClicks(zoom, "large");
  QTest::keyClick(zoom, Qt::Key_Return);
  EXPECT_TRUE(sentence().contains("150%"));
  zoom->selectAll();
  QTest::keyClicks(zoom, "37,5%");
  QTest::keyClick(zoom, Qt::Key_Return);
  EXPECT_DOUBLE_EQ(picture().zoom(), 0.375);
  settle();
  EXPECT_EQ(picture().findChild<QLineEdit*>("zoom"), nullptr);
  ASSERT_TRUE(trigger("Zoom to…"));
  QTest::keyClicks(picture().findChild<QLineEdit*>("zoom"), "fit");
  QTest::keyClick(picture().findChild<QLineEdit*>("zoom"), Qt::Key_Return);
  EXPECT_EQ(picture().zoom(), 0);
}

// ---- the spans' table

TEST_F(Hand, SpansAreEditedInTheirTable) {
  openWithMarks();
  const PaceCurve before = paceNow();
  EXPECT_EQ(value("span 1 from").text(), "0.500 s");
  EXPECT_EQ(value("span 2 lasts").text(), "0.800 s");
  set("span 1 speed", "40");
  EXPECT_EQ(paceNow().spans()[1].speed, Rational(2, 5));
  EXPECT_EQ(paceNow().sourceAt(2), before.sourceAt(2)) << "the footage is kept";
  bench->document().undoStack().undo();
  click("speedKeeps=length");
  set("span 1 speed", "40%");
  EXPECT_EQ(paceNow().length(), before.length());
  set("span 2 lasts", "45f");
  EXPECT_EQ(paceNow().spans()[2].length, Rational(3, 2));
  set("span 2 glide", "0,2s after");
  EXPECT_EQ(paceNow().spans()[1].glide, Rational(1, 5));
  EXPECT_EQ(paceNow().spans()[1].side, GlideSide::After);
  EXPECT_EQ(value("span 2 glide").text(), "0.2 s after");
  set("span 2 glide", "none");
  EXPECT_EQ(paceNow().spans()[1].glide, Rational(0));
  set("span 0 from", "0.1s");
  EXPECT_EQ(paceNow().from(), Rational(1, 10));
  set("span 1 speed", "fast");
  EXPECT_TRUE(sentence().contains("A speed: 40%"));
  QTest::keyClick(&value("span 1 speed"), Qt::Key_Escape);
  // The span in hand is the same in the table and on the chart.
  value("span 2 speed").setFocus();
  EXPECT_EQ(chart().sight().span, 2u);
  // The text says the same, folded.
  EXPECT_EQ(bench->findChild<DialCard*>("card Spans as text")->words(),
            text(paceSpansText(valueOf<PaceSpans>(project().chain[0], "spans"))));
}

TEST_F(Hand, ATableOfManySpansMovesAlong) {
  open(clip());
  ASSERT_TRUE(trigger("Pace"));
  std::string spans;
  for (int i = 0; i < 12; ++i) spans += (i ? "+" : "") + std::to_string(i + 1) + "f@" + std::to_string(50 + i) + "%";
  openCards();
  set("spans", text(spans));
  ASSERT_EQ(paceNow().spans().size(), 12u);
  auto& table = *bench->findChild<SpansEditor*>();
  EXPECT_EQ(value("span 0 speed").text(), "50 %");
  const QPointF at(60, 60);
  QWheelEvent wheel(at, table.mapToGlobal(at), {}, {0, -120}, Qt::NoButton, Qt::NoModifier, Qt::NoScrollPhase, false);
  QApplication::sendEvent(&table, &wheel);
  EXPECT_EQ(table.spanOf(0), 1u);
  EXPECT_EQ(value("span 0 speed").text(), "51 %");
  chart().selectSpan(11);
  EXPECT_EQ(value("span 5 speed").text(), "61 %") << "what is chosen on the chart comes into sight";
  set("span 5 speed", "70%");
  EXPECT_EQ(paceNow().spans()[11].speed, Rational(7, 10));
}

// ---- opening, saving, keys

TEST_F(Hand, OpeningAClipIsNoEdit) {
  open(clip());
  EXPECT_EQ(bench->document().undoStack().count(), 0);
  EXPECT_FALSE(bench->document().modified());
  addTimeField();
  EXPECT_TRUE(bench->document().modified());
  // Other footage under a chain is one.
  bench->openPath(text(clip("other.mkv", 30)));
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->path() == clip("other.mkv", 30); }));
  EXPECT_TRUE(bench->document().undoStack().undoText().contains("other.mkv"));
}

/// The page of keys is made of the entries themselves: every one with a key stands there, with what it does.
TEST_F(Hand, ThePageOfKeysNamesThemAll) {
  ASSERT_TRUE(trigger("Keys"));
  auto* const page = bench->findChild<QDialog*>("keys page");
  ASSERT_NE(page, nullptr);
  const QString words = page->findChild<QTextBrowser*>()->toPlainText();
  int named = 0;
  std::set<QString> keys;
  for (const QAction* const action : bench->findChildren<QAction*>()) {
    if (action->shortcut().isEmpty() || action->text().startsWith("Undo") || action->text().startsWith("Redo")) continue;
    EXPECT_TRUE(keys.insert(action->shortcut().toString()).second)
        << action->shortcut().toString().toStdString() << " means two things";
    EXPECT_TRUE(words.contains(QString(action->text()).remove('&').remove(QChar(0x2026))))
        << action->text().toStdString();
    EXPECT_TRUE(words.contains(action->shortcut().toString(QKeySequence::NativeText)));
    ++named;
  }
  EXPECT_GT(named, 40);
  for (const char* const held : {"Space", "J K L", "Home, End", "B, held", "1 … 9"})
    EXPECT_TRUE(words.contains(held)) << held;
  page->close();
}

/// No two menus open by one letter.
TEST_F(Hand, EveryMenuHasALetterOfItsOwn) {
  std::set<QChar> letters;
  for (const QAction* const menu : bench->menuBar()->actions()) {
    const QString title = menu->text();
    EXPECT_TRUE(letters.insert(title[title.indexOf('&') + 1].toLower()).second) << title.toStdString();
  }
}

// ---- the fewest acts

TEST_F(Hand, ATwistTakesSixActs) {
  open(clip()), ++acts;
  choose("Time Field");
  set("back", "1.2s");
  EXPECT_LE(acts, 6);
  EXPECT_EQ(back(), 1.2);
}

TEST_F(Hand, ARampOfThreeDetailsTakesTwentyFiveActs) {
  open(clip("clip.mkv", 120)), ++acts;
  for (const int frame : {20, 34, 60, 74, 96}) go(frame), key(Qt::Key_M);
  // Slow, fast, slow, fast, slow.
  int span = 0;
  for (const char* const speed : {"60%", "380%", "30%", "380%", "45%"})
    set(QString("span %1 speed").arg(span++), speed);
  EXPECT_LE(acts, 25);
  ASSERT_EQ(paceNow().spans().size(), 6u);
  EXPECT_EQ(paceNow().spans()[3].speed, Rational(19, 5));
}

TEST_F(Hand, AFifteenStripLoopWithRulesTakesTwelveActs) {
  open(clip()), ++acts;
  choose("Loop");
  choose("Strips");
  set("count", "15");
  click("gap=over-the-clip");
  bench->findChild<DialCard*>("card Edges")->setOpen(true), ++acts;
  set("divider-line", "2");
  EXPECT_LE(acts, 12);
  EXPECT_EQ(valueOf<double>(project().chain[1], "count"), 15);
  EXPECT_TRUE(pieceNow().endless);
}

TEST_F(Hand, ASlowShutterTakesTenActs) {
  open(clip()), ++acts;
  choose("Echoes");
  set("repeats", "24");
  set("spacing", "1f");
  set("nearest", "100");
  set("farthest", "100");
  click("mix=mean");
  click("reckoned-in=linear");
  click("keep-brightness");
  EXPECT_LE(acts, 10);
  EXPECT_TRUE(valueOf<bool>(project().chain[0], "keep-brightness"));
}

/// A ramp into slow motion, the frame drawing nearer meanwhile and put where the subject is, its own move blurred.
TEST_F(Hand, AReframedPourTakesFifteenActs) {
  open(clip("clip.mkv", 120)), ++acts;
  go(30), key(Qt::Key_M);
  go(80), key(Qt::Key_M);
  set("span 1 speed", "40%");
  choose("Framing");
  go(20);
  ++acts;
  QTest::mouseClick(bench->findChild<MovementButton*>("movement zoom"), Qt::LeftButton, Qt::ShiftModifier);
  go(70);
  set("zoom", "280");
  ASSERT_TRUE(until([&] { return picture().frameRoom().has_value(); }));
  const QRectF room = *picture().frameRoom();
  drag(picture(), room.center(), {room.left() + 0.7 * room.width(), room.top() + 0.6 * room.height()}), ++acts;
  bench->findChild<DialCard*>("card Blur of its moves")->setOpen(true), ++acts;
  set("blur", "50");
  EXPECT_LE(acts, 15);
  const Stage& framing = project().chain[1];
  EXPECT_NEAR(valueOf<double>({framing.kind, true, "", framing.valuesAt(0), {}}, "zoom"), 1, 1e-9);
  EXPECT_NEAR(valueOf<double>({framing.kind, true, "", framing.valuesAt(100), {}}, "zoom"), 2.8, 1e-9);
  EXPECT_GT(valueOf<Place>(framing, "place").x, 0.6);
  EXPECT_EQ(valueOf<double>(framing, "blur"), 0.5);
}

TEST_F(Hand, ASlowShutterWithItsShakeAndExposureTakesFifteenActs) {
  open(clip()), ++acts;
  choose("Framing");
  bench->findChild<DialCard*>("card Shake")->setOpen(true), ++acts;
  set("shake", "2");
  choose("Echoes");
  set("repeats", "15");
  set("spacing", "1f");
  set("nearest", "100");
  set("farthest", "100");
  click("mix=light");
  click("below-white");
  click("reckoned-in=linear");
  choose("Finish");
  set("exposure", "-3.5");
  EXPECT_LE(acts, 15);
  EXPECT_EQ(stageText(project().chain[0]), "framing:shake=2%");
  EXPECT_FALSE(valueOf<bool>(project().chain[1], "below-white"));
  EXPECT_EQ(valueOf<double>(project().chain[2], "exposure"), -3.5);
}

TEST_F(Hand, AStripPhotographTakesTenActs) {
  open(clip()), ++acts;
  choose("Slit Scan");
  click("slit=stands");
  click("result=one-picture");
  set("picture-length", "640");
  set("slit-width", "16");
  EXPECT_LE(acts, 10);
  EXPECT_EQ(pieceNow().length, 1);
}

TEST_F(Hand, BackAndAgainFourTimesTakesTwelveActs) {
  open(clip()), ++acts;
  go(30);
  key(Qt::Key_M);
  choose("Back and again…");
  answer("4");
  EXPECT_LE(acts, 12);
  EXPECT_GT(paceNow().spans().size(), 8u);
}

/// What is held still while the world goes on: a field that reads back where the subject is not, held in a pin.
TEST_F(Hand, AHeldSubjectThatStretchesTakesFifteenActs) {
  open(clip()), ++acts;
  choose("Time Field");
  set("start", "0.5x0.4");
  set("end", "0.5x0.6");
  go(20);
  click("start-holds=pinned");
  set("pinned-moment", "0.5s");
  EXPECT_LE(acts, 15);
  EXPECT_EQ(valueOf<double>(project().chain[0], "pinned-moment"), 0.5);
  // The top row of blocks stands at frame 15 whatever the playhead says; the bottom one is the present's.
  for (const int frame : {20, 40}) {
    go(frame);
    EXPECT_TRUE(until([&] { return (shownNumber() & 15) == 15; })) << frame << " " << shownNumber();
  }
}

/// A loop there and back that eases at its turns, in one act.
TEST_F(Hand, TheTurnsOfALoopAreEasedInOneAct) {
  open(clip());
  ASSERT_TRUE(trigger("Loop"));
  click("kind-of-loop=round");
  acts = 0;
  click("ease-the-turns");
  EXPECT_EQ(acts, 1);
  EXPECT_EQ(field("ease").text(), "0.500 s");
  EXPECT_TRUE(button("kind-of-loop=there-and-back").isChecked());
  EXPECT_EQ(undoText(), "Ease the turns");
  EXPECT_TRUE(chain().tiles().back().lines[0].contains("loop"));
}

}  // namespace
}  // namespace molten::test
