// Saves that lose nothing, whatever a project is called and wherever its bytes lie, and the paintings that nothing names.
#include <sys/stat.h>

#include <filesystem>
#include <fstream>
#include <random>
#include <set>

#include "core/files/read_file.h"
#include "core/project/project_file.h"
#include "core/project/starter.h"
#include "core/project/unnamed_paintings.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

namespace fs = std::filesystem;
using test::TempFolder;

Project painted(double level) {
  Project project;
  project.chain = {paintedField({24, 16}, Brush{5, 0.7, level}, {4, 4}, {20, 12})};
  return project;
}

/// The painting that a project names, as loading it says.
std::string paintingOf(const std::string& project) {
  const auto loaded = loadProject(project);
  EXPECT_TRUE(loaded) << project;
  if (!loaded) return {};
  for (const ParameterValue& value : loaded->chain.at(0).values)
    if (const auto* painting = std::get_if<Painting>(&value)) return painting->file;
  return {};
}

std::size_t paintingsIn(const fs::path& folder) {
  std::size_t count = 0;
  for (const auto& entry : fs::directory_iterator(folder)) count += entry.path().extension() == ".png";
  return count;
}

std::vector<std::string> unnamedIn(const std::string& folder) {
  const auto unnamed = unnamedPaintings(folder);
  EXPECT_TRUE(unnamed) << unnamed.error().message;
  return unnamed ? *unnamed : std::vector<std::string>();
}

class UnnamedPaintings : public ::testing::Test {
 protected:
  TempFolder folder;
};

TEST_F(UnnamedPaintings, ASaveUnderAnyNameKeepsWhatItHasWritten) {
  for (const char* name : {"say \"cut\".molten", "back\\slash.molten", "two\nlines.molten", "100 %.molten", "Glasbläser é.molten", ".molten"}) {
    const std::string path = folder / name;
    ASSERT_TRUE(saveProject(painted(0.4), path)) << name;
    ASSERT_TRUE(saveProject(painted(0.9), path)) << name;
    const std::string painting = paintingOf(path);
    EXPECT_TRUE(fs::exists(painting)) << name << " names " << painting;
    EXPECT_TRUE(loadProject(path)->chain == painted(0.9).chain) << name;
  }
}

TEST_F(UnnamedPaintings, AreThoseThatNoProjectStarterOrBackupNames) {
  const std::string path = folder / "glühen.molten";
  ASSERT_TRUE(saveProject(painted(0.2), path));
  const std::string inBackup = paintingOf(path);
  fs::copy_file(path, path + ".bak");
  ASSERT_TRUE(saveProject(painted(0.4), path));
  const std::string inOther = paintingOf(path);
  // As a writer of JSON may write it that takes no letter for granted.
  std::string text = *readWhole(path, 1 << 20);
  const auto letter = text.find("ü");
  ASSERT_NE(letter, std::string::npos);
  for (auto at = letter; at != std::string::npos; at = text.find("ü")) text.replace(at, 2, "\\u00fc");
  test::writeFile(folder / "other.molten", text);
  ASSERT_TRUE(saveProject(painted(0.6), path));
  const std::string inNothing = paintingOf(path);
  Starter starter;
  starter.name = "Mine";
  starter.chain = painted(0.7).chain;
  ASSERT_TRUE(saveStarter(starter, folder / "glühen.molten-starter"));
  ASSERT_TRUE(saveProject(painted(0.8), path));
  EXPECT_EQ(paintingsIn(folder.path()), 5u);
  EXPECT_EQ(unnamedIn(folder.path().string()), std::vector<std::string>{inNothing});
  fs::remove(path + ".bak");
  std::vector<std::string> two{inBackup, inNothing};
  std::sort(two.begin(), two.end());
  EXPECT_EQ(unnamedIn(folder.path().string()), two);
  EXPECT_TRUE(fs::exists(inOther));
}

TEST_F(UnnamedPaintings, NothingIsOfferedWhileAFileCannotBeRead) {
  ASSERT_TRUE(saveProject(painted(0.2), folder / "a.molten"));
  ASSERT_TRUE(saveProject(painted(0.4), folder / "a.molten"));
  ASSERT_EQ(unnamedIn(folder.path().string()).size(), 1u);
  test::writeFile(folder / "cut short.molten", std::string("{\"format\": 2, \"chain\": ["));
  const auto unnamed = unnamedPaintings(folder.path().string());
  ASSERT_FALSE(unnamed);
  EXPECT_NE(unnamed.error().message.find("cut short.molten cannot be read"), std::string::npos) << unnamed.error().message;
  const auto nowhere = unnamedPaintings(folder / "nowhere");
  ASSERT_FALSE(nowhere);
  EXPECT_NE(nowhere.error().message.find("nowhere cannot be read"), std::string::npos) << nowhere.error().message;
}

TEST_F(UnnamedPaintings, OtherPicturesAreNoneOfOurs) {
  for (const char* name : {"a-painted-0123456789abcde.png", "a-painted-0123456789abcdeg.png", "holiday.png", "-painted-.png"}) test::writeFile(folder / name, std::string("x"));
  fs::create_directory(folder / "b-painted-0123456789abcdef.png");
  EXPECT_TRUE(unnamedIn(folder.path().string()).empty());
}

/// The link stays, and what is named lies relative to where the bytes are.
TEST_F(UnnamedPaintings, ASaveThroughALinkKeepsTheProjectBehindItWhole) {
  fs::create_directories(folder / "real/deep");
  fs::create_directory(folder / "elsewhere");
  test::makeNumberedClip(folder / "real/clip.mkv", 3, {64, 48}, "-c:v ffv1");
  Project project = painted(0.4);
  project.source.path = folder / "real/clip.mkv";
  const std::string real = folder / "real/deep/a.molten", link = folder / "elsewhere/link.molten";
  ASSERT_TRUE(saveProject(project, real));
  fs::create_symlink("../real/deep/a.molten", link);
  project.chain = painted(0.9).chain;
  ASSERT_TRUE(saveProject(project, link));
  EXPECT_TRUE(fs::is_symlink(link));
  for (const std::string& path : {real, link}) {
    const auto loaded = loadProject(path);
    ASSERT_TRUE(loaded);
    EXPECT_TRUE(fs::exists(loaded->source.path)) << path << " names " << loaded->source.path;
    EXPECT_TRUE(loaded->chain == project.chain) << path;
  }
  EXPECT_EQ(paintingsIn(folder / "elsewhere"), 0u);
  EXPECT_EQ(unnamedIn(folder / "real/deep").size(), 1u);
  // A starter likewise.
  Starter starter;
  starter.chain = painted(0.3).chain;
  ASSERT_TRUE(saveStarter(starter, folder / "real/deep/s.molten-starter"));
  fs::create_symlink("../real/deep/s.molten-starter", folder / "elsewhere/s.molten-starter");
  starter.chain = painted(0.5).chain;
  ASSERT_TRUE(saveStarter(starter, folder / "elsewhere/s.molten-starter"));
  EXPECT_TRUE(loadStarter(folder / "real/deep/s.molten-starter")->chain == starter.chain);
}

/// Saved, opened and saved again under names of all sorts, also through links: every painting that is named exists.
TEST_F(UnnamedPaintings, NoRoundOfSavesLosesOne) {
  std::mt19937 random(7);
  const std::vector<std::string> letters{"a", "\"", "\\", "\n", "%", "é", "\xEF\xBF\xBD", "\xFF", "\xC3", "'", " ", "-painted-"};
  std::vector<std::string> projects;
  constexpr int rounds = 500, looks = 25;
  for (const char* const sub : {"one", "two"}) fs::create_directory(folder / sub);
  for (int round = 0; round < rounds; ++round) {
    std::string path;
    if (!projects.empty() && random() % 2 == 0) {
      path = projects[random() % projects.size()];
      ASSERT_TRUE(loadProject(path)) << path;
    } else {
      std::string name;
      for (unsigned i = 0, count = 1 + random() % 5; i < count; ++i) name += letters[random() % letters.size()];
      path = folder / (random() % 2 ? "one/" : "two/") + name + ".molten";
      if (!projects.empty() && random() % 3 == 0 && !fs::exists(path)) fs::create_symlink(projects[random() % projects.size()], path);
    }
    ASSERT_TRUE(saveProject(painted(0.1 + 0.8 * (random() % 9) / 8), path)) << path;
    projects.push_back(path);
    ASSERT_TRUE(fs::exists(paintingOf(path))) << path;
    if (round % looks != looks - 1) continue;
    std::sort(projects.begin(), projects.end());
    projects.erase(std::unique(projects.begin(), projects.end()), projects.end());
    std::set<fs::path> named;
    for (const std::string& one : projects) {
      ASSERT_TRUE(fs::exists(paintingOf(one))) << one << " in round " << round;
      named.insert(fs::weakly_canonical(paintingOf(one)));
    }
    for (const char* const sub : {"one", "two"})
      for (const std::string& unnamed : unnamedIn(folder / sub)) ASSERT_FALSE(named.contains(fs::weakly_canonical(unnamed))) << unnamed;
  }
}

}  // namespace
}  // namespace molten
