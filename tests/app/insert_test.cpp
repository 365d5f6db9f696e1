// Insert in the real window: chosen, keyed by a colour that is picked, its own chain entered and left.
#include <QDir>
#include <QFileDialog>
#include <QInputDialog>
#include <QLabel>
#include <QPlainTextEdit>
#include <QTimer>

#include "app/chart/key_lanes.h"
#include "app/dials/movement_button.h"
#include "app/files/missing_view.h"
#include "bench_fixture.h"
#include "core/project/project_file.h"

namespace molten::test {
namespace {

class InsertInWindow : public BenchTest {
 protected:
  /// A white square before green cloth, three seconds at 30 a second.
  std::string green() {
    const std::string path = folder / "green.mkv";
    if (!std::filesystem::exists(path)) {
      const auto made = runCommand("ffmpeg -v error -f lavfi -i color=c=0x3d9650:s=320x180:r=30:d=3,drawbox=x=120:y=60:w=80:h=60:color=white:t=fill -c:v ffv1 -pix_fmt gbrp " + path);
      EXPECT_EQ(made.exitCode, 0) << made.err;
    }
    return path;
  }
  /// An Insert with that as its source, selected.
  void insertGreen() {
    ASSERT_TRUE(trigger("Insert"));
    set("source", QString::fromStdString(green()));
  }
  void set(const char* name, const QString& words) {
    QTest::mouseClick(&field(name), Qt::LeftButton, {}, field(name).rect().center());
    QTest::keyClicks(&field(name), words);
    QTest::keyClick(&field(name), Qt::Key_Return);
    stillFor(60);
  }
  QColor shownAt(double x, double y) {
    const QImage image = picture().image();
    return image.pixelColor(static_cast<int>(x * image.width()), static_cast<int>(y * image.height()));
  }
  /// About: what is shown went through a file's colours.
  ::testing::AssertionResult near(QColor is, QColor wanted) {
    const int off = std::max({std::abs(is.red() - wanted.red()), std::abs(is.green() - wanted.green()), std::abs(is.blue() - wanted.blue())});
    if (off <= 6) return ::testing::AssertionSuccess();
    return ::testing::AssertionFailure() << is.name().toStdString() << " is not " << wanted.name().toStdString();
  }
  const Stage& insertStage() { return project().chain.back(); }
  void pickAt(double x, double y) {
    QTest::mouseClick(&button("pick-the-key-colour"), Qt::LeftButton);
    stillFor(60);
    QTest::mouseClick(&picture(), Qt::LeftButton, {}, picture().toWidget({x, y}).toPoint());
    stillFor(60);
  }
  const QColor cloth{0x3d, 0x96, 0x50};
};

TEST_F(InsertInWindow, ItsColourIsPickedOnThePictureAndCutOut) {
  open(clip());
  insertGreen();
  EXPECT_TRUE(near(shownAt(0.1, 0.1), cloth)) << "all of the source lies over the picture";
  pickAt(0.1, 0.1);
  EXPECT_EQ(chosenOf(insertStage(), "key"), "colour");
  const Colour picked = valueOf<Colour>(insertStage(), "key-colour");
  EXPECT_TRUE(near(QColor(picked.red, picked.green, picked.blue), cloth));
  EXPECT_FALSE(near(shownAt(0.1, 0.1), cloth)) << "the cloth is cut out";
  EXPECT_TRUE(near(shownAt(0.5, 0.5), Qt::white)) << "what stands before it is there";
  // Picked again it is shown as it is meanwhile; Escape leaves all as it was.
  QTest::mouseClick(&button("pick-the-key-colour"), Qt::LeftButton);
  EXPECT_TRUE(picture().state().corner.contains("colour"));
  EXPECT_TRUE(until([&] { return static_cast<bool>(near(shownAt(0.1, 0.1), cloth)); }));
  QTest::keyClick(&picture(), Qt::Key_Escape);
  EXPECT_TRUE(until([&] { return !near(shownAt(0.1, 0.1), cloth); }));
  // One step of undo.
  bench->document().undoStack().undo();
  EXPECT_EQ(chosenOf(insertStage(), "key"), "nothing");
}

TEST_F(InsertInWindow, TheMatteAndTheFigureAreShownAndSaidOf) {
  open(clip());
  insertGreen();
  pickAt(0.1, 0.1);
  QTest::mouseClick(&button("view=matte"), Qt::LeftButton);
  stillFor(60);
  EXPECT_TRUE(near(shownAt(0.1, 0.1), Qt::black));
  EXPECT_TRUE(near(shownAt(0.5, 0.5), Qt::white));
  bool said = false;
  for (const QLabel* const label : bench->findChild<Dials*>()->findChildren<QLabel*>()) said |= label->isVisible() && label->text().contains("what a render shows too");
  EXPECT_TRUE(said);
  QTest::mouseClick(&button("view=figure"), Qt::LeftButton);
  stillFor(60);
  EXPECT_TRUE(near(shownAt(0.1, 0.1), QColor(102, 102, 102)));
}

TEST_F(InsertInWindow, ItIsPlacedByItsHandles) {
  open(clip());
  insertGreen();
  const auto handles = [&] { return picture().state().handles; };
  ASSERT_EQ(handles().size(), 2u);
  drag(picture(), picture().toWidget(handles()[0].place), picture().toWidget({0.25, 0.75}));
  stillFor(60);
  EXPECT_NEAR(valueOf<Place>(insertStage(), "at").x, 0.25, 0.01);
  EXPECT_NEAR(valueOf<Place>(insertStage(), "at").y, 0.75, 0.01);
  // Half as far from its middle, straight down: half as large, a quarter turned.
  const double far = (handles()[1].place.x - handles()[0].place.x) * 320;
  drag(picture(), picture().toWidget(handles()[1].place), picture().toWidget({0.25, 0.75 + far / 2 / 180}));
  stillFor(60);
  EXPECT_NEAR(valueOf<double>(insertStage(), "scale"), 0.5, 0.02);
  EXPECT_NEAR(valueOf<double>(insertStage(), "turn"), 90, 2);
}

TEST_F(InsertInWindow, ItsOwnChainIsEnteredAndLeft) {
  open(clip());
  insertGreen();
  goTo(40);
  ASSERT_EQ(chain().tiles()[1].branch.toStdString(), "chain ›");
  QTest::mouseClick(&chain(), Qt::LeftButton, {}, chain().branchRect(1).center());
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->path() == green(); }));
  stillFor(80);
  // It is the Bench of that source: footage, playhead, Picture.
  EXPECT_EQ(chain().branchOf().toStdString(), "Insert");
  ASSERT_EQ(chain().tiles().size(), 2u);
  EXPECT_TRUE(chain().tiles()[0].lines[0].startsWith("green.mkv"));
  EXPECT_TRUE(near(shownAt(0.1, 0.1), cloth));
  ASSERT_TRUE(trigger("Finish"));
  set("saturation", "0%");
  const QColor gray = shownAt(0.1, 0.1);
  EXPECT_NEAR(gray.green(), gray.red(), 3);
  ASSERT_EQ(project().chain.size(), 1u);
  ASSERT_EQ(project().chain[0].branch.size(), 1u);
  // What is the shot's is refused in a sentence, and changes nothing.
  QTest::keyClick(&picture(), Qt::Key_I);
  EXPECT_FALSE(project().in);
  EXPECT_TRUE(picture().state().corner.contains("whole shot")) << picture().state().corner.toStdString();
  ASSERT_TRUE(trigger("Render…"));
  EXPECT_TRUE(picture().state().corner.contains("leave the chain")) << picture().state().corner.toStdString();
  EXPECT_EQ(bench->findChild<RenderDialog*>(), nullptr);
  QTest::mouseClick(&chain(), Qt::LeftButton, {}, chain().leaveRect().center());
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->path() == clip(); }));
  stillFor(80);
  EXPECT_TRUE(chain().branchOf().isEmpty());
  EXPECT_EQ(chain().tiles()[1].branch.toStdString(), "1 stage ›");
  EXPECT_TRUE(picture().state().title.contains("00:01:10")) << picture().state().title.toStdString();
  // What was done in there is seen from here.
  EXPECT_TRUE(near(shownAt(0.1, 0.1), gray));
}

TEST_F(InsertInWindow, UndoOfWhatOneIsInLeadsBackOut) {
  open(clip());
  insertGreen();
  ASSERT_TRUE(trigger("Go into its own chain"));
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->path() == green(); }));
  ASSERT_TRUE(trigger("Step Rate"));
  EXPECT_EQ(project().chain[0].branch.size(), 1u);
  bench->document().undoStack().undo();
  EXPECT_FALSE(chain().branchOf().isEmpty());
  EXPECT_TRUE(project().chain[0].branch.empty());
  // The source goes, and its chain with it.
  bench->document().undoStack().undo();
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->path() == clip(); }));
  EXPECT_TRUE(chain().branchOf().isEmpty());
  bench->document().undoStack().undo();
  EXPECT_TRUE(project().chain.empty());
}

/// A source that is the footage itself is there already; the playhead stands where it stood.
TEST_F(InsertInWindow, TheFootageLaidOverItselfIsEnteredAndLeft) {
  open(clip());
  ASSERT_TRUE(trigger("Insert"));
  set("source", QString::fromStdString(clip()));
  goTo(40);
  ASSERT_TRUE(trigger("Go into its own chain"));
  EXPECT_FALSE(chain().branchOf().isEmpty());
  ASSERT_TRUE(trigger("Leave this chain"));
  EXPECT_TRUE(picture().state().title.contains("00:01:10")) << picture().state().title.toStdString();
  goTo(20);
  stillFor(60);
  bench->openPath(QString::fromStdString(clip("other.mkv", 60)));
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->path() != clip(); }));
  EXPECT_FALSE(picture().state().title.contains("00:01:10")) << "no playhead of before comes back";
}

TEST_F(InsertInWindow, OtherFootageInItsChainIsAnotherSource) {
  open(clip());
  insertGreen();
  ASSERT_TRUE(trigger("Go into its own chain"));
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->path() == green(); }));
  const std::string other = clip("other.mkv", 20);
  bench->openPath(QString::fromStdString(other));
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->path() == other; }));
  EXPECT_EQ(valueOf<std::string>(project().chain[0], "source"), other);
  EXPECT_EQ(project().source.path, clip());
}

TEST_F(InsertInWindow, AProjectAsASourceIsOpenedToBeChanged) {
  open(clip());
  Project inner;
  inner.source.path = green();
  ASSERT_TRUE(saveProject(inner, folder / "inner.molten"));
  ASSERT_TRUE(trigger("Insert"));
  set("source", QString::fromStdString(folder / "inner.molten"));
  EXPECT_TRUE(near(shownAt(0.1, 0.1), cloth));
  ASSERT_TRUE(trigger("Go into its own chain"));
  EXPECT_TRUE(picture().state().corner.contains("inner.molten is a project")) << picture().state().corner.toStdString();
  EXPECT_TRUE(chain().branchOf().isEmpty());
  // Its file changes: so does what is shown, when it is looked at again.
  inner.chain.push_back(*parseStage("finish:saturation=0%", 30));
  ASSERT_TRUE(saveProject(inner, folder / "inner.molten"));
  EXPECT_TRUE(until([&] {
    const QColor now = shownAt(0.1, 0.1);
    return std::abs(now.red() - now.green()) < 4;
  }));
}

TEST_F(InsertInWindow, ATitleThatMeltsTakesTenActs) {
  int acts = 0;
  open(clip()), ++acts;
  ASSERT_TRUE(trigger("Insert"));
  ++acts;
  QTest::mouseClick(&button("shows=title"), Qt::LeftButton), ++acts;
  auto* const words = bench->findChild<QPlainTextEdit*>("text");
  ASSERT_NE(words, nullptr);
  ASSERT_TRUE(words->isVisible());
  words->selectAll();
  QTest::keyClicks(words, "MELT"), ++acts;
  stillFor(60);
  EXPECT_EQ(valueOf<std::string>(insertStage(), "text"), "MELT");
  EXPECT_TRUE(chain().tiles()[1].lines[0].contains("MELT"));
  goTo(30), ++acts;
  stillFor(60);
  const QImage plain = picture().image();
  ASSERT_TRUE(trigger("Time Field"));
  ++acts;
  QTest::mouseClick(&button("shape=noise"), Qt::LeftButton), ++acts;
  stillFor(80);
  EXPECT_LE(acts, 10);
  EXPECT_FALSE(picture().image() == plain);
  // All that was typed is one step of undo.
  bench->document().undoStack().undo();
  bench->document().undoStack().undo();
  bench->document().undoStack().undo();
  EXPECT_EQ(valueOf<std::string>(insertStage(), "text"), "Title");
}

/// A title that is bent by itself, in the chain of clear pictures; the picture below stays.
TEST_F(InsertInWindow, ATitleIsBentByItselfInClearPictures) {
  open(clip());
  const QImage plain = picture().image();
  ASSERT_TRUE(trigger("Insert"));
  stillFor(60);
  QTest::mouseClick(&button("shows=title"), Qt::LeftButton);
  stillFor(60);
  const QImage titled = picture().image();
  QTest::mouseClick(&button("lay-into-clear-pictures"), Qt::LeftButton);
  stillFor(60);
  EXPECT_EQ(bench->document().undoStack().undoText(), "Lay into clear pictures");
  ASSERT_EQ(picture().image().size(), titled.size());
  const auto farthestOff = [&] {
    int most = 0;
    for (int y = 0; y < titled.height(); y += 3)
      for (int x = 0; x < titled.width(); x += 3)
        most = std::max(most, std::abs(picture().image().pixelColor(x, y).green() - titled.pixelColor(x, y).green()));
    return most;
  };
  EXPECT_TRUE(until([&] { return farthestOff() <= 4; })) << "it looks as it did, but for " << farthestOff();
  QTest::keyClick(&picture(), Qt::Key_Down, Qt::ControlModifier);
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->name() == "blank"; }));
  stillFor(60);
  EXPECT_EQ(picture().image().pixelColor(2, 2).alpha(), 0);
  addTimeField();
  QTest::keyClick(&picture(), Qt::Key_Up, Qt::ControlModifier);
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->name() == "clip.mkv"; }));
  stillFor(80);
  EXPECT_TRUE(picture().state().message.isEmpty()) << picture().state().message.toStdString();
  EXPECT_EQ(insertStage().branch.size(), 2u);
  EXPECT_EQ(picture().image().pixelColor(2, 2), plain.pixelColor(2, 2));
  EXPECT_FALSE(picture().image() == plain);
}

/// A project of nothing is begun from the menu, by its words.
TEST_F(InsertInWindow, BlankFootageIsOpenedFromTheMenu) {
  QTimer answers;
  QObject::connect(&answers, &QTimer::timeout, [&] {
    auto* const box = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
    if (!box) return;
    box->findChild<QLineEdit*>()->setText("400x300@30:3s");
    QTest::keyClick(box->findChild<QLineEdit*>(), Qt::Key_Return);
  });
  answers.start(20);
  ASSERT_TRUE(trigger("Blank footage…"));
  answers.stop();
  ASSERT_TRUE(until([&] { return bench->footage() && !picture().image().isNull(); }));
  EXPECT_EQ(bench->footage()->clock().frameCount(), 90);
  EXPECT_EQ(project().source.path, "blank:400x300@30:3s");
  EXPECT_FALSE(bench->document().modified());
  // It lies in no folder: what is rendered is offered at home, and another one may be named as a source.
  ASSERT_TRUE(trigger("Render…"));
  const auto place = [&] { return bench->findChild<RenderDialog*>()->findChild<QLineEdit*>("place")->text(); };
  EXPECT_EQ(place(), QDir::home().filePath("blank-molten.mp4"));
  bench->findChild<RenderDialog*>()->reject();
  ASSERT_TRUE(trigger("Insert"));
  set("source", "blank:200x100@25:1s");
  EXPECT_EQ(valueOf<std::string>(insertStage(), "source"), "blank:200x100@25:1s");
  EXPECT_TRUE(picture().state().message.isEmpty()) << picture().state().message.toStdString();
}

/// Guides stand where a title begins and ends, and another one holds to them.
TEST_F(InsertInWindow, TitlesHoldToTheGuidesOfOthers) {
  open(clip());
  Project titled = project();
  for (const char* const words : {"insert:shows=title,text=HHHH,at=0.4x0.3,letters=12%", "insert:shows=title,text=HH,at=0.75x0.7,letters=12%"})
    titled.chain.push_back(*parseStage(words, 30));
  bench->document().apply({"Titles", titled, {}});
  QTest::keyClick(&picture(), Qt::Key_2);
  stillFor(60);
  auto guides = picture().state().guides;
  ASSERT_EQ(guides.size(), 8u) << "two each way of two titles";
  const auto leftOf = [](const std::vector<Guide>& all, std::size_t title) { return all[2 * title].from.x; };
  ASSERT_EQ(guides[0].from.x, guides[0].to.x);
  // Dragged until its left side is a few pixels off that of the other.
  const Place handle = picture().state().handles[0].place;
  const QPointF from = picture().toWidget(handle);
  const double wide = picture().toWidget({1, 1}).x() - picture().toWidget({0, 0}).x();
  const double by = (leftOf(guides, 0) - leftOf(guides, 1)) * wide + 5;
  drag(picture(), from, from + QPointF(by, 9));
  stillFor(60);
  guides = picture().state().guides;
  EXPECT_NEAR(leftOf(guides, 1), leftOf(guides, 0), 1e-9);
  // Farther off nothing holds.
  const QPointF again = picture().toWidget(picture().state().handles[0].place);
  drag(picture(), again, again + QPointF(22, 0));
  stillFor(60);
  guides = picture().state().guides;
  EXPECT_GT(std::abs(leftOf(guides, 1) - leftOf(guides, 0)) * wide, 12);
  // They are there with an Insert alone.
  ASSERT_TRUE(trigger("Finish"));
  stillFor(60);
  EXPECT_TRUE(picture().state().guides.empty());
}

/// A clip that is laid in is outlined where it is seen, and holds to a title's sides as another title does.
TEST_F(InsertInWindow, AClipIsOutlinedAndHoldsToGuides) {
  open(clip());
  Project laid = project();
  for (const std::string& words : {std::string("insert:shows=title,text=HHHH,at=0.4x0.3,letters=12%"),
                                   "insert:at=0.7x0.6,scale=20%,crop-left=50%,source=" + green()})
    laid.chain.push_back(*parseStage(words, 30));
  bench->document().apply({"Laid", laid, {}});
  QTest::keyClick(&picture(), Qt::Key_2);
  ASSERT_TRUE(until([&] { return picture().state().guides.size() == 8; })) << "two each way of the title, and four sides";
  // 320 × 180 laid whole over as much at a fifth, of which the right half is left.
  const auto outline = [&] { return std::span(picture().state().guides).subspan(4, 4); };
  EXPECT_NEAR(outline()[0].from.x, 0.7, 1e-6);
  EXPECT_NEAR(outline()[0].to.x, 0.8, 1e-6);
  EXPECT_NEAR(outline()[1].to.y - outline()[1].from.y, 0.2, 1e-6);
  // Dragged until its left side is a few pixels off the title's right one.
  const double right = picture().state().guides[1].from.x;
  const double wide = picture().toWidget({1, 1}).x() - picture().toWidget({0, 0}).x();
  const QPointF from = picture().toWidget(picture().state().handles[0].place);
  drag(picture(), from, from + QPointF((right - 0.7) * wide - 4, 30));
  stillFor(60);
  EXPECT_NEAR(outline()[0].from.x, right, 1e-6);
  // Another clip in its place has another shape, when that is known.
  set("source", QString::fromStdString(clip("tall.mkv")));
  EXPECT_TRUE(until([&] { return picture().state().guides.size() == 8; }));
}

/// From nothing: the world stops, its colour drains, and what is laid in goes on.
TEST_F(InsertInWindow, TheStoppedWorldWithAWalkerTakesTwentyFiveActs) {
  int acts = 0;
  const auto act = [&](bool done) {
    ASSERT_TRUE(done) << "act " << acts;
    ++acts;
    stillFor(40);
  };
  open(clip("clip.mkv", 120)), ++acts;
  goTo(30), ++acts;
  act(trigger("Freeze here for…"));
  type("2s"), ++acts;
  act(trigger("Finish"));
  QTest::mouseClick(bench->findChild<MovementButton*>("movement saturation"), Qt::LeftButton), ++acts;
  QTest::qWait(20);
  bench->findChild<QAbstractButton*>("add follow")->click(), ++acts;
  QTest::qWait(20);
  bench->findChild<QAbstractButton*>("close movement")->click(), ++acts;
  act(trigger("Insert"));
  set("source", QString::fromStdString(green())), ++acts;
  set("starts-at", "1s"), ++acts;
  pickAt(0.1, 0.1), acts += 2;
  EXPECT_LE(acts, 25);
  ASSERT_EQ(project().chain.size(), 3u);
  goTo(60);
  stillFor(60);
  EXPECT_TRUE(near(shownAt(0.5, 0.5), Qt::white));
  EXPECT_FALSE(near(shownAt(0.1, 0.1), cloth));
  goTo(10);
  stillFor(60);
  EXPECT_FALSE(near(shownAt(0.45, 0.55), Qt::white) && near(shownAt(0.55, 0.45), Qt::white)) << "it has not come in yet";
}

/// A project whose folder has been renamed says so, and one file that is shown mends all; by the boxes and their keys.
TEST_F(InsertInWindow, MissingFilesAreListedAndFoundTogether) {
  std::filesystem::create_directory(folder / "was");
  const std::string under = clip("was/under.mkv"), over = clip("was/over.mkv");
  Project both;
  both.source.path = under;
  both.chain = chainOf({"insert:scale=50%,source=" + over});
  ASSERT_TRUE(saveProject(both, folder / "both.molten"));
  std::filesystem::rename(folder / "was", folder / "now");
  bench->openPath(QString::fromStdString(folder / "both.molten"));
  auto* const list = bench->findChild<MissingView*>();
  ASSERT_TRUE(until([&] { return list->isVisible(); }));
  EXPECT_TRUE(bench->isActiveWindow()) << "keys go on doing what they do";
  QStringList words;
  for (const QLabel* label : list->findChildren<QLabel*>()) words << label->text();
  EXPECT_TRUE(words.contains("under.mkv · Footage")) << words.join('\n').toStdString();
  EXPECT_TRUE(words.contains("over.mkv · Insert")) << words.join('\n').toStdString();
  // What stands in the box is answered when it is there.
  QTimer answers;
  QObject::connect(&answers, &QTimer::timeout, [&] {
    auto* const box = qobject_cast<QFileDialog*>(QApplication::activeModalWidget());
    if (!box) return;
    box->findChild<QLineEdit*>("fileNameEdit")->setText(QString::fromStdString(folder / "now/over.mkv"));
    QTest::keyClick(box->findChild<QLineEdit*>("fileNameEdit"), Qt::Key_Return);
  });
  answers.start(20);
  QTest::mouseClick(list->findChild<QPushButton*>("find over.mkv"), Qt::LeftButton);
  answers.stop();
  ASSERT_TRUE(until([&] { return bench->footage() && !list->isVisible(); }));
  EXPECT_EQ(project().source.path, folder / "now/under.mkv");
  EXPECT_EQ(valueOf<std::string>(insertStage(), "source"), folder / "now/over.mkv");
  EXPECT_EQ(bench->document().undoStack().undoText(), "Find over.mkv and 1 other");
  stillFor(60);
  EXPECT_TRUE(picture().state().message.isEmpty()) << picture().state().message.toStdString();
  // Nothing is missing any more, and that is said when it is asked.
  QStringList sentences;
  QObject::connect(bench->findChild<Session*>(), &Session::said, [&](const QString& sentence) { sentences << sentence; });
  ASSERT_TRUE(trigger("Missing files…"));
  EXPECT_TRUE(until([&] { return sentences.contains("Every file that the project reads is there."); }));
}

}  // namespace
}  // namespace molten::test
