// The Chain and the Starters in the real window: adding by typing, moving, renaming, copying, costs, ready chains.
#include <QApplication>
#include <QClipboard>
#include <QInputDialog>
#include <QLabel>
#include <QListWidget>
#include <QTimer>
#include <QToolButton>

#include "app/chain/stage_picker.h"
#include "app/starters/starters_view.h"
#include "bench_fixture.h"
#include "core/project/starter.h"

namespace molten::test {
namespace {

class ChainTest : public BenchTest {
 protected:
  /// A stage is added by typing a part of its name.
  void addByTyping(const QString& typed) {
    chain().setFocus();
    QTest::mouseClick(&chain(), Qt::LeftButton, {}, chain().addRect().center());
    auto* picker = bench->findChild<StagePicker*>();
    ASSERT_TRUE(picker);
    QTest::keyClicks(picker->field(), typed);
    QTest::keyClick(picker->field(), Qt::Key_Return);
    bench->activateWindow();
    QTest::qWait(20);
    stillFor(40);
  }
  static std::vector<std::string> idsOf(const Chain& chain) {
    std::vector<std::string> found;
    for (const Stage& stage : chain) found.push_back(stage.kind->description().id);
    return found;
  }
  std::vector<std::string> ids() { return idsOf(project().chain); }
  void type(const char* id, const QString& text) {
    field(id).setFocus();
    field(id).selectAll();
    QTest::keyClicks(&field(id), text);
    QTest::keyClick(&field(id), Qt::Key_Return);
    stillFor(60);
  }
  /// Answers the next question for a text.
  void answer(const QString& text) {
    QTimer::singleShot(50, [text] {
      auto* dialog = qobject_cast<QInputDialog*>(QApplication::activeModalWidget());
      if (!dialog) return;
      dialog->setTextValue(text);
      dialog->accept();
    });
  }
  QToolButton* tile(const QString& name) { return bench->findChild<QToolButton*>("starter " + name); }
};

TEST_F(ChainTest, StagesAreFoundByTyping) {
  open(clip());
  addByTyping("ech");
  addByTyping("loo");
  // Not in a name, but in what it does.
  addByTyping("blurred as if filmed");
  EXPECT_EQ(ids(), (std::vector<std::string>{"echoes", "loop", "shutter"}));
  // Nothing is found, nothing is added.
  QTest::mouseClick(&chain(), Qt::LeftButton, {}, chain().addRect().center());
  auto* picker = bench->findChild<StagePicker*>();
  QTest::keyClicks(picker->field(), "zzz");
  EXPECT_EQ(picker->list()->count(), 0);
  QTest::keyClick(picker->field(), Qt::Key_Escape);
  EXPECT_EQ(project().chain.size(), 3u);
}

TEST_F(ChainTest, TwelveStagesAreMovedSwitchedRenamedAndTakenBack) {
  open(clip());
  for (const char* const name :
       {"strips", "echoes", "slit", "step", "loop", "pace", "time f", "shutter", "echoes", "strips", "time f", "frame"})
    addByTyping(name);
  ASSERT_EQ(project().chain.size(), 12u);
  ASSERT_EQ(bench->width(), 1280);
  // All tiles lie side by side within the window, none over another, each wide enough for some letters.
  for (std::size_t i = 0; i < chain().tiles().size(); ++i) {
    const QRect box = chain().tileRect(i);
    EXPECT_GE(box.width(), 60) << i;
    EXPECT_LE(box.right(), chain().width());
    EXPECT_GT(box.left(), i > 0 ? chain().tileRect(i - 1).right() : 0) << i;
  }
  // The first to the end, by hand. What is selected opens wide.
  QTest::mouseClick(&chain(), Qt::LeftButton, {}, chain().tileRect(1).center());
  drag(chain(), chain().tileRect(1).center(), chain().tileRect(12).center() + QPoint(30, 0));
  stillFor(40);
  EXPECT_EQ(ids().back(), "strips");
  EXPECT_EQ(ids().front(), "echoes");
  // And back a place by keys.
  QTest::keyClick(bench.get(), Qt::Key_Left, Qt::ControlModifier | Qt::ShiftModifier);
  EXPECT_EQ(ids()[10], "strips");
  QTest::keyClick(&chain(), Qt::Key_Return);
  EXPECT_FALSE(project().chain[10].on);
  answer("Night and day");
  QTest::mouseDClick(&chain(), Qt::LeftButton, {}, chain().tileRect(11).center());
  EXPECT_EQ(project().chain[10].name, "Night and day");
  EXPECT_EQ(chain().tiles()[11].title, "Night and day");
  EXPECT_EQ(bench->document().undoStack().undoText(), "Rename to Night and day");
  bench->activateWindow();
  QTest::qWait(20);
  for (int i = 0; i < 4; ++i) QTest::keyClick(bench.get(), Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ(ids().front(), "strips");
  EXPECT_EQ(project().chain.size(), 12u);
}

/// Between projects, as text that can be read and written by hand.
TEST_F(ChainTest, StagesAreCopiedAndPastedAsText) {
  open(clip());
  addByTyping("echoes");
  QTest::mouseClick(&button("mix=light"), Qt::LeftButton);
  answer("Ghost");
  ASSERT_TRUE(trigger("Rename…"));
  ASSERT_TRUE(trigger("Copy as text"));
  const Stage copied = project().chain[0];
  EXPECT_TRUE(QApplication::clipboard()->text().contains("\"mix\": \"light\""));
  ASSERT_TRUE(trigger("Remove"));
  ASSERT_TRUE(trigger("New"));
  open(clip("other.mkv"));
  ASSERT_TRUE(project().chain.empty());
  ASSERT_TRUE(trigger("Paste stages"));
  ASSERT_EQ(project().chain.size(), 1u);
  EXPECT_TRUE(project().chain[0] == copied);
  QApplication::clipboard()->setText("loop\nstrips:count=5,stagger=3f\n");
  ASSERT_TRUE(trigger("Paste stages"));
  EXPECT_EQ(ids(), (std::vector<std::string>{"echoes", "loop", "strips"}));
  EXPECT_EQ(bench->document().undoStack().undoText(), "Paste 2 stages");
  QApplication::clipboard()->setText("what somebody has written");
  ASSERT_TRUE(trigger("Paste stages"));
  EXPECT_EQ(project().chain.size(), 3u);
}

TEST_F(ChainTest, EachTileSaysWhatItCosts) {
  open(clip());
  addByTyping("echoes");
  addByTyping("time f");
  ASSERT_TRUE(until([&] { return !chain().tiles()[2].cost.isEmpty(); }));
  EXPECT_TRUE(chain().tiles()[1].cost.endsWith(" ms"));
  EXPECT_TRUE(chain().tiles()[1].reach);
  // One that is off costs nothing and says nothing.
  QTest::keyClick(bench.get(), Qt::Key_B, Qt::ControlModifier);
  ASSERT_TRUE(until([&] { return !chain().tiles()[1].cost.isEmpty(); }));
  EXPECT_TRUE(chain().tiles()[2].cost.isEmpty());
}

/// Two strips: the left half shows the present number's bits, the right one those of ten frames before.
TEST_F(ChainTest, StripsAreSetByTyping) {
  open(clip());
  goTo(40);
  addByTyping("strips");
  type("count", "2");
  type("stagger", "10f");
  EXPECT_TRUE(shows((40 & 0x3333) | (30 & 0xcccc)));
  QTest::mouseClick(&button("now-stands-at=last"), Qt::LeftButton);
  EXPECT_TRUE(shows((30 & 0x3333) | (40 & 0xcccc)));
  EXPECT_EQ(bench->document().undoStack().undoText(), "Now stands at Last strip");
  // The balance is measured, and said.
  auto& finding = *bench->findChild<QLabel*>("finding Time");
  EXPECT_TRUE(until([&] { return finding.text().startsWith("Balance: neighbours differ by"); }));
  // After a Loop the result is a loop, and its seam is said too.
  addByTyping("loop");
  QTest::keyClick(bench.get(), Qt::Key_Left, Qt::ControlModifier | Qt::ShiftModifier);
  QTest::keyClick(bench.get(), Qt::Key_2);
  EXPECT_TRUE(until([&] { return bench->findChild<QLabel*>("finding Time")->text().contains("Seam"); }));
}

/// One repeat as bright as the present: where either is bright, it is bright.
TEST_F(ChainTest, EchoesAreSetByTypingAndClicking) {
  open(clip());
  goTo(40);
  addByTyping("echoes");
  type("repeats", "1");
  type("spacing", "10f");
  type("nearest", "100%");
  EXPECT_TRUE(shows(40 | 30));
  QTest::mouseClick(&button("winner=darkest"), Qt::LeftButton);
  EXPECT_TRUE(shows(40 & 30));
  QTest::mouseClick(&button("direction=ahead"), Qt::LeftButton);
  EXPECT_TRUE(shows(40 & 50));
  QTest::mouseClick(&button("where-moments-are-missing=trim"), Qt::LeftButton);
  EXPECT_EQ(pieceNow().length, 50);
}

/// A still of any length: shown as long as it is, and rendered to one file.
TEST_F(ChainTest, AStripPhotographIsOnePicture) {
  open(clip());
  addByTyping("slit");
  QTest::mouseClick(&button("slit=stands"), Qt::LeftButton);
  QTest::mouseClick(&button("result=one-picture"), Qt::LeftButton);
  type("picture-length", "1200px");
  EXPECT_EQ(pieceNow().length, 1);
  ASSERT_TRUE(until([&] { return picture().image().width() > 3 * picture().image().height(); }));
  QTest::keyClick(bench.get(), Qt::Key_R, Qt::ControlModifier);
  auto* dialog = bench->findChild<RenderDialog*>();
  ASSERT_TRUE(dialog);
  EXPECT_TRUE(dialog->findChild<QLineEdit*>("place")->text().endsWith("-molten.png"));
  const std::string file = folder / "strip.png";
  dialog->findChild<QLineEdit*>("place")->setText(QString::fromStdString(file));
  QTest::mouseClick(dialog->findChild<QPushButton*>("render"), Qt::LeftButton);
  ASSERT_TRUE(until([&] { return std::filesystem::exists(file); }));
  EXPECT_EQ(QImage(QString::fromStdString(file)).size(), QSize(1200, 180));
}

TEST_F(ChainTest, AStarterIsLaidUnderTheFootage) {
  open(clip());
  addByTyping("echoes");
  ASSERT_TRUE(trigger("Starters…"));
  // Each shows what it makes of this clip: pictures come in, and differ.
  ASSERT_TRUE(until([&] { return tile("Crossing slit") && tile("Day fan"); }));
  const auto shown = [&](const char* name) { return tile(name)->icon().pixmap(tile(name)->iconSize()).toImage(); };
  const auto bright = [&](const char* name) {
    const QImage image = shown(name);
    int most = 0;
    for (int y = 0; y < image.height(); y += 3)
      for (int x = 0; x < image.width(); x += 3) most = std::max(most, qGray(image.pixel(x, y)));
    return most > 100;
  };
  ASSERT_TRUE(until([&] { return bright("Twist") && bright("Day fan") && bright("Race and rest"); }));
  EXPECT_NE(shown("Twist"), shown("Day fan"));
  QTest::mouseClick(tile("Day fan"), Qt::LeftButton);
  bench->activateWindow();
  QTest::qWait(20);
  EXPECT_EQ(ids(), (std::vector<std::string>{"loop", "strips"}));
  EXPECT_EQ(bench->document().undoStack().undoText(), "Starter Day fan");
  EXPECT_TRUE(pieceNow().endless);
  QTest::keyClick(bench.get(), Qt::Key_Z, Qt::ControlModifier);
  EXPECT_EQ(ids(), (std::vector<std::string>{"echoes"}));
}

TEST_F(ChainTest, AStarterOfOnesOwnIsKeptAndShared) {
  open(clip());
  addByTyping("time f");
  answer("My twist");
  ASSERT_TRUE(trigger("Save as starter…"));
  const std::string file = folder / "starters/My twist.molten-starter";
  ASSERT_TRUE(std::filesystem::exists(file));
  ASSERT_TRUE(trigger("Starters…"));
  ASSERT_TRUE(tile("My twist"));
  ASSERT_TRUE(trigger("Remove"));
  // As a file that somebody has sent.
  bench->openPath(QString::fromStdString(file));
  EXPECT_EQ(ids(), (std::vector<std::string>{"time-field"}));
}

/// Under a name that is kept already: not replaced unasked, and as it was unless that is wanted.
TEST_F(ChainTest, AStarterOverAnotherAsks) {
  open(clip());
  addByTyping("time f");
  answer("My twist");
  ASSERT_TRUE(trigger("Save as starter…"));
  EXPECT_TRUE(asked.isEmpty());
  const auto kept = [&] {
    const auto starter = loadStarter(folder / "starters/My twist.molten-starter");
    return starter ? idsOf(starter->chain) : std::vector<std::string>();
  };
  addByTyping("echoes");
  BenchTest::answer = "Cancel";
  answer("My twist");
  ASSERT_TRUE(trigger("Save as starter…"));
  EXPECT_EQ(asked, QStringList{"A starter called My twist is kept already."});
  EXPECT_EQ(kept(), (std::vector<std::string>{"time-field"}));
  BenchTest::answer = "Replace it";
  answer("My twist");
  ASSERT_TRUE(trigger("Save as starter…"));
  EXPECT_EQ(kept(), ids());
  // A name that would be a folder is none.
  answer("Yard/west");
  ASSERT_TRUE(trigger("Save as starter…"));
  EXPECT_TRUE(std::filesystem::exists(folder / "starters/Yard-west.molten-starter"));
  answer("");
  ASSERT_TRUE(trigger("Save as starter…"));
  EXPECT_EQ(std::distance(std::filesystem::directory_iterator(folder / "starters"), {}), 2);
}

}  // namespace
}  // namespace molten::test
