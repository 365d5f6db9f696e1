// The manual word by word: every name on its pages is one that stands in the window, and whoever does what a page says gets
// what it promises.
#include <QListWidget>
#include <QMimeData>
#include <QPlainTextEdit>
#include <QRegularExpression>
#include <QTextBrowser>
#include <QToolButton>

#include "app/chain/stage_picker.h"
#include "app/help/manual.h"
#include "app/playback/transport.h"
#include "app/reel/reel_strip.h"
#include "app/sections/section_view.h"
#include "app/sound/sound_lanes.h"
#include "core/stages/laid_sound.h"
#include "render_fixture.h"
#include "support/sounds.h"

namespace molten::test {
namespace {

class ManualSteps : public RenderTest {
 protected:
  /// As a page says it: A, and some of its name.
  void add(const QString& typed) {
    QTest::keyClick(bench.get(), Qt::Key_A);
    auto* const picker = bench->findChild<StagePicker*>();
    ASSERT_TRUE(picker && picker->isVisible());
    QTest::keyClicks(picker->field(), typed);
    QTest::keyClick(picker->field(), Qt::Key_Return);
    bench->activateWindow();
    QTest::qWait(20);
    stillFor(60);
  }
  void set(const char* name, const QString& typed) {
    openCards();
    QTest::mouseClick(&field(name), Qt::LeftButton);
    QTest::keyClicks(&field(name), typed);
    QTest::keyClick(&field(name), Qt::Key_Return);
    stillFor(40);
  }
  void press(const char* name) {
    openCards();
    auto* const found = bench->findChild<Dials*>()->findChild<QAbstractButton*>(name);
    ASSERT_TRUE(found && found->isVisible()) << name;
    QTest::mouseClick(found, Qt::LeftButton);
    stillFor(40);
  }
  void typeFor(const QString& entry, const QString& typed) {
    ASSERT_TRUE(trigger(entry)) << entry.toStdString();
    const QString effect = type(typed);
    EXPECT_NE(effect, "no field is open") << entry.toStdString();
    stillFor(40);
  }
  void dropFile(const std::string& path) { dropFiles({path}); }
  void dropFiles(const std::vector<std::string>& paths) {
    QMimeData files;
    QList<QUrl> urls;
    for (const std::string& path : paths) urls << QUrl::fromLocalFile(QString::fromStdString(path));
    files.setUrls(urls);
    QDragEnterEvent enter(QPoint(300, 300), Qt::CopyAction, &files, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(bench.get(), &enter);
    QDropEvent drop({300, 300}, Qt::CopyAction, &files, Qt::LeftButton, Qt::NoModifier);
    QApplication::sendEvent(bench.get(), &drop);
  }
  const Stage& last() { return project().chain.back(); }
  std::string chosen(const char* parameter) { return chosenOf(last(), parameter); }
  double number(const char* parameter) { return valueOf<double>(last(), parameter); }
  /// Pictures of the result.
  std::int64_t length() { return pieceNow().length; }
};

/// All that the window can say: entries, keys, and what stands on the Dials, in forms and in lists.
class Words {
 public:
  void hear(const QWidget& window) {
    for (const QAction* const action : window.findChildren<QAction*>()) {
      put(action->text());
      put(action->shortcut().toString(QKeySequence::PortableText));
    }
    for (const auto* const menu : window.findChildren<QMenu*>()) put(menu->title());
    for (const QWidget* const widget : QApplication::allWidgets()) {
      if (const auto* const button = qobject_cast<const QAbstractButton*>(widget)) put(button->text());
      if (const auto* const label = qobject_cast<const QLabel*>(widget)) {
        put(label->text());
        static const QRegularExpression link("<a [^>]*>([^<]*)</a>");
        put(link.match(label->text()).captured(1));
      }
      if (const auto* const box = qobject_cast<const QComboBox*>(widget))
        for (int i = 0; i < box->count(); ++i) {
          put(box->itemText(i));
          // A codec, without what is said of it.
          put(box->itemText(i).section(QRegularExpression("[,.(:—]"), 0, 0));
        }
      // The page of keys.
      if (const auto* const text = qobject_cast<const QTextBrowser*>(widget))
        for (const QString& line : text->toPlainText().split('\n'))
          for (const QString& part : line.split(QRegularExpression(", | and "))) put(part);
      put(widget->windowTitle());
      put(widget->accessibleName());
    }
  }
  void put(QString words) {
    words = plain(words);
    // `Dials: value`, and links in sentences.
    if (!words.isEmpty()) all_.insert(words);
  }
  bool know(const QString& words) const {
    // Of a parameter and what it is set to, of a menu and an entry, each.
    for (const QString& part : plain(words).split(QRegularExpression(": | › ")))
      if (!all_.contains(part)) return false;
    return true;
  }

 private:
  static QString plain(QString words) {
    words.remove('&').remove(QChar(0x2026)).replace(QChar(0x2192), "right").replace(QChar(0x2190), "left");
    return words.toLower().trimmed();
  }
  std::set<QString> all_;
};

TEST_F(ManualSteps, EveryNameOnItsPagesStandsInTheWindow) {
  Words words;
  open(clip());
  for (const StageKind* const kind : stageKinds()) {
    const StageDescription& stage = kind->description();
    for (const auto& parameter : stage.parameters) {
      words.put(QString::fromStdString(parameter.label));
      words.put(QString::fromStdString(parameter.card));
      if (const auto* choices = std::get_if<ChoicesDescription>(&parameter.kind))
        for (const auto& choice : choices->choices) words.put(QString::fromStdString(choice.label));
    }
    for (const auto& action : stage.actions) words.put(QString::fromStdString(action.label));
  }
  // What stands on the Picture and beside it while a field is in hand, what a render that waits can be told, and all keys.
  addTimeField();
  for (const auto& label : picture().state().handles) words.put(QString::fromStdString(label.label));
  openDialog();
  setPlace("one.mp4");
  ASSERT_TRUE(begins());
  openDialog();
  for (const char* view : {"Keys", "Values as a table"}) ASSERT_TRUE(trigger(view));
  words.hear(*bench);
  static const QRegularExpression names(R"(\*\*(.+?)\*\*|\*([^*]+?)\*)");
  int found = 0;
  for (const ManualPage& page : manualPages()) {
    if (page.name.startsWith("stage-")) continue;
    for (auto each = names.globalMatch(page.words); each.hasNext(); ++found) {
      const auto match = each.next();
      const QString name = match.captured(1).isEmpty() ? match.captured(2) : match.captured(1);
      EXPECT_TRUE(words.know(name)) << page.name.toStdString() << ": " << name.toStdString();
    }
  }
  EXPECT_GT(found, 60);
}

TEST_F(ManualSteps, AFirstEffect) {
  dropFile(clip());
  ASSERT_TRUE(until([&] { return bench->footage() && !picture().image().isNull(); }));
  stillFor(60);
  add("field");
  ASSERT_EQ(project().chain.size(), 1u);
  // The ends say their moments, and are dragged.
  const auto handles = picture().state().handles;
  ASSERT_GE(handles.size(), 2u);
  drag(picture(), picture().toWidget(handles[0].place), picture().toWidget({0.3, 0.2}));
  EXPECT_NEAR(valueOf<Place>(last(), "start").x, 0.3, 0.02);
  for (const auto& [typed, seconds] : {std::pair{"1.5s", 1.5}, {"36f", 1.2}, {"1/12s", 1 / 12.0}}) {
    set("back", typed);
    EXPECT_NEAR(number("back"), seconds, 1e-9) << typed;
  }
  // What cannot stand is left in place, with a sentence; Escape brings the old value back.
  const QString stood = field("back").text();
  QTest::mouseClick(&field("back"), Qt::LeftButton);
  QTest::keyClicks(&field("back"), "soon");
  QTest::keyClick(&field("back"), Qt::Key_Return);
  EXPECT_FALSE(sentence().isEmpty());
  EXPECT_EQ(field("back").text(), "soon");
  QTest::keyClick(&field("back"), Qt::Key_Escape);
  EXPECT_EQ(field("back").text(), stood);
  // Space plays; B shows the footage; T shows the field.
  picture().setFocus();
  QTest::keyClick(&picture(), Qt::Key_Space);
  EXPECT_TRUE(until([&] { return bench->player().playing(); }));
  QTest::keyClick(&picture(), Qt::Key_Space);
  EXPECT_TRUE(until([&] { return !bench->player().playing(); }));
  goTo(40);
  QTest::keyPress(&picture(), Qt::Key_B);
  EXPECT_TRUE(shows(40));
  QTest::keyRelease(&picture(), Qt::Key_B);
  QTest::keyClick(&picture(), Qt::Key_T);
  EXPECT_TRUE(until([&] { return picture().state().field; }));
  // Where it reads outside, the Dials say so, and one click sets in and out.
  set("back", "1s");
  auto* const outside = bench->findChild<Dials*>()->findChild<QLabel*>("outside");
  ASSERT_TRUE(outside && until([&] { return outside->isVisible() && outside->text().contains("Trim it off"); })) << (outside ? outside->text().toStdString() : "none");
  emit outside->linkActivated({});
  EXPECT_TRUE(until([&] { return bench->document().undoStack().undoText().contains("rim"); })) << bench->document().undoStack().undoText().toStdString();
  QTest::keyClick(bench.get(), Qt::Key_R, Qt::ControlModifier);
  EXPECT_TRUE(until([&] { return form().isVisible(); }));
}

TEST_F(ManualSteps, ASubjectHeldStill) {
  open(clip());
  add("field");
  press("pin-here");
  goTo(30);
  QTest::mouseClick(&picture(), Qt::LeftButton, {}, picture().toWidget({0.5, 0.5}).toPoint());
  EXPECT_TRUE(until([&] { return chosen("start-holds") == "pinned"; }));
  set("take-hold", "0.5s");
  set("let-go", "1.5s");
  set("let-go-over", "0.2s");
  EXPECT_NEAR(number("let-go-over"), 0.2, 1e-9);
  // Across and Down are there, and their line sets the stage.
  auto* const down = [&] {
    for (auto* view : bench->findChildren<SectionView*>())
      if (view->accessibleName() == "Down") return view;
    return static_cast<SectionView*>(nullptr);
  }();
  ASSERT_TRUE(down && until([&] { return down->isVisible() && down->state().reads.size() > 2; }));
  EXPECT_TRUE(down->state().mayPull);
  const Chain before = project().chain;
  drag(*down, down->linePoint(0.25), down->linePoint(0.25) + QPointF(20, 0));
  EXPECT_TRUE(until([&] { return project().chain != before; }));
  press("shape=painted");
  EXPECT_EQ(chosen("shape"), "painted");
}

TEST_F(ManualSteps, ALoopOfStrips) {
  open(clip());
  add("loop");
  for (const char* const way : {"there-and-back", "round", "dissolve"}) {
    press((std::string("kind-of-loop=") + way).c_str());
    EXPECT_EQ(chosen("kind-of-loop"), way);
  }
  press("kind-of-loop=round");
  add("strips");
  set("count", "12");
  press("gap=over-the-clip");
  EXPECT_EQ(number("count"), 12);
  // Offset moves by keys from nothing to all.
  goTo(0);
  press("movement offset");
  EXPECT_TRUE(bench->findChild<QWidget*>("movement panel"));
  press("key here");
  EXPECT_TRUE(until([&] { return !last().keys.empty(); }));
  // How the end meets the beginning.
  QTest::mouseClick(&chain(), Qt::LeftButton, {}, chain().tileRect(1).center());
  auto* const seam = bench->findChild<QLabel*>("finding Loop length");
  ASSERT_TRUE(seam);
  EXPECT_TRUE(until([&] { return seam->isVisible() && seam->text().startsWith("Seam:"); })) << seam->text().toStdString();
  openDialog();
  chooseCodec("gif");
  EXPECT_EQ(codec(), "gif");
}

TEST_F(ManualSteps, ARampOnASound) {
  open(clip());
  const std::string hits = folder / "hits.wav";
  ASSERT_EQ(runCommand("ffmpeg -v error -y -f lavfi -i \"aevalsrc='0.8*sin(2*PI*1200*t)*gte(t,0.3)*exp(-40*mod(t+0.1,0.4))':s=48000:d=1.85\" -ac 2 " + hits).exitCode, 0);
  dropFile(hits);
  auto& lanes = *bench->findChild<SoundLanes*>();
  ASSERT_TRUE(until([&] { return lanes.sight().count() == 1 && lanes.sight().state.lanes[0].onsets.size() >= 4; }));
  add("pace");
  goTo(0);
  QTest::keyClick(bench.get(), Qt::Key_Right, Qt::AltModifier);
  stillFor(40);
  QTest::keyClick(&picture(), Qt::Key_M);
  stillFor(40);
  QTest::keyClick(bench.get(), Qt::Key_Right, Qt::AltModifier);
  stillFor(40);
  QTest::keyClick(&picture(), Qt::Key_M);
  stillFor(40);
  const auto spans = paceNow().spans();
  ASSERT_EQ(spans.size(), 3u) << "a mark on each of two onsets";
  EXPECT_NEAR(spans[0].length.toDouble(), 0.3, 0.05);
  // The span between two marks is dragged: its slope is its speed; a double click types it.
  const QPoint middle = chart().sight().spanPoint(1).toPoint();
  drag(chart(), middle, middle + QPoint(0, -20));
  EXPECT_NE(paceNow().spans()[1].speed, Rational(1));
  QTest::mouseDClick(&chart(), Qt::LeftButton, {}, chart().sight().spanPoint(1).toPoint());
  EXPECT_NE(type("35%"), "no field is open");
  EXPECT_EQ(paceNow().spans()[1].speed, Rational(35, 100));
  const Rational glide = paceNow().spans()[0].glide;
  chart().selectMark(0);
  QTest::qWait(20);
  const QPointF handle = chart().sight().glidePoint(0, true);
  drag(chart(), handle, handle + QPointF(25, 0));
  EXPECT_GT(paceNow().spans()[0].glide, glide);
  ASSERT_TRUE(trigger("Mark every onset"));
  stillFor(40);
  EXPECT_GE(paceNow().spans().size(), 5u);
  for (const char* entry : {"Back and again on these onsets", "Fit the span in hand to the sound"}) {
    const int steps = bench->document().undoStack().index();
    ASSERT_TRUE(trigger(entry)) << entry;
    stillFor(40);
    EXPECT_GE(bench->document().undoStack().index(), steps) << entry;
  }
}

TEST_F(ManualSteps, AFreezeThatRunsOn) {
  open(clip());
  add("pace");
  goTo(30);
  typeFor("Freeze here for…", "0.5s");
  const auto frozen = paceNow().spans();
  ASSERT_EQ(frozen.size(), 3u);
  EXPECT_EQ(frozen[1].speed, Rational(0));
  EXPECT_EQ(frozen[1].length, Rational(1, 2));
  // Rest before it, speed after it.
  chart().selectSpan(0);
  typeFor("Come to rest over…", "0.4s");
  chart().selectSpan(paceNow().spans().size() - 1);
  typeFor("Pick up speed over…", "0.4s");
  bool glides = false;
  const PaceCurve now = paceNow();
  for (const PaceSpan& span : now.spans()) glides |= span.glide > Rational(0);
  EXPECT_TRUE(glides);
  chart().selectMark(0);
  ASSERT_TRUE(trigger("Before the mark"));
  EXPECT_EQ(paceNow().spans()[0].side, GlideSide::Before);
  // Colour drains by keys on Saturation.
  add("finish");
  press("movement saturation");
  press("key here");
  EXPECT_TRUE(until([&] { return !last().keys.empty(); }));
  add("insert");
  set("source", QString::fromStdString(clip()));
  ASSERT_FALSE(chain().tiles()[3].branch.isEmpty());
  QTest::mouseClick(&chain(), Qt::LeftButton, {}, chain().branchRect(3).center());
  EXPECT_TRUE(until([&] { return !chain().branchOf().isEmpty(); })) << "a chain of its own";
}

TEST_F(ManualSteps, SlowMotion) {
  open(clip());
  QTest::mouseClick(&chain(), Qt::LeftButton, {}, chain().tileRect(0).center());
  for (const char* const between : {"in-between=mixed", "in-between=flow"}) {
    auto* const found = bench->findChild<QAbstractButton*>(between);
    ASSERT_TRUE(found) << between;
    QTest::mouseClick(found, Qt::LeftButton);
    stillFor(40);
  }
  EXPECT_EQ(project().source.between, InBetween::Flow);
  add("shutter");
  EXPECT_EQ(project().chain.size(), 1u);
}

TEST_F(ManualSteps, GhostsAndTrails) {
  open(clip());
  add("echoes");
  set("repeats", "8");
  set("spacing", "2f");
  for (const char* const mix : {"light", "wins", "layers", "mean"}) {
    press((std::string("mix=") + mix).c_str());
    EXPECT_EQ(chosen("mix"), mix);
  }
  press("mix=light");
  press("only-what-moves");
  EXPECT_TRUE(valueOf<bool>(last(), "only-what-moves"));
  set("nearest", "80%");
  set("farthest", "20%");
  EXPECT_NEAR(number("farthest"), 0.2, 1e-9);
  add("finish");
  set("exposure", "-1");
  EXPECT_LT(number("exposure"), 0);
}

TEST_F(ManualSteps, AStripPhotograph) {
  open(clip());
  add("slit");
  press("slit=stands");
  drag(picture(), picture().toWidget({0.5, 0.5}), picture().toWidget({0.25, 0.5}));
  EXPECT_NEAR(valueOf<Place>(last(), "position").x, 0.25, 0.02) << picture().state().handles.size();
  press("result=one-picture");
  set("picture-length", "400");
  EXPECT_EQ(length(), 1);
  openDialog();
  setPlace("strip.png");
  ASSERT_TRUE(renders());
  const auto made = written("strip.png");
  ASSERT_EQ(made.size(), 1u);
  EXPECT_EQ(made[0].shape().size.width, 400);
}

TEST_F(ManualSteps, ATitleThatMelts) {
  open(clip());
  add("insert");
  press("shows=title");
  auto* const words = bench->findChild<Dials*>()->findChild<QPlainTextEdit*>("text");
  ASSERT_TRUE(words && words->isVisible());
  words->setFocus();
  words->selectAll();
  QTest::keyClicks(words, "Pour");
  EXPECT_TRUE(until([&] { return valueOf<std::string>(last(), "text") == "Pour"; }));
  press("lay-into-clear-pictures");
  stillFor(60);
  QTest::keyClick(bench.get(), Qt::Key_Down, Qt::ControlModifier);
  EXPECT_TRUE(until([&] { return !chain().branchOf().isEmpty(); }));
  stillFor(60);
  ASSERT_TRUE(trigger("Time Field"));
  stillFor(60);
  QTest::keyClick(bench.get(), Qt::Key_Up, Qt::ControlModifier);
  EXPECT_TRUE(until([&] { return chain().branchOf().isEmpty(); }));
  QTest::keyClick(bench.get(), Qt::Key_Down, Qt::ControlModifier);
  EXPECT_TRUE(until([&] { return !chain().branchOf().isEmpty(); }));
}

TEST_F(ManualSteps, ShotsWhoseCutsAreRunThrough) {
  open(clip());
  ASSERT_TRUE(bench->document().save(QString::fromStdString(folder / "film.molten")));
  dropFiles({clip("a.mkv"), clip("b.mkv")});
  auto& strip = *bench->findChild<ReelStrip*>();
  const auto shots = [&] { return strip.state().shots.size(); };
  ASSERT_TRUE(until([&] { return strip.isVisible() && shots() >= 2; }));
  const std::size_t before = shots();
  stillFor(60);
  // X splits at the playhead.
  goTo(20);
  QTest::keyClick(&picture(), Qt::Key_X);
  EXPECT_TRUE(until([&] { return shots() == before + 1; }));
  // A cut that is pulled down is run through.
  const QPointF cut = strip.cutRect(0).center();
  drag(strip, cut, cut + QPointF(0, 90));
  EXPECT_TRUE(until([&] { return strip.state().shots[0].through > 1; }));
  // A shot goes to another place.
  const QString title = strip.state().shots.back().title;
  drag(strip, strip.shotRect(shots() - 1).center(), strip.shotRect(0).center() - QPointF(strip.shotRect(0).width() / 2 - 3, 0));
  EXPECT_TRUE(until([&] { return strip.state().shots[0].title == title; })) << strip.state().shots[0].title.toStdString();
}

TEST_F(ManualSteps, OnACamera) {
  QTest::keyClick(bench.get(), Qt::Key_G, Qt::ControlModifier);
  auto& panel = *bench->findChild<QWidget*>("livePanel");
  ASSERT_TRUE(until([&] { return panel.isVisible() && !picture().image().isNull(); }));
  EXPECT_TRUE(trigger("Time Field")) << "edits act while it runs";
  for (const char* const button : {"recordShown", "recordIncoming", "keepLast", "still"}) EXPECT_TRUE(panel.findChild<QPushButton*>(button)->isVisible()) << button;
  QTest::keyClick(bench.get(), Qt::Key_G, Qt::ControlModifier);
  EXPECT_TRUE(until([&] { return !panel.isVisible(); }));
}

TEST_F(ManualSteps, Delivering) {
  open(clip());
  openDialog();
  EXPECT_TRUE(until([&] { return !words("summary").isEmpty(); }));
  setPlace("one.mp4");
  auto& another = *form().findChild<QPushButton*>("another");
  ASSERT_TRUE(until([&] { return another.isEnabled(); }));
  click(another);
  ASSERT_TRUE(until([&] { return rows().size() == 1; }));
  EXPECT_TRUE(form().isVisible());
  setPlace("two.gif");
  chooseCodec("gif");
  ASSERT_TRUE(renders());
  QTest::keyClick(bench.get(), Qt::Key_R, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_TRUE(list().isVisible());
  for (const char* const made : {"one.mp4", "two.gif"}) EXPECT_TRUE(isThere(made)) << made << ": " << rowSays("state", 0).toStdString() << ", " << state().toStdString();
}

}  // namespace
}  // namespace molten::test
