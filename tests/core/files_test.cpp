// Files that are written and read: each write, sync and rename made to fail in turn, leftovers, what is no file.
#include <sys/stat.h>
#include <sys/wait.h>
#include <unistd.h>

#include <cerrno>
#include <filesystem>
#include <fstream>

#include "core/engine/render_job.h"
#include "core/files/disk.h"
#include "core/files/read_file.h"
#include "core/files/safe_file.h"
#include "core/project/project_file.h"
#include "core/project/starter.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

/// Every file of a folder with what it holds.
std::map<std::string, std::string> contentsOf(const TempFolder& folder) {
  std::map<std::string, std::string> all;
  for (const std::string& name : folder.names()) {
    std::ifstream in(folder / name, std::ios::binary);
    all[name] = {std::istreambuf_iterator<char>(in), {}};
  }
  return all;
}

/// Makes every call by which `act` writes fail in turn; it has to say so, and to leave everything as it was. Gives back
/// how many calls there are.
int failAtEachCall(const TempFolder& folder, const std::function<Status()>& act) {
  const auto before = contentsOf(folder);
  for (int failing = 0;; ++failing) {
    int calls = 0;
    Status done;
    {
      const disk::Faults faults([&](disk::Call call, const std::string&) {
        // What cannot be removed is left, and is no failure of the save.
        if (call == disk::Call::Remove) return 0;
        return calls++ == failing ? ENOSPC : 0;
      });
      done = act();
    }
    if (calls <= failing) {
      EXPECT_TRUE(done) << done.error().message;
      return failing;
    }
    EXPECT_FALSE(done) << "call " << failing;
    if (!done) {
      EXPECT_NE(done.error().message.find("room left"), std::string::npos) << done.error().message;
    }
    EXPECT_TRUE(contentsOf(folder) == before) << "call " << failing;
    if (::testing::Test::HasFailure()) return -1;
  }
}

Project painted(double level) {
  Project project;
  project.source.path = "/films/gather.mp4";
  const Brush brush{9, 0.7, level};
  project.chain = {paintedField({70, 40}, brush, {10, 10}, {60, 30}), paintedField({70, 40}, brush, {10, 10}, {60, 5})};
  return project;
}

TEST(ASave, IsOneActWhateverFails) {
  const TempFolder folder;
  ASSERT_TRUE(saveProject(painted(0.4), folder / "a.molten"));
  const auto before = contentsOf(folder);
  const Project next = painted(0.9);
  // Two paintings and the project: create, write, sync, each, and three names.
  EXPECT_EQ(failAtEachCall(folder, [&] { return saveProject(next, folder / "a.molten"); }), 12);
  EXPECT_FALSE(contentsOf(folder) == before);
  EXPECT_EQ(folder.names().size(), 5u) << "a save deletes nothing, not even paintings that nothing names any more";
  EXPECT_TRUE(loadProject(folder / "a.molten")->chain == next.chain);
}

TEST(ASave, OfAStarterIsOneActToo) {
  const TempFolder folder;
  Starter starter;
  starter.name = "Mine";
  starter.madeFor.size = {640, 360};
  starter.chain = painted(0.4).chain;
  ASSERT_TRUE(saveStarter(starter, folder / "a.molten-starter"));
  starter.chain = painted(0.9).chain;
  EXPECT_EQ(failAtEachCall(folder, [&] { return saveStarter(starter, folder / "a.molten-starter"); }), 12);
  const auto loaded = loadStarter(folder / "a.molten-starter");
  ASSERT_TRUE(loaded);
  EXPECT_TRUE(loaded->chain == starter.chain);
}

TEST(ASave, WithOnePaintingMissingNamesTwoFiles) {
  const TempFolder folder;
  ASSERT_TRUE(saveProject(painted(0.4), folder / "a.molten"));
  const auto whole = loadProject(folder / "a.molten");
  const std::string saved = projectText(*whole, folder.path().string());
  const std::string gone = saved.substr(saved.find("a-painted-"), 30);
  std::filesystem::remove(folder / gone);
  const auto without = loadProject(folder / "a.molten");
  ASSERT_TRUE(without);
  ASSERT_TRUE(saveProject(*without, folder / "a.molten"));
  const auto text = *readWhole(folder / "a.molten", 1 << 20);
  const auto first = text.find("a-painted-"), second = text.find("a-painted-", first + 1);
  EXPECT_EQ(text.substr(first, 30), gone);
  EXPECT_NE(text.substr(second, 30), gone) << "the other one is still its own";
  EXPECT_TRUE(std::filesystem::exists(folder / text.substr(second, 30)));
}

/// A copy of a project names the same paintings; saving the one leaves the other whole.
TEST(ASave, LeavesWhatAnotherProjectNames) {
  const TempFolder folder;
  ASSERT_TRUE(saveProject(painted(0.4), folder / "a.molten"));
  std::filesystem::copy(folder / "a.molten", folder / "copy.molten");
  ASSERT_TRUE(saveProject(painted(0.9), folder / "a.molten"));
  EXPECT_TRUE(loadProject(folder / "copy.molten")->chain == painted(0.4).chain);
  EXPECT_EQ(folder.names().size(), 6u);
}

TEST(ASave, ThroughALinkLeavesTheLink) {
  const TempFolder folder;
  std::filesystem::create_directory(folder / "real");
  ASSERT_TRUE(saveProject(painted(0.4), folder / "real/a.molten"));
  std::filesystem::create_symlink("real/a.molten", folder / "link.molten");
  Project project = painted(0.4);
  project.in = 7;
  ASSERT_TRUE(saveProject(project, folder / "link.molten"));
  EXPECT_TRUE(std::filesystem::is_symlink(folder / "link.molten"));
  EXPECT_EQ(loadProject(folder / "real/a.molten")->in, 7);
}

TEST(ARender, IsOneActWhateverFails) {
  const TempFolder clips, folder;
  test::makeNumberedClip(clips / "a.mkv", 4, {128, 96}, "-c:v ffv1");
  RenderSettings settings;
  settings.footage = test::openFootage(clips / "a.mkv");
  settings.project.source.path = clips / "a.mkv";
  settings.threads = 1;
  for (const char* const name : {"o.mkv", "o.mp4", "o.mov", "o.webm", "o-%03d.png", "o-%03d.tif", "o-%03d.exr"}) {
    settings.project.output.path = folder / name;
    settings.project.chain = {};
    ASSERT_TRUE(render(settings, {}, {})) << name;
    settings.project.chain = {*parseStage("pace:from=0.08s,spans=0.1s@100%", 25)};
    const auto act = [&]() -> Status {
      const auto done = render(settings, {}, {});
      return done ? Status() : Status(done.error());
    };
    EXPECT_GT(failAtEachCall(folder, act), 3) << name;
  }
  // A time map and its scale belong together.
  settings.timeMap = TimeMapUnit::Frames;
  settings.project.output.path = folder / "m-%03d.png";
  ASSERT_TRUE(render(settings, {}, {}));
  settings.project.chain = {*parseStage("time-field:back=0.04s", 25)};
  EXPECT_GT(failAtEachCall(folder,
                           [&]() -> Status {
                             const auto done = render(settings, {}, {});
                             return done ? Status() : Status(done.error());
                           }),
            12);
}

TEST(ARender, WritesOverNothingThatTheProjectReads) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mkv", 4, {128, 96}, "-c:v ffv1");
  test::makeNumberedClip(folder / "still-%03d.png", 4, {128, 96}, "");
  test::makeNumberedClip(folder / "field.png", 1, {128, 96}, "");
  test::makeNumberedClip(folder / "other.mkv", 4, {128, 96}, "-c:v ffv1");
  std::filesystem::create_hard_link(folder / "a.mkv", folder / "twin.mkv");
  std::filesystem::create_directory(folder / "stills");
  for (int n = 1; n <= 4; ++n)
    std::filesystem::copy(folder / ("still-00" + std::to_string(n) + ".png"), folder / "stills");
  const auto before = folder.names();
  const auto refuses = [&](const std::string& source, const std::string& stage, const std::string& output,
                           std::optional<Span> pictures = {}) {
    RenderSettings settings;
    settings.pictures = pictures;
    settings.footage = test::openFootage(folder / source);
    settings.project.source.path = folder / source;
    if (!stage.empty()) settings.project.chain = {*parseStage(stage, 25)};
    settings.project.versionB = Chain{*parseStage("time-field:shape=picture,file=" + folder / "other.mkv", 25)};
    settings.project.output.path = folder / output;
    const auto done = outlineRender(settings);
    return !done && done.error().message.find("part of what the project reads") != std::string::npos;
  };
  const std::string field = "time-field:shape=picture,file=" + folder / "field.png";
  EXPECT_TRUE(refuses("a.mkv", "", "a.mkv"));
  EXPECT_TRUE(refuses("a.mkv", "", "twin.mkv")) << "another name of the same file";
  EXPECT_TRUE(refuses("a.mkv", "", "other.mkv")) << "version B's";
  EXPECT_TRUE(refuses("still-%03d.png", "", "still-%03d.png"));
  EXPECT_TRUE(refuses("still-%03d.png", "", "still-1%03d.png")) << "would become one of them";
  EXPECT_TRUE(refuses("stills", "", "stills/new-%04d.png"));
  EXPECT_TRUE(refuses("a.mkv", field, "field.png", Span{0, 0})) << "a field's picture";
  EXPECT_FALSE(refuses("a.mkv", field, "result.mkv"));
  EXPECT_FALSE(refuses("still-%03d.png", "", "result-%03d.png"));
  EXPECT_EQ(folder.names(), before);
}

/// What waited for its turn: files that were agreed to are replaced and no others, and what is open meanwhile is spared.
TEST(ARender, ReplacesNoMoreThanWasAgreedTo) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mkv", 4, {128, 96}, "-c:v ffv1");
  test::makeNumberedClip(folder / "b.mkv", 4, {128, 96}, "-c:v ffv1");
  RenderSettings settings;
  settings.footage = test::openFootage(folder / "a.mkv");
  settings.project.source.path = folder / "a.mkv";
  settings.project.output.path = folder / "s-%02d.png";
  for (const char* name : {"s-01.png", "s-03.png"}) std::ofstream(folder / name) << name;
  auto outline = outlineRender(settings);
  ASSERT_TRUE(outline);
  EXPECT_EQ(outline->replaced, 2);
  EXPECT_EQ(outline->firstReplaced, "s-01.png");
  EXPECT_EQ(outline->lastReplaced, "s-03.png");
  settings.mayReplace = 1;
  const auto refused = render(settings, {}, {});
  ASSERT_FALSE(refused);
  EXPECT_NE(refused.error().message.find("s-03.png has come to be there"), std::string::npos);
  EXPECT_EQ(*readWhole(folder / "s-01.png", 100), "s-01.png");
  settings.mayReplace = 2;
  EXPECT_TRUE(render(settings, {}, {}));
  settings.mayReplace.reset();
  settings.project.output.path = folder / "b.mkv";
  EXPECT_TRUE(outlineRender(settings));
  settings.open.emplace();
  settings.open->source.path = folder / "b.mkv";
  const auto open = outlineRender(settings);
  ASSERT_FALSE(open);
  EXPECT_NE(open.error().message.find("part of what the project reads"), std::string::npos);
  EXPECT_EQ(test::openFootage(folder / "b.mkv")->clock().frameCount(), 4);
}

/// What cannot be written is known before anything is rendered.
TEST(ARender, FindsAPlaceThatIsNoneEarly) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mkv", 4, {128, 96}, "-c:v ffv1");
  std::filesystem::create_directory(folder / "folder.mkv");
  RenderSettings settings;
  settings.footage = test::openFootage(folder / "a.mkv");
  settings.project.source.path = folder / "a.mkv";
  const auto says = [&](const std::string& name) {
    settings.project.output.path = folder / name;
    const auto outline = outlineRender(settings);
    return outline ? std::string("possible") : outline.error().message;
  };
  const auto before = folder.names();
  EXPECT_EQ(says("b.mkv"), "possible");
  EXPECT_NE(says("none/b.mkv").find("does not exist"), std::string::npos);
  EXPECT_NE(says("a.mkv/b.mkv").find("does not exist"), std::string::npos);
  EXPECT_NE(says("folder.mkv").find("is a folder"), std::string::npos);
  EXPECT_EQ(folder.names(), before);
}

TEST(Leftovers, OfProcessesThatAreNoMoreGo) {
  const TempFolder folder;
  auto mine = SafeFile::create(folder / "mine.mkv");
  ASSERT_TRUE(mine);
  const pid_t child = fork();
  if (child == 0) {
    auto theirs = SafeFile::create(folder / "theirs.mkv");
    _exit(theirs ? 0 : 1);  // without a word of farewell
  }
  int ended = 0;
  ASSERT_EQ(waitpid(child, &ended, 0), child);
  std::ofstream(folder / ".download.part") << "another program's";
  ASSERT_EQ(folder.names().size(), 3u);
  clearLeftovers(folder.path().string());
  const auto left = folder.names();
  ASSERT_EQ(left.size(), 2u);
  EXPECT_EQ(left[0], ".download.part");
  EXPECT_TRUE(left[1].starts_with(".mine.mkv."));
}

/// Whatever is opened, it is not waited for, and it is a file.
TEST(Reading, OnlyFilesAreOpened) {
  const TempFolder folder;
  ASSERT_EQ(mkfifo((folder / "pipe").c_str(), 0600), 0);
  std::filesystem::create_symlink(folder / "pipe", folder / "link.molten");
  std::filesystem::create_symlink("/dev/zero", folder / "zero.molten");
  std::filesystem::create_symlink(folder / "pipe", folder / "clip.mp4");
  for (const char* const name : {"pipe", "link.molten", "zero.molten", "clip.mp4"}) {
    EXPECT_FALSE(readWhole(folder / name, 1 << 20)) << name;
    EXPECT_FALSE(loadProject(folder / name)) << name;
    EXPECT_FALSE(loadStarter(folder / name)) << name;
    EXPECT_FALSE(Footage::open(folder / name, {}, {}, {})) << name;
  }
  EXPECT_NE(loadProject(folder / "link.molten").error().message.find("a device or a pipe"), std::string::npos);
  EXPECT_FALSE(saveProject({}, folder / "zero.molten")) << "nor written";
}

}  // namespace
}  // namespace molten
