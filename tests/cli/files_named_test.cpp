// Whatever file a call names, and whatever is wrong with it: nothing is written, and the exit code and the sentence say why.
#include <sys/stat.h>
#include <unistd.h>

#include <nlohmann/json.hpp>

#include "core/project/project_file.h"
#include "support/clips.h"
#include "support/sounds.h"
#include "support/stages.h"

namespace molten {
namespace {

namespace fs = std::filesystem;
using test::TempFolder;

class FilesNamed : public ::testing::Test {
 protected:
  FilesNamed() {
    test::makeNumberedClip(folder / "clip.mkv", 12, {96, 64}, "-c:v ffv1");
    setenv("MOLTEN_QUEUE", (folder / "list").c_str(), 1);
  }
  ~FilesNamed() override { unsetenv("MOLTEN_QUEUE"); }
  test::CommandResult call(const std::string& arguments) {
    return test::runCommand("cd '" + folder.path().string() + "' && timeout 60 " + std::string(MOLTEN_RENDER) + " " + arguments + " --progress none");
  }
  /// Wrong in one way: `missing`, `damaged`, `unreadable`, `pipe`.
  void spoil(const std::string& path, const std::string& how) {
    fs::remove(path);
    int failed = 0;
    if (how == "damaged") test::writeFile(path, std::string(500, 'x'));
    if (how == "pipe") failed = mkfifo(path.c_str(), 0600);
    // Even for root.
    if (how == "unreadable") failed = symlink("/proc/self/mem-of-nobody/x", path.c_str());
    ASSERT_EQ(failed, 0);
  }
  TempFolder folder;
};

/// Each kind of file that a call can name, spoilt in each way, rendered at once, put into the list, and made in pieces.
TEST_F(FilesNamed, ThatCannotBeReadEndTheCallWithOneAndWriteNothing) {
  const auto project = [&](const std::string& name, const std::function<void(Project&)>& change) {
    Project made;
    made.source.path = folder / "clip.mkv";
    change(made);
    ASSERT_TRUE(saveProject(made, folder / name));
  };
  project("with-insert.molten", [&](Project& p) { p.chain = {*parseStage("insert:source=" + (folder / "spoilt.mkv"), 30)}; });
  project("with-sound.molten", [&](Project& p) { p.sounds = {*parseLaidSound(folder / "spoilt.wav", 30)}; });
  struct Named {
    const char *file, *words;
  };
  const Named all[] = {{"spoilt.mkv", "spoilt.mkv"},
                       {"spoilt.molten", "spoilt.molten"},
                       {"spoilt.wav", "clip.mkv --add-sound spoilt.wav"},
                       {"spoilt.wav", "with-sound.molten"},
                       {"spoilt.mkv", "with-insert.molten"},
                       {"spoilt.mkv", "clip.mkv --stage insert:source=spoilt.mkv"},
                       {"spoilt.csv", "spoilt.csv"},
                       {"spoilt.otio", "spoilt.otio"}};
  for (const Named& named : all)
    for (const char* how : {"missing", "damaged", "unreadable", "pipe"}) {
      spoil(folder / named.file, how);
      for (const char* way : {"", " --queue", " --pieces pieces --piece 1/1"}) {
        const auto result = call(std::string(named.words) + " -o out.mkv" + way);
        const std::string which = std::string(named.words) + way + ", " + how;
        // What is only read when pictures are made is put into the list, and fails there.
        const bool later = std::string_view(way) == " --queue" && result.exitCode == 0;
        if (later) {
          EXPECT_EQ(call("--queue").exitCode, 1) << which;
          fs::remove_all(folder / "list");
        } else {
          EXPECT_EQ(result.exitCode, 1) << which << ": " << result.err;
          EXPECT_NE(result.err.find(fs::path(named.file).filename().string()), std::string::npos) << which << ": " << result.err;
        }
        EXPECT_EQ(result.err.find(".."), std::string::npos) << which << ": " << result.err;
        EXPECT_FALSE(fs::exists(folder / "out.mkv")) << which;
        fs::remove_all(folder / "pieces");
        fs::remove_all(folder / ".out.mkv.pieces");
      }
      fs::remove(folder / named.file);
    }
}

TEST_F(FilesNamed, WithoutMissingRendersAllTheSame) {
  for (const char* words : {"--add-sound gone.wav", "--stage insert:source=gone.mkv"}) {
    EXPECT_EQ(call(std::string("clip.mkv -o out.mkv ") + words).exitCode, 1);
    const auto result = call(std::string("clip.mkv -o out.mkv --without-missing ") + words);
    EXPECT_EQ(result.exitCode, 0) << result.err;
    EXPECT_NE(result.err.find("is left out"), std::string::npos) << result.err;
    EXPECT_EQ(test::openFootage(folder / "out.mkv")->clock().frameCount(), 12);
    fs::remove(folder / "out.mkv");
  }
  ASSERT_EQ(mkfifo((folder / "pipe.wav").c_str(), 0600), 0);
  EXPECT_EQ(call("clip.mkv -o out.mkv --without-missing --add-sound pipe.wav").exitCode, 0);
}

TEST_F(FilesNamed, ASoundThatIsSwitchedOffNeedsNoFile) {
  EXPECT_EQ(call("clip.mkv -o out.mkv --add-sound gone.wav,mute=on").exitCode, 0);
  EXPECT_EQ(call("clip.mkv -o out2.mkv --sound none --add-sound gone.wav").exitCode, 0);
}

TEST_F(FilesNamed, WhatIsWrongInTheWordsEndsWithTwo) {
  fs::create_directory(folder / "clips");
  fs::copy_file(folder / "clip.mkv", folder / "clips/a.mkv");
  for (const char* words : {"clip.mkv -o x.xyz", "clip.mkv -o x.mkv --codec h266", "clip.mkv -o x.mp4 --quality 90", "--each clips -o all.mkv clip.mkv",
                            "clip.mkv -o x.mkv --stage ecohes", "clip.mkv -o x.mkv --stage time-field:back=0,5s", "clip.mkv -o x.mkv --stage time-field:bakc=1s"}) {
    const auto result = call(words);
    EXPECT_EQ(result.exitCode, 2) << words << ": " << result.err;
    EXPECT_EQ(std::count(result.err.begin(), result.err.end(), '\n'), 1) << result.err;
  }
  EXPECT_EQ(test::runCommand(std::string(MOLTEN_RENDER) + " '" + (folder / "clip.mkv") + "' --describe > /dev/full").exitCode, 1);
  EXPECT_EQ(test::runCommand(std::string(MOLTEN_RENDER) + " --stages > /dev/full").exitCode, 1);
  EXPECT_EQ(test::runCommand(std::string(MOLTEN_RENDER) + " --help > /dev/full").exitCode, 1);
}

TEST_F(FilesNamed, SentencesSayWhatIsMeant) {
  const auto says = [&](const std::string& words, const std::string& part) {
    const auto result = call(words + (words.find(" -o") == std::string::npos ? " -o x.mkv" : ""));
    EXPECT_NE(result.err.find(part), std::string::npos) << words << ": " << result.err;
  };
  says("nosuch.avi", "There is no file nosuch.avi in " + folder.path().string());
  says("none/nosuch.avi", "There is no folder " + (folder / "none"));
  says("http://example.org/a.mp4", "is an address, and no addresses are opened");
  says("clip.mkv -o /proc/x.mp4", "takes no new files");
  says("clip.mkv --stage ecohes", "Did you mean echoes?");
  says("clip.mkv --stage time-field:bakc=1s", "Did you mean back?");
  says("clip.mkv --stage time-field:shape=radail", "Did you mean radial?");
  says("clip.mkv --codec h256", "Did you mean h265?");
  says("clip.mkv --stage time-field:back=0,5s", "Write back=0.5s");
  says("clip.mkv --stage time-field:back=never", "Time Field: ");
}

TEST_F(FilesNamed, WhatIsReplacedIsSaidLastOrRefused) {
  EXPECT_EQ(call("clip.mkv -o out.mkv").err.find("replaced"), std::string::npos);
  const auto again = call("clip.mkv -o out.mkv --stage time-field");
  EXPECT_EQ(again.exitCode, 0);
  EXPECT_TRUE(again.err.ends_with("out.mkv was there and has been replaced.\n")) << again.err;
  const std::string before = *readWhole(folder / "out.mkv", 1 << 24);
  const auto refused = call("clip.mkv -o out.mkv --no-overwrite");
  EXPECT_EQ(refused.exitCode, 1);
  EXPECT_NE(refused.err.find("out.mkv is there already, and --no-overwrite keeps it"), std::string::npos) << refused.err;
  EXPECT_TRUE(*readWhole(folder / "out.mkv", 1 << 24) == before);
  EXPECT_EQ(call("clip.mkv -o s-%05d.png").exitCode, 0);
  const auto stills = call("clip.mkv -o s-%05d.png");
  EXPECT_TRUE(stills.err.ends_with("12 files, s-00000.png to s-00011.png, were there and have been replaced.\n")) << stills.err;
  EXPECT_EQ(call("clip.mkv -o s-%05d.png --no-overwrite").exitCode, 1);
  EXPECT_EQ(call("clip.mkv -o list.csv").exitCode, 0);
  EXPECT_TRUE(call("clip.mkv -o list.csv").err.ends_with("list.csv was there and has been replaced.\n"));
  EXPECT_EQ(call("clip.mkv -o list.csv --no-overwrite").exitCode, 1);
}

/// Names that are no UTF-8: rendered at once, by the list and in pieces, under the very bytes.
TEST_F(FilesNamed, BytesOfNamesAreCarriedExactly) {
  const std::string odd = "gl\xFChen %41.mkv", out = "aus\xE9.mkv";
  fs::copy_file(folder / "clip.mkv", folder.path() / odd);
  const std::string words = "'" + odd + "' -o '" + out + "'";
  EXPECT_EQ(call(words).exitCode, 0);
  EXPECT_TRUE(fs::exists(folder.path() / out));
  fs::remove(folder.path() / out);
  EXPECT_EQ(call(words + " --queue").exitCode, 0);
  const auto worked = call("--queue");
  EXPECT_EQ(worked.exitCode, 0) << worked.err;
  EXPECT_TRUE(fs::exists(folder.path() / out));
  fs::remove(folder.path() / out);
  EXPECT_EQ(call(words + " --pieces work --piece 1/1").exitCode, 0);
  EXPECT_EQ(call("--join work").exitCode, 0);
  EXPECT_TRUE(fs::exists(folder.path() / out));
  // Within a project too.
  Project project;
  project.source.path = folder.path() / odd;
  project.chain = {paintedField({24, 16}, Brush{5, 0.7, 0.5}, {4, 4}, {20, 12})};
  const std::string path = (folder.path() / "kn\xF6pfe \"%\".molten").string();
  ASSERT_TRUE(saveProject(project, path));
  const auto loaded = loadProject(path);
  ASSERT_TRUE(loaded);
  EXPECT_EQ(loaded->source.path, project.source.path);
  EXPECT_TRUE(loaded->chain == project.chain);
  EXPECT_EQ(call("clip.mkv --stage 'insert:shows=title,text=\xFF' -o x.mkv").exitCode, 2);
}

}  // namespace
}  // namespace molten
