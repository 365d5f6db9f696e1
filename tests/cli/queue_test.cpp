// The list of renders and renders in pieces, as a user calls them.
#include <fcntl.h>
#include <sys/wait.h>
#include <unistd.h>

#include <csignal>
#include <fstream>
#include <random>

#include "core/files/read_file.h"
#include "support/clips.h"

namespace molten {
namespace {

namespace fs = std::filesystem;

std::string bytesOf(const std::string& path) {
  auto all = readWhole(path, std::size_t(1) << 30);
  EXPECT_TRUE(all) << path;
  return all ? *all : std::string();
}

class QueueCall : public ::testing::Test {
 protected:
  QueueCall() {
    test::makeNumberedClip(folder / "clip.mkv", 400, {96, 64}, "-f lavfi -i sine=f=300:d=16 -c:v libx264 -preset ultrafast -g 30 -pix_fmt yuv420p -c:a flac");
    fs::create_directory(folder / "whole");
    fs::create_directory(folder / "queued");
  }
  test::CommandResult render(const std::string& arguments) {
    return test::runCommand("MOLTEN_QUEUE=" + (folder / "list") + " " + MOLTEN_RENDER + " " + arguments);
  }
  std::string words(const std::string& where, const std::string& name) {
    return (folder / "clip.mkv") + " --stage time-field:back=0.4s -o " + (folder / where) + "/" + name;
  }
  void expectSame(const std::string& name) {
    EXPECT_TRUE(bytesOf(folder / ("whole/" + name)) == bytesOf(folder / ("queued/" + name))) << name;
  }

  test::TempFolder folder;
};

TEST_F(QueueCall, WhatIsPutIntoTheListIsRenderedByAnotherCall) {
  for (const char* name : {"a.mp4", "b.mkv", "c.gif"}) {
    EXPECT_EQ(render(words("whole", name)).exitCode, 0);
    EXPECT_EQ(render(words("queued", name) + " --queue").exitCode, 0);
  }
  EXPECT_TRUE(fs::is_empty(folder / "queued"));
  const auto twice = render(words("queued", "a.mp4") + " --queue");
  EXPECT_EQ(twice.exitCode, 1);
  EXPECT_NE(twice.err.find("is being rendered already"), std::string::npos) << twice.err;
  // What it was asked of stays: another file of the clip's name is not taken for it unnoticed.
  const auto done = render("--queue --progress none");
  EXPECT_EQ(done.exitCode, 0) << done.err;
  EXPECT_NE(done.err.find("a.mp4 is written."), std::string::npos) << done.err;
  for (const char* name : {"a.mp4", "b.mkv", "c.gif"}) expectSame(name);
  EXPECT_EQ(render("--queue").exitCode, 0) << "nothing waits";
  EXPECT_EQ(render(words("queued", "d.moon") + " --queue").exitCode, 2);
}

/// Fifty times the work is ended at any moment; in the end every result is whole, and what it would have been.
TEST_F(QueueCall, KilledAtRandomEveryJobEndsWhole) {
  const std::vector<std::string> names{"a.mp4", "b.mkv", "c.webm", "d.gif"};
  for (const std::string& name : names) ASSERT_EQ(render(words("whole", name)).exitCode, 0);
  ASSERT_EQ(render(words("whole", "e-%03d.png") + " --frames 0-99").exitCode, 0);
  const auto ask = [&] {
    for (const std::string& name : names) ASSERT_EQ(render(words("queued", name) + " --queue").exitCode, 0);
    ASSERT_EQ(render(words("queued", "e-%03d.png") + " --frames 0-99 --queue").exitCode, 0);
  };
  const auto expectAllSame = [&] {
    for (const std::string& name : names) expectSame(name);
    for (int n = 0; n < 100; ++n) {
      char name[20];
      std::snprintf(name, sizeof name, "e-%03d.png", n);
      expectSame(name);
    }
  };
  ask();
  setenv("MOLTEN_QUEUE", (folder / "list").c_str(), 1);
  std::mt19937 random(3);
  int killed = 0, rounds = 0;
  while (killed < 50) {
    const pid_t child = fork();
    if (child == 0) {
      const int nothing = open("/dev/null", O_WRONLY);
      dup2(nothing, 2);
      execl(MOLTEN_RENDER, MOLTEN_RENDER, "--queue", "--progress", "none", static_cast<char*>(nullptr));
      _exit(127);
    }
    ASSERT_GT(child, 0);
    usleep(20'000 + random() % 400'000);
    kill(child, SIGKILL);
    int state = 0;
    waitpid(child, &state, 0);
    if (WIFSIGNALED(state)) {
      ++killed;
      continue;
    }
    // It was quicker: everything is done, and asked for once more.
    ASSERT_EQ(WEXITSTATUS(state), 0);
    expectAllSame();
    ++rounds;
    ask();
  }
  const auto last = render("--queue --progress none");
  EXPECT_EQ(last.exitCode, 0) << last.err;
  expectAllSame();
  for (const auto& entry : fs::directory_iterator(folder / "queued")) EXPECT_FALSE(entry.path().filename().string().starts_with('.')) << entry.path();
  unsetenv("MOLTEN_QUEUE");
}

TEST_F(QueueCall, PiecesAreMadeByAnyCallAndJoinedByAnother) {
  ASSERT_EQ(render(words("whole", "a.mp4")).exitCode, 0);
  const std::string pieces = folder / "pieces";
  const auto listed = render(words("queued", "a.mp4") + " --pieces " + pieces);
  EXPECT_EQ(listed.exitCode, 0) << listed.err;
  EXPECT_NE(listed.out.find("4 pieces, 400 pictures"), std::string::npos) << listed.out;
  EXPECT_EQ(render("--pieces " + pieces + " --piece 2/3").exitCode, 0);
  const auto early = render("--join " + pieces);
  EXPECT_EQ(early.exitCode, 1);
  EXPECT_NE(early.err.find("pieces are missing"), std::string::npos) << early.err;
  EXPECT_EQ(render("--pieces " + pieces + " --piece 3/3 --threads 1").exitCode, 0);
  EXPECT_EQ(render(words("queued", "a.mp4") + " --pieces " + pieces + " --piece 1/3").exitCode, 0) << "all words again, and it is the same render";
  EXPECT_EQ(render("--join " + pieces + " --clear-pieces").exitCode, 0);
  expectSame("a.mp4");
  EXPECT_FALSE(fs::exists(pieces));
  for (const char* off : {"--piece 0/3", "--piece 4/3", "--piece x", "--piece 1/3"}) EXPECT_EQ(render(off).exitCode, 2) << off;
  EXPECT_EQ(render("--join " + folder / "nothing").exitCode, 1);
}

/// The same bytes whatever the processor can do, and whatever libraries make of that.
TEST_F(QueueCall, EveryProcessorMakesTheSameBytes) {
  const std::vector<std::string> chains{"--stage time-field:shape=noise,back=0.5s --between mixed", "--between flow --rate 40", "--stage shutter:built-from=motion",
                                        "--stage echoes:repeats=4,reckoned-in=linear --stage finish:contrast=20%,grain=20%", "--stage framing:zoom=130%,turn=7 --size 90x50"};
  for (const std::string& chain : chains)
    for (const char* kind : {"mkv", "mp4"}) {
      std::string first;
      for (const auto& [processor, opencv, libc] : {std::tuple{"", "", ""}, std::tuple{"avx2", "AVX512-SKX,AVX512-COMMON", ""},
                                                    std::tuple{"plain", "AVX512-SKX,AVX512-COMMON,AVX2,FMA3,AVX,FP16,SSE4.2,SSE4.1,SSSE3", "glibc.cpu.hwcaps=-AVX2_Usable,-AVX_Usable,-FMA_Usable,-AVX2,-AVX,-FMA,-AVX512F"}}) {
        const std::string name = folder / (std::string("p") + processor + "." + kind);
        const auto done = test::runCommand(std::string("MOLTEN_PROCESSOR=") + processor + " OPENCV_CPU_DISABLE=" + opencv + " GLIBC_TUNABLES=" + libc + " " + MOLTEN_RENDER + " " +
                                           (folder / "clip.mkv") + " " + chain + " --frames 20-40 -o " + name);
        ASSERT_EQ(done.exitCode, 0) << done.err;
        const std::string bytes = bytesOf(name);
        if (first.empty()) first = bytes;
        EXPECT_TRUE(bytes == first) << chain << " " << kind << " " << processor;
      }
    }
}

}  // namespace
}  // namespace molten
