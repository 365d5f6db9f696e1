// molten-render on a project of several shots.
#include <nlohmann/json.hpp>

#include "core/project/project_file.h"
#include "core/project/reel.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

using nlohmann::json;

class ReelCallTest : public ::testing::Test {
 protected:
  ReelCallTest() {
    test::makeNumberedClip(folder / "a.mkv", 30, {128, 96}, "-c:v ffv1");
    test::makeNumberedClip(folder / "b.mkv", 20, {128, 96}, "-c:v ffv1");
    Project reel;
    reel.source.path = folder / "a.mkv";
    reel.place.from = Rational(10, 30);
    reel.more.push_back({.source = {folder / "b.mkv", {}, {}}});
    reel.more.push_back({.source = {folder / "a.mkv", {}, {}}});
    reel.more[1].place.on = false;
    reel = renameShot(reel, 1, "the second").after;
    EXPECT_TRUE(saveProject(reel, folder / "reel.molten"));
  }
  test::CommandResult call(const std::string& arguments) {
    return test::runCommand(std::string(MOLTEN_RENDER) + " " + (folder / "reel.molten") + " " + arguments);
  }
  std::vector<int> numbers(const std::string& path) {
    std::vector<int> all;
    for (const Picture& picture : test::readAll(*test::openFootage(path))) all.push_back(test::numberShown(picture));
    return all;
  }
  test::TempFolder folder;
};

TEST_F(ReelCallTest, AllShotsAreRenderedInTheirOrder) {
  const auto made = call("-o " + (folder / "made.mkv"));
  ASSERT_EQ(made.exitCode, 0) << made.err;
  std::vector<int> wanted;
  for (int n = 10; n < 30; ++n) wanted.push_back(n);
  for (int n = 0; n < 20; ++n) wanted.push_back(n);
  EXPECT_EQ(numbers(folder / "made.mkv"), wanted);
  const auto part = call("--frames 18-22 -o " + (folder / "part.mkv"));
  ASSERT_EQ(part.exitCode, 0) << part.err;
  EXPECT_EQ(numbers(folder / "part.mkv"), (std::vector<int>{28, 29, 0, 1, 2}));
}

TEST_F(ReelCallTest, WhereEachShotLiesIsDescribed) {
  const auto said = call("--describe");
  ASSERT_EQ(said.exitCode, 0) << said.err;
  const json all = json::parse(said.out);
  EXPECT_EQ(all["result"]["frames"], 40);
  ASSERT_EQ(all["shots"].size(), 3u);
  EXPECT_EQ(all["shots"][0]["name"], "a");
  EXPECT_EQ(all["shots"][0]["frames"], 20);
  EXPECT_EQ(all["shots"][1]["name"], "the second");
  EXPECT_EQ(all["shots"][1]["begins-at-frame"], 20);
  EXPECT_EQ(all["shots"][2]["on"], false);
}

/// Written as a list and rendered from that, it shows the same.
TEST_F(ReelCallTest, ListsAreWrittenAndRendered) {
  ASSERT_EQ(call("-o " + (folder / "made.mkv")).exitCode, 0);
  for (const char* name : {"list.otio", "list.edl", "list.csv"}) {
    const auto written = call("-o " + (folder / name));
    ASSERT_EQ(written.exitCode, 0) << written.err;
    const auto again = test::runCommand(std::string(MOLTEN_RENDER) + " " + (folder / name) + " --rate 30 -o " + (folder / "again.mkv"));
    ASSERT_EQ(again.exitCode, 0) << name << again.err;
    EXPECT_EQ(numbers(folder / "again.mkv"), numbers(folder / "made.mkv")) << name;
  }
  EXPECT_NE(call("-o " + (folder / "list.edl")).err.find("is off"), std::string::npos) << "what is not listed is said";
  test::writeFile(folder / "bad.edl", std::string("001 AX V C nonsense\n"));
  const auto bad = test::runCommand(std::string(MOLTEN_RENDER) + " " + (folder / "bad.edl") + " -o " + (folder / "x.mkv"));
  EXPECT_EQ(bad.exitCode, 1);
}

TEST_F(ReelCallTest, AnyShotsChainIsReachedAndTheOneAfterTheLastCut) {
  const auto second = call("--shot 2 --stage pace:from=10f,spans=5f@100% -o " + (folder / "made.mkv"));
  ASSERT_EQ(second.exitCode, 0) << second.err;
  std::vector<int> wanted;
  for (int n = 10; n < 30; ++n) wanted.push_back(n);
  for (int n = 10; n < 15; ++n) wanted.push_back(n);
  EXPECT_EQ(numbers(folder / "made.mkv"), wanted);
  const auto all = call("--shot all --stage pace:from=18f,spans=4f@100% -o " + (folder / "made.mkv"));
  ASSERT_EQ(all.exitCode, 0) << all.err;
  EXPECT_EQ(numbers(folder / "made.mkv"), (std::vector<int>{28, 29, 0, 1}));
  for (const char* wrong : {"0", "4", "first", "1x"}) {
    const auto off = call(std::string("--shot ") + wrong + " -o " + (folder / "made.mkv"));
    EXPECT_EQ(off.exitCode, 2) << wrong;
    EXPECT_NE(off.err.find("from 1 to 3"), std::string::npos) << off.err;
  }
}

TEST_F(ReelCallTest, AResultIsKeptAndRead) {
  Project outer;
  outer.source.path = folder / "reel.molten";
  ASSERT_TRUE(saveProject(outer, folder / "outer.molten"));
  const std::string render = std::string(MOLTEN_RENDER) + " ", out = folder / "made.mkv";
  ASSERT_EQ(test::runCommand(render + (folder / "outer.molten") + " -o " + out).exitCode, 0);
  const auto made = numbers(out);
  EXPECT_EQ(made.size(), 40u);
  const auto kept = call("--keep");
  ASSERT_EQ(kept.exitCode, 0) << kept.err;
  const auto files = [&] {
    std::vector<std::string> all;
    for (const std::string& name : folder.names())
      if (name.find(".kept-") != std::string::npos) all.push_back(name);
    return all;
  };
  ASSERT_EQ(files().size(), 1u);
  // It is that file that is read: another one in its place is what is seen.
  std::filesystem::copy_file(folder / "b.mkv", folder / files()[0], std::filesystem::copy_options::overwrite_existing);
  ASSERT_EQ(test::runCommand(render + (folder / "outer.molten") + " -o " + out).exitCode, 0);
  EXPECT_EQ(numbers(out).size(), 20u);
  ASSERT_EQ(call("--clear-kept").exitCode, 0);
  EXPECT_TRUE(files().empty());
  ASSERT_EQ(test::runCommand(render + (folder / "outer.molten") + " -o " + out).exitCode, 0);
  EXPECT_EQ(numbers(out), made);
  EXPECT_EQ(test::runCommand(render + (folder / "a.mkv") + " --keep").exitCode, 2);
  EXPECT_EQ(call("--keep --clear-kept").exitCode, 2);
}

TEST_F(ReelCallTest, AFolderOfClipsGoesThroughOneChain) {
  namespace fs = std::filesystem;
  fs::create_directory(folder / "takes");
  fs::create_directory(folder / "results");
  fs::copy_file(folder / "a.mkv", folder / "takes/first.mkv");
  fs::copy_file(folder / "b.mkv", folder / "takes/second take.mkv");
  test::writeFile(folder / "takes/broken.mp4", std::string("nothing"));
  Project project;
  project.source.path = folder / "gone.mkv";
  project.chain = chainOf({"pace:from=0.5s,spans=0.3s@100%"});
  ASSERT_TRUE(saveProject(project, folder / "chain.molten"));
  const std::string render = std::string(MOLTEN_RENDER) + " --each " + (folder / "takes") + " ";
  const auto each = test::runCommand(render + (folder / "chain.molten") + " -o '" + (folder / "results/%s.mkv") + "'");
  EXPECT_EQ(each.exitCode, 1) << "one of them failed";
  EXPECT_NE(each.err.find("1 of 3 clips"), std::string::npos) << each.err;
  EXPECT_NE(each.err.find("broken.mp4"), std::string::npos) << each.err;
  EXPECT_EQ(numbers(folder / "results/first.mkv").front(), 15);
  EXPECT_EQ(numbers(folder / "results/second take.mkv").size(), 9u);
  EXPECT_EQ(test::runCommand(render + (folder / "reel.molten") + " -o '" + (folder / "results/%s.mkv") + "'").exitCode, 2);
}

TEST_F(ReelCallTest, WhatIsOfOneShotAloneIsRefused) {
  const auto copied = call("--sound copy -o " + (folder / "made.mkv"));
  EXPECT_EQ(copied.exitCode, 1);
  EXPECT_NE(copied.err.find("several shots"), std::string::npos) << copied.err;
  const auto map = call("--time-map seconds -o " + (folder / "map-%05d.exr"));
  EXPECT_EQ(map.exitCode, 1);
  EXPECT_NE(map.err.find("one shot"), std::string::npos) << map.err;
  std::filesystem::remove(folder / "b.mkv");
  const auto missing = call("-o " + (folder / "made.mkv"));
  EXPECT_EQ(missing.exitCode, 1);
  EXPECT_NE(missing.err.find("b.mkv"), std::string::npos) << missing.err;
  EXPECT_FALSE(std::filesystem::exists(folder / "made.mkv"));
}

}  // namespace
}  // namespace molten
