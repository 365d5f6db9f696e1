// Results as footage in the window: projects as shots, chains that become sources, what is kept, other footage, lists, clips of a folder.
#include <fstream>

#include "app/dials/footage_dials.h"
#include "app/files/file_actions.h"
#include "app/findings/misfit_view.h"
#include "app/reel/reel_actions.h"
#include "app/render/render_actions.h"
#include "core/engine/kept_result.h"
#include "core/project/project_file.h"
#include "core/project/reel.h"
#include "reel_fixture.h"

namespace molten {
namespace {

class SourceTest : public test::ReelTest {
 protected:
  std::string saved(const std::string& source, const std::vector<std::string>& chain, const std::string& name) {
    Project project;
    project.source.path = source;
    project.chain = chainOf(chain);
    EXPECT_TRUE(saveProject(project, folder / name));
    return folder / name;
  }
  QString footageSays() {
    QString all;
    for (const QLabel* const label : bench->findChild<FootageDials*>()->findChildren<QLabel*>())
      if (label->isVisible()) all += label->text() + '\n';
    return all;
  }
};

TEST_F(SourceTest, AProjectIsAShotAndAnEditOfItShows) {
  const std::string inner = saved(numbered("b.mkv", 30, true), {}, "inner.molten");
  drop(*bench, {300, 300}, {numbered("a.mkv", 60)});
  ASSERT_TRUE(shows(0));
  bench->findChild<ReelActions*>()->add({QString::fromStdString(inner)});
  ASSERT_TRUE(known(90));
  EXPECT_EQ(titles(), (QStringList{"a", "inner"}));
  QTest::keyClick(&picture(), Qt::Key_End);
  EXPECT_TRUE(shows(65535 - 29));
  EXPECT_EQ(strip().state().taken, 1u);
  EXPECT_TRUE(strip().state().shots[1].note.contains("made as it is shown"));
  // In it only its second half is shown from now on.
  stillFor(80);
  saved(numbered("b.mkv", 30), {"pace:from=0.5s,spans=0.5s@100%"}, "inner.molten");
  ASSERT_TRUE(known(75));
  QTest::keyClick(&picture(), Qt::Key_Home);
  QTest::keyClick(&picture(), Qt::Key_End);
  EXPECT_TRUE(shows(65535 - 29));
  QTest::keyClick(&picture(), Qt::Key_Home);
  click(1);
  EXPECT_TRUE(shows(65535 - 15)) << "its first picture";
}

TEST_F(SourceTest, TheChainBecomesASourceAndComesBack) {
  open(clip());
  ASSERT_TRUE(trigger("Pace"));
  addTimeField();
  bench->document().endGesture();
  const std::string before = projectText(project(), {});
  const auto stages = project().chain;
  // The Pace alone.
  QTest::mouseClick(&chain(), Qt::LeftButton, {}, chain().tileRect(1).center());
  ASSERT_TRUE(trigger("Turn the chain into a source"));
  const std::string source = folder / "clip-source.molten";
  ASSERT_TRUE(std::filesystem::exists(source));
  EXPECT_EQ(project().source.path, source);
  EXPECT_EQ(project().chain, Chain{stages[1]});
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->path() == source; }));
  EXPECT_TRUE(until([&] { return footageSays().contains("the result of a project, made as it is shown"); })) << footageSays().toStdString();
  goTo(40);
  EXPECT_TRUE(shows(numberInField(40)));
  ASSERT_TRUE(trigger("Take the source apart"));
  EXPECT_TRUE(until([&] { return project().chain.size() == 2; }));
  EXPECT_EQ(project().chain, stages);
  EXPECT_TRUE(std::filesystem::exists(source)) << "its file stays";
  bench->document().undoStack().undo();
  bench->document().undoStack().undo();
  EXPECT_EQ(projectText(project(), {}), before);
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->path() == clip(); }));
}

TEST_F(SourceTest, AResultIsKeptUntilSomethingChangesAndSaidSo) {
  const std::string inner = saved(clip(), {"time-field:back=1s"}, "inner.molten");
  Project outer;
  outer.source.path = inner;
  bench->document().newProject(outer);
  ASSERT_TRUE(until([&] { return bench->footage() != nullptr; }));
  goTo(40);
  ASSERT_TRUE(shows(numberInField(40)));
  ASSERT_TRUE(trigger("Keep the source's result"));
  ASSERT_TRUE(until([&] { return currentKept(inner).has_value() && bench->footage() && !bench->footage()->keptIn().empty(); }));
  EXPECT_TRUE(until([&] { return footageSays().contains("kept in inner.kept-"); })) << footageSays().toStdString();
  EXPECT_TRUE(shows(numberInField(40))) << "the playhead stays, and the picture is the same";
  saved(clip(), {}, "inner.molten");
  EXPECT_TRUE(until([&] { return bench->footage() && bench->footage()->keptIn().empty(); }));
  EXPECT_TRUE(shows(40)) << "what has changed is made";
  EXPECT_EQ(keptFiles(inner).size(), 1u);
  ASSERT_TRUE(trigger("Clear what is kept of the source"));
  EXPECT_TRUE(keptFiles(inner).empty());
}

TEST_F(SourceTest, OtherFootageInOneShotOrInAllAndWhatDoesNotFit) {
  drop(*bench, {300, 300}, {numbered("a.mkv", 60), numbered("b.mkv", 30, true), numbered("a.mkv", 60)});
  ASSERT_TRUE(known(150));
  // To 1.5 s.
  bench->document().apply(trimShot(project(), 2, Rational(1, 2), Rational(3, 2)));
  const std::string before = projectText(project(), {});
  answer = "All 2";
  bench->findChild<FileActions*>()->replace(QString::fromStdString(numbered("short.mkv", 24)));
  EXPECT_TRUE(asked.last().contains("2 shots have this footage"));
  ASSERT_TRUE(known(24 + 30 + 9));
  EXPECT_EQ(titles(), (QStringList{"short", "b", "short"}));
  auto& view = *bench->findChild<MisfitView*>();
  ASSERT_TRUE(until([&] { return view.isVisible(); }));
  auto* const remedy = view.findChild<QPushButton*>("remedy");
  ASSERT_TRUE(remedy);
  EXPECT_TRUE(remedy->text().startsWith("End short")) << remedy->text().toStdString();
  QTest::mouseClick(remedy, Qt::LeftButton);
  EXPECT_FALSE(placeOf(project(), 2).to);
  EXPECT_TRUE(until([&] { return !view.isVisible(); })) << "everything fits";
  bench->document().undoStack().undo();
  bench->document().undoStack().undo();
  EXPECT_EQ(projectText(project(), {}), before);
  ASSERT_TRUE(known(60 + 30 + 30));
  answer = "This shot";
  bench->findChild<FileActions*>()->replace(QString::fromStdString(numbered("short.mkv", 24)));
  EXPECT_TRUE(until([&] { return titles() == QStringList({"short", "b", "a"}); }));
}

TEST_F(SourceTest, AllShotsTogetherHaveAChainOfTheirOwn) {
  three();
  const std::string before = projectText(project(), {});
  goTo(20);
  ASSERT_TRUE(shows(20));
  QTest::mouseClick(&strip(), Qt::LeftButton, {}, strip().allRect().center());
  ASSERT_TRUE(until([&] { return strip().state().allTaken; }));
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->clock().frameCount() == 110; }));
  EXPECT_TRUE(shows(20)) << "the playhead stays";
  EXPECT_FALSE(trigger("Remove the shot")) << "no shot is in hand";
  ASSERT_TRUE(trigger("Turn the chain into a source"));
  EXPECT_TRUE(picture().state().corner.contains("take a shot in hand first")) << picture().state().corner.toStdString();
  addTimeField();
  EXPECT_EQ(project().reelChain.size(), 1u);
  EXPECT_TRUE(project().chain.empty());
  EXPECT_TRUE(strip().state().summary.contains("1 stage")) << strip().state().summary.toStdString();
  // 60 pictures of the first, then the second, which shows what its numbers lack.
  goTo(70);
  const auto across = [](int n) {
    int number = 0;
    for (int row = 0; row < 4; ++row) {
      const int at = n - 30 + static_cast<int>(std::floor(30 * (row * 2 + 1) / 8.0 + 0.5));
      number |= (at < 60 ? at : 65535 - (at - 60)) & (15 << (row * 4));
    }
    return number;
  };
  EXPECT_TRUE(shows(across(70))) << "it reads across the cut";
  ASSERT_TRUE(trigger("What comes after it stops at cuts"));
  EXPECT_TRUE(project().stopsAtCuts);
  EXPECT_TRUE(until([&] { return (shownNumber() & 15) == 15 && shownNumber() != across(70); })) << "it reads none of the first";
  ASSERT_TRUE(trigger("What comes after it stops at cuts"));
  EXPECT_TRUE(shows(across(70)));
  // A shot in hand has its own chain again, and is seen with what comes after.
  click(1);
  ASSERT_TRUE(until([&] { return !strip().state().allTaken && strip().state().taken == 1; }));
  EXPECT_TRUE(shows(across(70)));
  ASSERT_TRUE(trigger("All shots: what comes after the last cut"));
  ASSERT_TRUE(until([&] { return strip().state().allTaken; }));
  // An edit of the row while all of it is in hand.
  bench->document().apply(trimShot(project(), 0, Rational(1), std::nullopt));
  EXPECT_TRUE(until([&] { return bench->footage() && bench->footage()->clock().frameCount() == 80; }));
  QTest::keyClick(&picture(), Qt::Key_Space);
  EXPECT_TRUE(until([&] { return strip().state().under == 1; })) << "all of it is played";
  QTest::keyClick(&picture(), Qt::Key_Space);
  while (bench->document().undoStack().canUndo()) bench->document().undoStack().undo();
  EXPECT_EQ(projectText(project(), {}), before);
}

TEST_F(SourceTest, AListIsWrittenAndOpened) {
  three();
  for (const char* name : {"list.otio", "list.edl", "list.csv"}) {
    bench->findChild<ReelActions*>()->writeList(QString::fromStdString(folder / name));
    ASSERT_TRUE(until([&] { return std::filesystem::exists(folder / name); })) << name;
  }
  ASSERT_TRUE(trigger("New"));
  bench->openPath(QString::fromStdString(folder / "list.otio"));
  ASSERT_TRUE(known(110));
  EXPECT_EQ(titles(), (QStringList{"a", "b", "c"}));
  QTest::keyClick(&picture(), Qt::Key_End);
  EXPECT_TRUE(shows(19));
  const std::string before = projectText(project(), {});
  std::ofstream(folder / "bad.otio") << "{}";
  bench->openPath(QString::fromStdString(folder / "bad.otio"));
  EXPECT_TRUE(until([&] { return picture().state().corner.contains("bad.otio cannot be opened"); })) << picture().state().corner.toStdString();
  EXPECT_EQ(projectText(project(), {}), before);
}

TEST_F(SourceTest, KeysPressedWhileAListOfShotsIsOpenedTakeEffect) {
  three();
  bench->findChild<ReelActions*>()->writeList(QString::fromStdString(folder / "list.otio"));
  ASSERT_TRUE(until([&] { return std::filesystem::exists(folder / "list.otio"); }));
  for (int round = 0; round < 20; ++round) {
    ASSERT_TRUE(trigger("New"));
    bench->openPath(QString::fromStdString(folder / "list.otio"));
    // From at once to some milliseconds after: before, while and after the shots become known.
    if (round > 0) QTest::qWait(round - 1);
    QTest::keyClick(&picture(), Qt::Key_End);
    QTest::keyClick(&picture(), Qt::Key_Left);
    ASSERT_TRUE(known(110));
    EXPECT_TRUE(shows(18)) << "in round " << round;
    EXPECT_EQ(strip().state().taken, 2u);
  }
}

TEST_F(SourceTest, TheEndStaysTheEndUntilAllShotsAreKnown) {
  for (int round = 0; round < 5; ++round) {
    ASSERT_TRUE(trigger("New"));
    // The first is longer and the last shorter than the second that a shot is taken to last before it is known.
    drop(*bench, {300, 300}, {numbered("a.mkv", 60), numbered("b.mkv", 45, true), numbered("c.mkv", 20)});
    QTest::keyClick(&picture(), Qt::Key_End);
    ASSERT_TRUE(known(125));
    EXPECT_TRUE(shows(19));
    EXPECT_TRUE(until([&] { return strip().state().taken == 2u; }));
  }
}

TEST_F(SourceTest, KeysPressedWhileAClipIsOpenedTakeEffectInTheirOrder) {
  bench->openPath(QString::fromStdString(clip()));
  ASSERT_FALSE(bench->footage());
  QTest::keyClick(&picture(), Qt::Key_End);
  QTest::keyClick(&picture(), Qt::Key_Left, Qt::ShiftModifier);
  QTest::keyClick(&picture(), Qt::Key_O);
  QTest::keyClick(&picture(), Qt::Key_Left);
  EXPECT_TRUE(shows(48));
  EXPECT_EQ(project().out, 49);
}

TEST_F(SourceTest, KeysPressedForAClipThatCannotBeOpenedAreForgotten) {
  test::writeFile(folder / "broken.mp4", std::string("no clip"));
  bench->openPath(QString::fromStdString(folder / "broken.mp4"));
  QTest::keyClick(&picture(), Qt::Key_End);
  ASSERT_TRUE(until([&] { return bench->findChild<QLabel*>("trouble")->isVisible(); }));
  open(clip());
  EXPECT_TRUE(shows(0));
}

TEST_F(SourceTest, AFolderOfClipsGoesThroughTheChain) {
  open(clip());
  ASSERT_TRUE(trigger("Pace"));
  std::filesystem::create_directory(folder / "in");
  std::filesystem::create_directory(folder / "out");
  test::makeNumberedClip(folder / "in/one.mkv", 20, {64, 64}, "-c:v ffv1");
  test::makeNumberedClip(folder / "in/two.mkv", 10, {64, 64}, "-c:v ffv1");
  test::writeFile(folder / "in/broken.mp4", std::string("no clip"));
  bench->findChild<RenderActions*>()->renderEach(QString::fromStdString(folder / "in"), QString::fromStdString(folder / "out/%s-done.mkv"));
  const RenderQueue& queue = bench->findChild<RenderActions*>()->queue();
  ASSERT_TRUE(until([&] { return queue.entries().size() == 3 && !queue.busy(); }));
  EXPECT_EQ(test::openFootage(folder / "out/one-done.mkv")->clock().frameCount(), 20);
  EXPECT_EQ(test::openFootage(folder / "out/two-done.mkv")->clock().frameCount(), 10);
  std::size_t failed = 0;
  for (const RenderEntry& entry : queue.entries()) failed += entry.state == RenderEntry::State::Failed && entry.sentence.contains("broken.mp4");
  EXPECT_EQ(failed, 1u) << "and the others go on";
}

}  // namespace
}  // namespace molten
