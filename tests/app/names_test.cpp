// The window knows no stage by its name: it works as well when all stages, parameters, cards, choices and actions have
// other names.
#include "app/dials/movement_button.h"
#include "bench_fixture.h"
#include "core/project/project_file.h"
#include "core/stages/loop.h"
#include "core/stages/pace.h"
#include "core/stages/strips.h"
#include "core/stages/time_field.h"
#include "support/renamed_kinds.h"

namespace molten::test {
namespace {

/// Before the window is made.
struct UnderOtherNames {
  RenamedKinds kinds;
};

class NamesTest : public UnderOtherNames, public BenchTest {
 protected:
  const StageDescription& named(const StageKind& own) { return kinds.of(own).description(); }
  void add(const StageKind& own) {
    ASSERT_TRUE(trigger(QString::fromStdString(named(own).label)));
    stillFor(60);
    ASSERT_EQ(project().chain.back().kind, &kinds.of(own));
  }
  /// What a stage's own name for a parameter is now.
  std::string now(const StageKind& own, std::string_view parameter) {
    return named(own).parameters[parameterIndex(own.description(), parameter)].id;
  }
  QString figure(const StageKind& own, const std::string& card) {
    auto* label = bench->findChild<Dials*>()->findChild<QLabel*>(
        QString::fromStdString("finding " + kinds.of(own).newCard(card)));
    return label && label->isVisible() ? label->text() : QString();
  }
  void act(const StageKind& own, std::size_t action) {
    auto* button = bench->findChild<Dials*>()->findChild<QPushButton*>(
        QString::fromStdString(named(own).actions[action].id));
    ASSERT_TRUE(button);
    QTest::mouseClick(button, Qt::LeftButton);
  }
};

TEST_F(NamesTest, AFieldIsSetMeasuredTrimmedPinnedAndKeyed) {
  open(clip());
  add(timeField());
  // What is measured stands on its cards, with what mends it.
  EXPECT_TRUE(until([&] { return figure(timeField(), "Smoothness").contains("6.0 px"); }));
  auto* outside = bench->findChild<QLabel*>("outside");
  ASSERT_TRUE(outside && until([&] { return outside->isVisible(); }));
  EXPECT_TRUE(outside->text().contains("Stand still: the end frame stands still."));
  emit outside->linkActivated("remedy");
  EXPECT_EQ(project().in, 30);
  // Typed, by the name that it has here; keyed by its button.
  auto& back = field(now(timeField(), "back").c_str());
  back.setFocus();
  back.selectAll();
  QTest::keyClicks(&back, "0.5s");
  QTest::keyClick(&back, Qt::Key_Return);
  EXPECT_TRUE(bench->document().undoStack().undoText().startsWith("Value "));
  QTest::mouseClick(bench->findChild<MovementButton*>(QString::fromStdString("movement " + now(timeField(), "back"))),
                    Qt::LeftButton, Qt::ShiftModifier);
  EXPECT_EQ(project().chain[0].keys.size(), 1u);
  bench->document().undoStack().undo();
  // A place is picked for its action.
  goTo(45);
  act(timeField(), 0);
  EXPECT_TRUE(picture().state().corner.contains("Click"));
  QTest::mouseClick(&picture(), Qt::LeftButton, {}, picture().toWidget({0.3, 0.5}).toPoint());
  EXPECT_TRUE(until([&] { return picture().state().handles[0].label.starts_with("holds"); }));
  EXPECT_EQ(bench->document().undoStack().undoText(), QString::fromStdString(named(timeField()).actions[0].label));
  // Saved under those names, and read by them.
  ASSERT_TRUE(bench->document().save(QString::fromStdString(folder / "a.molten")));
  const auto saved = loadProject(folder / "a.molten");
  ASSERT_TRUE(saved) << saved.error().message;
  EXPECT_EQ(saved->chain, project().chain);
}

TEST_F(NamesTest, ALoopIsMeasuredAndFound) {
  open(clip());
  add(loop());
  EXPECT_TRUE(until([&] { return figure(loop(), "Loop length").startsWith("Seam:"); }));
  act(loop(), 0);
  EXPECT_TRUE(until([&] { return picture().state().corner.contains("close best"); }));
}

TEST_F(NamesTest, BordersAreBalanced) {
  open(clip());
  add(strips());
  EXPECT_TRUE(until([&] { return figure(strips(), "Time").startsWith("Balance:"); }));
}

TEST_F(NamesTest, AMarkBeginsThePaceThatThereIs) {
  open(clip());
  goTo(15);
  QTest::keyClick(&picture(), Qt::Key_M);
  stillFor(40);
  ASSERT_EQ(project().chain.size(), 1u);
  EXPECT_EQ(project().chain[0].kind, &kinds.of(pace()));
  EXPECT_EQ(std::get<PaceSpans>(project().chain[0].values[paceParameters().spans.index()]).size(), 2u);
  ASSERT_TRUE(trigger("Freeze here for…"));
  type("1s");
  EXPECT_EQ(pieceNow().length, 90);
}

/// Every kind is added, shown and taken back.
TEST_F(NamesTest, EveryKindIsShown) {
  open(clip("clip.mkv", 24));
  for (const StageKind* kind : stageKinds()) {
    ASSERT_TRUE(trigger(QString::fromStdString(kind->description().label)));
    EXPECT_TRUE(until([&] { return !picture().image().isNull() && picture().state().message.isEmpty(); }));
    stillFor(40);
    ASSERT_TRUE(trigger("Remove"));
  }
  EXPECT_TRUE(project().chain.empty());
}

}  // namespace
}  // namespace molten::test
