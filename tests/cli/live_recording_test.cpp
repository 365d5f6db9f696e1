// Live without anybody at the machine: by one command, and killed at any moment.

#include <fcntl.h>
#include <signal.h>
#include <sys/wait.h>
#include <unistd.h>

#include <nlohmann/json.hpp>
#include <regex>

#include "support/clips.h"

namespace molten {
namespace {

using test::TempFolder;

/// The window, begun by words, with what it says.
class Started {
 public:
  /// `errors`: where what it says of troubles goes; empty: where the test's own does.
  explicit Started(std::vector<std::string> words, const std::string& errors = {}) {
    int ends[2];
    EXPECT_EQ(pipe2(ends, O_CLOEXEC), 0);
    words.insert(words.begin(), MOLTEN_CLOCK);
    std::vector<char*> arguments;
    for (std::string& word : words) arguments.push_back(word.data());
    arguments.push_back(nullptr);
    child_ = fork();
    if (child_ == 0) {
      dup2(ends[1], STDOUT_FILENO);
      if (!errors.empty()) dup2(open(errors.c_str(), O_WRONLY | O_CREAT, 0600), STDERR_FILENO);
      setenv("QT_QPA_PLATFORM", "offscreen", 1);
      setenv("MOLTEN_SOUND", "simulated", 1);
      execv(arguments[0], arguments.data());
      _exit(127);
    }
    close(ends[1]);
    out_ = fdopen(ends[0], "r");
  }
  ~Started() {
    if (child_ > 0) kill(SIGKILL);
    fclose(out_);
  }
  /// The next line; empty at the end.
  std::string line() {
    char text[2048];
    return fgets(text, sizeof text, out_) ? text : "";
  }
  /// How it ended.
  int kill(int signal) {
    ::kill(child_, signal);
    int status = 0;
    waitpid(std::exchange(child_, -1), &status, 0);
    return status;
  }

 private:
  pid_t child_ = -1;
  FILE* out_ = nullptr;
};

/// Seconds that it says it has recorded; below 0: nothing.
double recorded(const std::string& line) {
  static const std::regex words("Recording what is shown: ([0-9.]+) s");
  std::smatch found;
  return std::regex_search(line, found, words) ? std::stod(found[1]) : -1;
}

double playable(const std::string& path) {
  const auto clip = Footage::open(path, {}, {}, {});
  EXPECT_TRUE(clip) << clip.error().message;
  if (!clip) return 0;
  const auto reader = (*clip)->newReader(1);
  const auto last = static_cast<std::int32_t>((*clip)->clock().frameCount() - 1);
  EXPECT_TRUE((*reader)->read(last, {}, {}));
  EXPECT_TRUE((*clip)->faults().empty());
  return static_cast<double>((*clip)->clock().length()) / (*clip)->clock().rate().toDouble();
}

TEST(LiveByCommand, ARecordingThatIsKilledPlaysUpToTheLastSecond) {
  const TempFolder folder;
  std::mt19937 random(22);
  constexpr int kills = 20, together = 4;
  for (int i = 0; i < kills; i += together) {
    std::vector<std::unique_ptr<Started>> all;
    std::vector<std::string> files;
    for (int k = 0; k < together; ++k) {
      files.push_back(folder / ("take" + std::to_string(i + k) + ".mp4"));
      all.push_back(std::make_unique<Started>(
          std::vector<std::string>{"--live", "simulated", "--camera-size", "160x96", "--numbered", "--record", files.back()}));
    }
    for (int k = 0; k < together; ++k) {
      double seconds = -1;
      const int lines = std::uniform_int_distribution(1, 3)(random);
      for (int told = 0; told < lines;) {
        const std::string line = all[static_cast<std::size_t>(k)]->line();
        ASSERT_FALSE(line.empty()) << "it has ended by itself";
        if (recorded(line) <= 0) continue;
        seconds = recorded(line);
        ++told;
      }
      all[static_cast<std::size_t>(k)]->kill(SIGKILL);
      if (seconds < 1) continue;
      EXPECT_GE(playable(files[static_cast<std::size_t>(k)]), seconds - 1) << "kill " << i + k;
    }
  }
}

TEST(LiveByCommand, OneThatIsAskedToEndLeavesAWholeFile) {
  const TempFolder folder;
  const std::string file = folder / "take.mp4";
  Started started({"--live", "simulated", MOLTEN_SOURCE "/demo/four-clocks.molten", "--full-screen", "--mirror", "--camera-size", "160x96", "--record", file});
  double seconds = -1;
  while (seconds < 1) {
    const std::string line = started.line();
    ASSERT_FALSE(line.empty()) << "it has ended by itself";
    seconds = recorded(line);
  }
  EXPECT_EQ(started.kill(SIGTERM), 0);
  EXPECT_GE(playable(file), seconds - 0.1);
  EXPECT_EQ(folder.names(), std::vector<std::string>{"take.mp4"});
}

TEST(LiveByCommand, WhatCannotBeRecordedEndsItBeforeAnythingIsShown) {
  const TempFolder folder;
  for (const auto& [name, part] : {std::pair{folder / "not-there/take.mp4", "does not exist"}, {folder / "take.avi", "end it in .mp4 or .mov"}, {std::string("/proc/take.mp4"), "takes no new files"}}) {
    const auto result = test::runCommand("QT_QPA_PLATFORM=offscreen timeout 60 " MOLTEN_CLOCK " --live simulated --record '" + name + "'");
    EXPECT_EQ(result.exitCode, 2) << name;
    EXPECT_TRUE(result.out.empty()) << result.out;
    EXPECT_NE(result.err.find(part), std::string::npos) << result.err;
  }
}

/// The same call, evening after evening; and by the time in the name.
TEST(LiveByCommand, TheSameCallRecordsAnewEachTime) {
  const TempFolder folder;
  for (int evening = 0; evening < 3; ++evening) {
    Started started({"--live", "simulated", "--camera-size", "160x96", "--record", folder / "evening.mp4", "--record-camera", folder / "at-%t.mp4"});
    for (double seconds = -1; seconds < 0.5;) {
      const std::string line = started.line();
      ASSERT_FALSE(line.empty()) << "it has ended by itself";
      seconds = recorded(line);
    }
    EXPECT_EQ(started.kill(SIGTERM), 0);
  }
  const auto names = folder.names();
  EXPECT_EQ(names.size(), 6u);
  for (const char* name : {"evening.mp4", "evening-2.mp4", "evening-3.mp4"}) EXPECT_GT(playable(folder / name), 0.4) << name;
  const std::regex time("at-20[0-9]{2}-[0-9]{2}-[0-9]{2}_[0-9]{2}-[0-9]{2}-[0-9]{2}(-[0-9])?[.]mp4");
  EXPECT_EQ(std::count_if(names.begin(), names.end(), [&](const std::string& name) { return std::regex_match(name, time); }), 3);
}

TEST(LiveByCommand, ACameraThatIsNotThereEndsItUnlessItIsToWait) {
  const TempFolder folder;
  Started waits({"--live", "/dev/video-of-nobody", "--wait-for-camera"}, folder / "waits");
  const auto result = test::runCommand("QT_QPA_PLATFORM=offscreen timeout 60 " MOLTEN_CLOCK " --live /dev/video-of-nobody");
  EXPECT_EQ(result.exitCode, 1);
  EXPECT_NE(result.err.find("video-of-nobody"), std::string::npos) << result.err;
  for (int lines = 0; lines < 3; ++lines) EXPECT_FALSE(waits.line().empty()) << "it waits still";
  EXPECT_EQ(waits.kill(SIGTERM), 0);
}

TEST(LiveByCommand, TellsInJsonHowItGoes) {
  Started started({"--live", "simulated", "--camera-size", "160x96", "--status", "json", "--lost", "10", "--late", "10"});
  for (int told = 0; told < 3; ++told) {
    const auto status = nlohmann::json::parse(started.line(), nullptr, false);
    ASSERT_TRUE(status.is_object());
    const auto& frames = status["frames"];
    EXPECT_EQ(frames["taken"].get<int>(), frames["shown"].get<int>() + frames["late"].get<int>() + frames["lost"].get<int>() + frames["passed-over"].get<int>() + frames["on-the-way"].get<int>());
    EXPECT_TRUE(status["running"]);
    EXPECT_TRUE(status["held"]["bytes"].is_number());
  }
  EXPECT_EQ(started.kill(SIGTERM), 0);
}

/// The example of docs/live.md, with the program where it stands here.
TEST(LiveByCommand, TheServiceOfTheDocumentIsOne) {
  if (std::system("command -v systemd-analyze >/dev/null") != 0) GTEST_SKIP() << "needs systemd";
  std::ifstream in(MOLTEN_SOURCE "/docs/live.md");
  const std::string text((std::istreambuf_iterator<char>(in)), {});
  const auto begin = text.find("```ini\n");
  ASSERT_NE(begin, std::string::npos);
  std::string unit = text.substr(begin + 7, text.find("```", begin + 7) - begin - 7);
  EXPECT_NE(unit.find("Restart="), std::string::npos);
  unit = std::regex_replace(unit, std::regex("/usr/bin/molten-clock"), MOLTEN_CLOCK);
  const TempFolder folder;
  test::writeFile(folder / "molten-wall.service", unit);
  const auto checked = test::runCommand("XDG_RUNTIME_DIR='" + folder.path().string() + "' systemd-analyze verify --user --man=no '" + (folder / "molten-wall.service") + "'");
  EXPECT_EQ(checked.exitCode, 0) << checked.err;
  EXPECT_EQ(checked.err.find("molten-wall"), std::string::npos) << checked.err;
}

TEST(LiveByCommand, WrongWordsEndItWithASentence) {
  const auto result = test::runCommand("QT_QPA_PLATFORM=offscreen " MOLTEN_CLOCK " --live simulated --camera-size big");
  EXPECT_EQ(result.exitCode, 2);
  EXPECT_NE(result.err.find("1280x720"), std::string::npos) << result.err;
}

TEST(LiveByCommand, ListsCamerasTheSimulatedOneFirst) {
  const auto result = test::runCommand("QT_QPA_PLATFORM=offscreen " MOLTEN_CLOCK " --cameras");
  EXPECT_EQ(result.exitCode, 0);
  EXPECT_TRUE(result.out.starts_with("simulated")) << result.out;
}

}  // namespace
}  // namespace molten
