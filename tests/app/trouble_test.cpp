// What the window cannot do it says, where it was asked for, and nothing is lost by it.
#include <QClipboard>
#include <cerrno>

#include "bench_fixture.h"
#include "core/files/disk.h"
#include "core/files/read_file.h"
#include "core/project/project_file.h"

namespace molten {
namespace {

using test::BenchTest;

class TroubleInTheWindow : public BenchTest {
 protected:
  /// What stands in the window to be read, all of it.
  QString words() {
    QStringList all;
    for (const auto* label : bench->findChildren<QLabel*>())
      if (label->isVisible()) all << label->text();
    all << picture().state().message << picture().state().corner;
    return all.join('\n');
  }
  /// Every call of one kind fails as if the disk were full, for files whose name holds this.
  static disk::Fault full(disk::Call call, const std::string& name) {
    return [=](disk::Call made, const std::string& path) {
      return made == call && path.find(name) != std::string::npos ? ENOSPC : 0;
    };
  }
};

/// Whatever of a save fails: it is said, the file is as it was, and the work is still there to be saved elsewhere.
TEST_F(TroubleInTheWindow, ASaveThatFailsIsSaidAndLosesNothing) {
  open(clip());
  addTimeField();
  const std::string path = folder / "a.molten";
  ASSERT_TRUE(bench->document().save(QString::fromStdString(path)));
  const std::string before = *readWhole(path, 1 << 20);
  bench->document().apply(setSpan(project(), 5, 20, "In and out"));
  for (const disk::Call call : {disk::Call::Create, disk::Call::Write, disk::Call::Sync, disk::Call::Rename}) {
    {
      const disk::Faults faults(full(call, "a.molten"));
      EXPECT_FALSE(bench->save());
    }
    EXPECT_TRUE(words().contains("There is no room left for a.molten")) << static_cast<int>(call);
    EXPECT_EQ(*readWhole(path, 1 << 20), before);
    EXPECT_TRUE(bench->document().modified());
    EXPECT_EQ(project().in, 5);
  }
  EXPECT_TRUE(bench->save());
  EXPECT_EQ(loadProject(path)->in, 5);
}

/// What is no footage and no project, dropped on work that is open: said, and the work is as it was.
TEST_F(TroubleInTheWindow, WhatCannotBeOpenedLeavesWhatIsOpen) {
  open(clip());
  addTimeField();
  const Project before = project();
  std::ofstream(folder / "broken.molten") << R"({"format": 2, "shots": 7})";
  std::ofstream(folder / "broken.molten-starter") << "{";
  std::ofstream(folder / "future.molten") << R"({"format": 99})";
  for (const char* name : {"broken.molten", "broken.molten-starter", "future.molten", "none.molten"}) {
    asked.clear();
    bench->openPath(QString::fromStdString(folder / name));
    EXPECT_TRUE(words().contains(name)) << name << "\n" << words().toStdString();
    EXPECT_EQ(project(), before) << name;
    EXPECT_TRUE(bench->footage()) << name;
  }
}

/// A painting that has gone from beside the project is named, and painting anew is possible.
TEST_F(TroubleInTheWindow, APaintingThatIsMissingIsNamed) {
  open(clip());
  Project painted = project();
  painted.chain = {paintedField({320, 180}, {40, 0.5, 0.5}, {20, 20}, {300, 160})};
  bench->document().apply({"Paint", painted, {}});
  const QString path = QString::fromStdString(folder / "a.molten");
  ASSERT_TRUE(bench->document().save(path));
  std::string painting;
  for (const auto& name : folder.names())
    if (name.find("-painted-") != std::string::npos) painting = name;
  ASSERT_FALSE(painting.empty());
  std::filesystem::remove(folder / painting);
  bench.reset();
  makeBench();
  bench->openPath(path);
  ASSERT_TRUE(until([&] { return words().contains(QString::fromStdString(painting)); })) << words().toStdString();
  EXPECT_EQ(project().chain.size(), 1u);
}

/// Text that is no chain is refused in a sentence when it is pasted.
TEST_F(TroubleInTheWindow, PastedTextThatIsNoChainIsSaid) {
  open(clip());
  for (const char* text : {"time-field:back=never", "no-such-stage", "{\"stage\":", ""}) {
    QApplication::clipboard()->setText(text);
    trigger("Paste stages");
    EXPECT_TRUE(project().chain.empty()) << text;
    if (*text) {
      EXPECT_TRUE(until([&] { return words().contains("What was copied is no stage: "); })) << text << "\n" << words().toStdString();
    }
  }
}

}  // namespace
}  // namespace molten
