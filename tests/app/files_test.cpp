// What the window reads and writes, where somebody else reads and writes too.
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <QLockFile>
#include <QMimeData>
#include <fstream>

#include "app/document/document.h"
#include "app/findings/misfit_view.h"
#include "app/log/log_view.h"
#include "bench_fixture.h"
#include "core/field/painting.h"
#include "core/files/read_file.h"
#include "core/project/project_file.h"
#include "core/project/starter.h"
#include "save_over_and_over.h"

namespace molten {
namespace {

using test::BenchTest;

class FilesOfTheWindow : public BenchTest {
 protected:
  /// A project that is open, saved, and then changed by another window.
  void openAndChangeElsewhere() {
    open(clip());
    addTimeField();
    mine = QString::fromStdString(folder / "a.molten");
    ASSERT_TRUE(bench->document().save(mine));
    Project theirs = project();
    theirs.in = 5;
    Document other(QString::fromStdString(folder / "other"));
    ASSERT_TRUE(other.open(mine));
    other.apply(setSpan(other.project(), 5, 20, "In and out"));
    ASSERT_TRUE(other.save(mine));
    apply(20);
  }
  void apply(std::int64_t out) { bench->document().apply(setSpan(project(), 2, out, "In and out")); }
  std::optional<std::int64_t> savedIn(const QString& path) { return loadProject(path.toStdString())->in; }
  QString mine;
};

TEST_F(FilesOfTheWindow, ASaveOverAnothersAsks) {
  openAndChangeElsewhere();
  answer = "Cancel";
  EXPECT_FALSE(bench->save());
  ASSERT_EQ(asked.size(), 1);
  EXPECT_TRUE(asked[0].contains("a.molten was changed since it was read here"));
  EXPECT_EQ(savedIn(mine), 5) << "theirs is still there";
  EXPECT_TRUE(bench->document().modified()) << "and mine is here";

  answer = "Save mine beside it";
  bench->save();
  EXPECT_EQ(savedIn(mine), 5);
  EXPECT_EQ(savedIn(QString::fromStdString(folder / "a-2.molten")), 2);
  EXPECT_EQ(bench->document().title(), "a-2.molten");
  asked.clear();
  apply(30);
  EXPECT_TRUE(bench->save());
  EXPECT_TRUE(asked.isEmpty()) << "nobody else has written this one";
}

TEST_F(FilesOfTheWindow, TakingWhatIsThereOrKeepingMine) {
  openAndChangeElsewhere();
  answer = "Take what is there";
  bench->save();
  EXPECT_EQ(project().in, 5);
  EXPECT_FALSE(bench->document().modified());
  apply(33);
  EXPECT_TRUE(bench->save());
  Document other(QString::fromStdString(folder / "other"));
  ASSERT_TRUE(other.open(mine));
  other.apply(setSpan(other.project(), 7, 20, "In and out"));
  ASSERT_TRUE(other.save(mine));
  apply(40);
  answer = "Keep mine";
  EXPECT_TRUE(bench->save());
  EXPECT_EQ(savedIn(mine), 2);
}

TEST_F(FilesOfTheWindow, AFileThatHasGoneAsksToo) {
  open(clip());
  addTimeField();
  mine = QString::fromStdString(folder / "a.molten");
  ASSERT_TRUE(bench->document().save(mine));
  std::filesystem::remove(mine.toStdString());
  apply(20);
  answer = "Keep mine";
  EXPECT_TRUE(bench->save());
  EXPECT_TRUE(asked[0].contains("is not there any more"));
  EXPECT_EQ(savedIn(mine), 2);
}

TEST_F(FilesOfTheWindow, AStarterIsLaidUnderTheFootageThatThereIs) {
  open(clip());
  const Starter starter{"Mine", "what it does", bench->footage()->video(), {*parseStage("loop", 30)}};
  ASSERT_TRUE(saveStarter(starter, folder / "mine.molten-starter"));
  bench->openPath(QString::fromStdString(folder / "mine.molten-starter"));
  EXPECT_TRUE(bench->footage());
  ASSERT_EQ(project().chain.size(), 1u);
  EXPECT_EQ(project().source.path, clip());
}

TEST_F(FilesOfTheWindow, DamagedFramesAreSaidOnceAndShown) {
  test::makeNoiseClip(folder / "noise.mkv", 40, {160, 120}, "yuv420p", "-c:v ffv1 -level 3 -slicecrc 1");
  std::fstream file(folder / "noise.mkv", std::ios::in | std::ios::out | std::ios::binary);
  file.seekp(static_cast<std::streamoff>(std::filesystem::file_size(folder / "noise.mkv") / 2));
  file << "damage";
  file.close();
  open(folder / "noise.mkv");
  auto* log = bench->findChild<LogView*>();
  for (std::int64_t n = 0; n < 40 && bench->footage()->faults().empty(); ++n) {
    goTo(n);
    stillFor(20);
  }
  ASSERT_TRUE(until([&] { return !log->lines().empty(); }));
  const auto frames = bench->footage()->faults().frames();
  ASSERT_EQ(frames.size(), 1u);
  EXPECT_EQ(log->lines()[0].sentence, QString("Frame %1 of noise.mkv is damaged: what could be saved is shown.")
                                          .arg(frames[0]));
  goTo(0);
  ASSERT_TRUE(trigger("Log"));
  ASSERT_TRUE(log->isVisible());
  QTest::mouseClick(log->findChild<QPushButton*>("where faults 0"), Qt::LeftButton);
  EXPECT_TRUE(until([&] { return scrubber().state().marked == std::vector<std::int64_t>{frames[0]}; }));
  EXPECT_EQ(scrubber().state().frame, frames[0]);
  // The mark is seen above the track.
  const QImage shown = scrubber().grab().toImage();
  const int x = static_cast<int>(scrubber().xOf(frames[0] + 1)) - 4;  // beside the playhead
  EXPECT_EQ(shown.pixelColor(x, 3), QColor(0xff, 0xd2, 0x4a));
}

TEST_F(FilesOfTheWindow, AClipReplacedWhileItIsShownIsSaid) {
  memory = std::size_t(1) << 21;  // some of its frames, never all
  makeBench();
  open(clip("a.mkv", 60));
  test::makeNumberedClip(folder / "b.mkv", 60, {320, 180}, "-c:v ffv1");
  std::filesystem::rename(folder / "b.mkv", folder / "a.mkv");
  auto* log = bench->findChild<LogView*>();
  QTest::keyClick(&picture(), Qt::Key_Space);
  // Of the frames that are decoded, and of the clip itself, in whatever order.
  for (const char* words : {"had changed", "has been changed, cut short or taken away"})
    EXPECT_TRUE(until([&] {
      return std::any_of(log->lines().begin(), log->lines().end(), [&](const LogLine& line) { return line.sentence.contains(words); });
    })) << words;
}

TEST_F(FilesOfTheWindow, WhatNoLongerFitsOtherFootageIsSaid) {
  open(clip("long.mkv", 90));
  const std::string other = clip("short.mkv", 20);
  const Stage keyed = *parseStage("time-field:back=0.1s@0s+0.2s@2.5s", 30);
  bench->document().apply(insertStages(project(), 0, {keyed}, "A field"));
  apply(40);
  bench->openPath(QString::fromStdString(other));
  ASSERT_TRUE(until([&] { return bench->footage() && bench->footage()->path() == other; }));
  auto* log = bench->findChild<LogView*>();
  ASSERT_TRUE(until([&] { return log->lines().size() == 1; }));
  const QString said = log->lines()[0].sentence;
  auto* misfits = bench->findChild<MisfitView*>();
  ASSERT_TRUE(until([&] { return misfits->isVisible(); }));
  const auto labels = misfits->findChildren<QLabel*>();
  EXPECT_TRUE(std::any_of(labels.begin(), labels.end(), [](auto* label) { return label->text().contains("and the result has 20 now"); }));
  EXPECT_TRUE(said.contains("Time Field: keys lie past the end of the new clip (1).")) << said.toStdString();
  EXPECT_FALSE(said.contains("loop"));
}

TEST(LeftByOthers, IsClearedAtTheNextStart) {
  const test::TempFolder folder;
  const QString autosaves = QString::fromStdString(folder / "autosave");
  const pid_t child = fork();
  if (child == 0) {
    Document document(autosaves);  // a lock, and no work yet
    _exit(0);
  }
  int ended = 0;
  ASSERT_EQ(waitpid(child, &ended, 0), child);
  ASSERT_EQ(QDir(autosaves).entryList(QDir::Files).size(), 1);
  Document mine(autosaves);
  Document::clearLeftovers(autosaves);
  const QStringList left = QDir(autosaves).entryList(QDir::Files);
  ASSERT_EQ(left.size(), 1);
  EXPECT_FALSE(Document::findLostWork(autosaves)) << "the one that is left is this run's";
}

TEST(LeftByOthers, WorkOfARunThatWasEndedIsOffered) {
  const test::TempFolder folder;
  const QString autosaves = QString::fromStdString(folder / "autosave");
  const pid_t child = fork();
  if (child == 0) {
    auto* document = new Document(autosaves);
    document->apply(addStage(document->project(), *stageKinds()[0]));
    document->keepForNextStart();
    delete document;
    _exit(0);
  }
  int ended = 0;
  ASSERT_EQ(waitpid(child, &ended, 0), child);
  Document::clearLeftovers(autosaves);
  const auto lost = Document::findLostWork(autosaves);
  ASSERT_TRUE(lost);
  Document mine(autosaves);
  ASSERT_TRUE(mine.restore(*lost));
  EXPECT_EQ(mine.project().chain.size(), 1u);
}

/// What was changed by others between the end of a run and the restore of its work is not saved over unasked.
TEST(LeftByOthers, RestoredWorkKnowsWhatItsFileWas) {
  const test::TempFolder folder;
  const QString autosaves = QString::fromStdString(folder / "autosave"), path = QString::fromStdString(folder / "a.molten");
  const auto changed = [&](double level) {
    ASSERT_TRUE(saveProject(test::paintedProject(level), path.toStdString()));
  };
  for (const bool byOthers : {false, true}) {
    changed(0.3);
    const pid_t child = fork();
    if (child == 0) {
      auto* document = new Document(autosaves);
      if (!document->open(path)) _exit(1);
      document->apply(addStage(document->project(), *stageKinds()[0]));
      document->keepForNextStart();
      _exit(0);
    }
    int ended = 0;
    ASSERT_EQ(waitpid(child, &ended, 0), child);
    if (byOthers) changed(0.8);
    const auto lost = Document::findLostWork(autosaves);
    ASSERT_TRUE(lost);
    EXPECT_EQ(lost->path, path);
    Document mine(autosaves);
    ASSERT_TRUE(mine.restore(*lost));
    EXPECT_EQ(mine.project().chain.size(), 2u);
    EXPECT_EQ(mine.changedOnDisk(), byOthers);
  }
}

/// Saving over and over on a process of its own, killed at some moment, twenty times: the file is the old one or the new
/// one, with all its paintings. `save` writes a dot on the standard output for each save, and does not return.
void killSaves(const test::TempFolder& folder, const std::string& path, const std::function<void()>& save) {
  const Project one = test::paintedProject(test::paintedLevels[0]), other = test::paintedProject(test::paintedLevels[1]);
  ASSERT_TRUE(saveProject(one, path));
  std::mt19937 random(3);
  int olds = 0, news = 0;
  for (int round = 0; round < 20; ++round) {
    int begun[2];
    ASSERT_EQ(pipe(begun), 0);
    const pid_t child = fork();
    if (child == 0) {
      dup2(begun[1], 1);
      save();
      _exit(1);
    }
    close(begun[1]);
    // At some save, and some way into the next one.
    char dot;
    for (auto saves = 1 + random() % 6; saves > 0; --saves) ASSERT_EQ(::read(begun[0], &dot, 1), 1);
    for (auto turns = random() % 200'000; turns > 0; --turns) asm volatile("");
    kill(child, SIGKILL);
    int ended = 0;
    waitpid(child, &ended, 0);
    close(begun[0]);
    EXPECT_TRUE(WIFSIGNALED(ended)) << "a save failed";
    const auto now = loadProject(path);
    ASSERT_TRUE(now) << now.error().message;
    if (now->chain == one.chain)
      ++olds;
    else if (now->chain == other.chain)
      ++news;
    else
      FAIL() << "neither the one nor the other";
  }
  EXPECT_GT(olds, 0);
  EXPECT_GT(news, 0);
  ASSERT_TRUE(saveProject(one, path));
  auto names = folder.names();
  std::erase(names, "autosave");
  EXPECT_LE(names.size(), 3u) << "the project and both paintings: what the kills left has gone";
}

TEST(LeftByOthers, ASaveThatIsKilledLosesNothing) {
  const test::TempFolder folder;
  const std::string path = folder / "a.molten";
  const Project projects[] = {test::paintedProject(test::paintedLevels[0]), test::paintedProject(test::paintedLevels[1])};
  killSaves(folder, path, [&] {
    for (int i = 0; saveProject(projects[i++ % 2], path) && ::write(1, ".", 1) == 1;);
  });
}

TEST(LeftByOthers, AWindowThatIsKilledWhileItSavesLosesNothing) {
  const test::TempFolder folder;
  const std::string path = folder / "a.molten", word(test::saveOverAndOverWord);
  killSaves(folder, path, [&] { execl("/proc/self/exe", "app-tests", word.c_str(), path.c_str(), nullptr); });
}

}  // namespace
}  // namespace molten
