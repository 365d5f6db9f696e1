// A stage that the program has never seen is worked with like its own: all that the window, the file and the command
// line know of it is its description.
#include "support/toy_stage.h"

#include "app/dials/movement_button.h"
#include "bench_fixture.h"
#include "core/project/project_file.h"

namespace molten::test {
namespace {

/// Before the window is made.
struct UnderLean {
  WithLean offered;
};

class ToyStageTest : public UnderLean, public BenchTest {
 protected:
  void SetUp() override {
    BenchTest::SetUp();
    open(clip());
    ASSERT_TRUE(trigger("Lean"));
    stillFor(60);
    ASSERT_EQ(project().chain.back().kind, &lean());
  }
  void typeInto(const char* name, const QString& text) {
    field(name).setFocus();
    field(name).selectAll();
    QTest::keyClicks(&field(name), text);
    QTest::keyClick(&field(name), Qt::Key_Return);
  }
};

TEST_F(ToyStageTest, ItsNumbersAreSetMeasuredAndSeen) {
  EXPECT_EQ(chain().tiles()[1].title, "Lean");
  EXPECT_EQ(chain().tiles()[1].lines[0], "leans ahead");
  goTo(45);
  typeInto("lean", "-1s");
  EXPECT_EQ(chain().tiles()[1].lines[0], "leans back");
  // From a second behind at the top to the present moment at the bottom.
  typeInto("lean", "1s");
  typeInto("pivot", "100%");
  EXPECT_TRUE(shows(numberInField(45)));
  // The field is measured as every other: 180 rows over 30 frames are six to a frame.
  auto* const figure = bench->findChild<QLabel*>("finding Slope");
  ASSERT_TRUE(figure && until([&] { return figure->text().contains("6.0 px"); }));
  // That it reads before the clip is said on the chart.
  EXPECT_TRUE(until([&] { return !chart().grab().isNull() && !chart().remedyRect().isEmpty(); }));
}

/// The window's thread reads the chain once for an edit, and not at all for a movement of the playhead.
TEST_F(ToyStageTest, AnEditWalksTheChainOnce) {
  int walked = walksOfLean();
  typeInto("lean", "-1s");
  stillFor(80);
  EXPECT_EQ(walksOfLean() - walked, 1);
  walked = walksOfLean();
  goTo(40);
  stillFor(80);
  EXPECT_EQ(walksOfLean() - walked, 0);
  walked = walksOfLean();
  bench->document().undoStack().undo();
  stillFor(80);
  EXPECT_EQ(walksOfLean() - walked, 1);
}

TEST_F(ToyStageTest, ItsActionPicksAPlace) {
  goTo(20);
  QTest::mouseClick(&button("pivot-here"), Qt::LeftButton);
  EXPECT_TRUE(picture().state().corner.contains("Click"));
  QTest::mouseClick(&picture(), Qt::LeftButton, {}, picture().toWidget({0.2, 0.75}).toPoint());
  ASSERT_TRUE(until([&] { return bench->document().undoStack().undoText() == "Pivot here"; }));
  EXPECT_NEAR(valueOf<double>(project().chain[0], "pivot"), 0.75, 0.01);
  bench->document().undoStack().undo();
  EXPECT_EQ(valueOf<double>(project().chain[0], "pivot"), 0);
}

TEST_F(ToyStageTest, ItIsKeyedSavedReadAndWrittenInWords) {
  goTo(10);
  QTest::mouseClick(bench->findChild<MovementButton*>("movement lean"), Qt::LeftButton, Qt::ShiftModifier);
  goTo(40);
  typeInto("lean", "-0.5s");
  ASSERT_EQ(project().chain[0].keys.at(0).size(), 2u);
  ASSERT_TRUE(bench->document().save(QString::fromStdString(folder / "lean.molten")));
  const auto saved = loadProject(folder / "lean.molten");
  ASSERT_TRUE(saved) << saved.error().message;
  EXPECT_EQ(saved->chain, project().chain);
  const auto words = parseStage("lean:lean=-2s,pivot=50%", 30);
  ASSERT_TRUE(words) << words.error().message;
  EXPECT_EQ(valueOf<double>(*words, "lean"), -2);
  EXPECT_NE(parseStage("lean:leen=1s", 30).error().message.find("lean"), std::string::npos);
}

}  // namespace
}  // namespace molten::test
