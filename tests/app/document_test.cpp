// Steps of undo, gestures, and the autosave.
#include "app/document/document.h"

#include <QDir>
#include <QSignalSpy>
#include <QTest>

#include "core/project/project_file.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

class DocumentTest : public ::testing::Test {
 protected:
  DocumentTest() : document(autosaves()) { document.apply(addStage(document.project(), *findStageKind("time-field"))); }

  QString autosaves() const { return QString::fromStdString(folder / "autosave"); }
  std::size_t at(const char* id) const { return parameterIndex(document.project().chain[0].kind->description(), id); }
  void setBack(double seconds) { document.apply(setValue(document.project(), 0, at("back"), seconds)); }
  double back() const { return valueOf<double>(document.project().chain[0], "back"); }
  QStringList saved() const { return QDir(autosaves()).entryList({"*.molten"}, QDir::Files); }

  test::TempFolder folder;
  Document document;
};

TEST_F(DocumentTest, OneGestureIsOneStepTwoAreTwo) {
  const int before = document.undoStack().count();
  for (double s = 0.1; s < 0.5; s += 0.1) setBack(s);
  EXPECT_EQ(document.undoStack().count(), before + 1);
  document.endGesture();
  setBack(2);
  EXPECT_EQ(document.undoStack().count(), before + 2);
  EXPECT_EQ(document.undoStack().undoText(), "Back 2.000 s");
  document.undoStack().undo();
  EXPECT_NEAR(back(), 0.4, 1e-9);
  document.undoStack().undo();
  EXPECT_EQ(back(), 1);
  document.undoStack().redo();
  EXPECT_NEAR(back(), 0.4, 1e-9);
}

TEST_F(DocumentTest, OtherValuesAndChoicesAreStepsOfTheirOwn) {
  const int before = document.undoStack().count();
  setBack(0.3);
  document.apply(setValue(document.project(), 0, at("ahead"), 0.3));
  document.apply(setValue(document.project(), 0, at("past-the-ends"), std::size_t{1}));
  document.apply(setValue(document.project(), 0, at("past-the-ends"), std::size_t{2}));
  EXPECT_EQ(document.undoStack().count(), before + 4);
  // What changes nothing is no step.
  document.apply(setValue(document.project(), 0, at("past-the-ends"), std::size_t{2}));
  EXPECT_EQ(document.undoStack().count(), before + 4);
}

TEST_F(DocumentTest, SavingEndsAGestureAndClears) {
  QSignalSpy titles(&document, &Document::titleChanged);
  setBack(0.3);
  EXPECT_TRUE(document.modified());
  ASSERT_TRUE(document.save(QString::fromStdString(folder / "a.molten")));
  EXPECT_FALSE(document.modified());
  EXPECT_EQ(document.title(), "a.molten");
  EXPECT_GT(titles.count(), 0);
  // The same gesture goes on: going back must lead to what was saved.
  setBack(0.4);
  document.undoStack().undo();
  EXPECT_EQ(back(), 0.3);
  EXPECT_FALSE(document.modified());
}

TEST_F(DocumentTest, TheOutputIsRememberedWithoutBeingAStep) {
  const int before = document.undoStack().count();
  OutputSettings output;
  output.codec = "ffv1";
  document.setOutput(output);
  EXPECT_EQ(document.undoStack().count(), before);
  setBack(0.2);
  document.undoStack().undo();
  EXPECT_EQ(document.project().output.codec, "ffv1");
}

TEST_F(DocumentTest, AutosavesByItselfAndCleansUp) {
  EXPECT_TRUE(saved().isEmpty());
  setBack(0.7);
  for (int i = 0; i < 500 && saved().isEmpty(); ++i) QTest::qWait(10);
  ASSERT_EQ(saved().size(), 1);
  const auto kept = loadProject((autosaves() + "/" + saved()[0]).toStdString());
  ASSERT_TRUE(kept);
  EXPECT_EQ(kept->chain, document.project().chain);
  ASSERT_TRUE(document.save(QString::fromStdString(folder / "a.molten")));
  EXPECT_TRUE(saved().isEmpty());
}

TEST_F(DocumentTest, AnAutosaveThatFailsIsSaid) {
  QSignalSpy failed(&document, &Document::autosaveFailed);
  QDir(autosaves()).removeRecursively();
  setBack(0.7);
  document.autosaveNow();
  ASSERT_EQ(failed.count(), 1);
  EXPECT_TRUE(failed[0][0].toString().contains("could not be autosaved"));
}

TEST_F(DocumentTest, AFileThatIsNoProjectChangesNothing) {
  setBack(0.7);
  const Project before = document.project();
  EXPECT_FALSE(document.open(QString::fromStdString(folder / "none.molten")));
  EXPECT_EQ(document.project(), before);
  EXPECT_TRUE(document.undoStack().canUndo());
}

}  // namespace
}  // namespace molten
