// A project's result as footage: the pictures and the sound that it would be rendered to, live or kept.
#include <gtest/gtest.h>

#include <random>

#include "core/engine/heard.h"
#include "core/engine/kept_result.h"
#include "core/engine/project_footage.h"
#include "core/engine/project_sound.h"
#include "core/engine/render_job.h"
#include "core/project/files_behind.h"
#include "core/project/project_file.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

namespace fs = std::filesystem;

class ResultFootage : public ::testing::Test {
 protected:
  ResultFootage() {
    test::makeNoiseClip(folder / "a.mkv", 40, {48, 32}, "yuv420p");
    test::makeNoiseClip(folder / "b.mkv", 31, {48, 32}, "yuv420p");
    test::makeNoiseClip(folder / "clear.mkv", 20, {48, 32}, "rgba");
    test::makeNoiseClip(folder / "deep.mkv", 20, {31, 18}, "yuv422p10le");
    test::makeNoiseClip(folder / "gray.mkv", 20, {48, 32}, "gray");
  }
  std::string saved(const Project& project, const std::string& name) {
    const auto done = saveProject(project, folder / name);
    EXPECT_TRUE(done) << done.error().message;
    return folder / name;
  }
  Project over(const std::string& source, const std::vector<std::string>& chain) {
    Project project;
    project.source.path = fs::path(source).is_absolute() ? source : folder / source;
    project.chain = chainOf(chain);
    return project;
  }
  std::vector<Picture> rendered(const Project& project) {
    RenderSettings settings;
    const auto footage = openSource(project.source.path, {project.source.rate}, {}, {});
    EXPECT_TRUE(footage) << footage.error().message;
    settings.footage = *footage;
    settings.project = project;
    settings.project.output.path = folder / "rendered.mkv";
    const auto done = render(settings, nullptr, {});
    EXPECT_TRUE(done) << done.error().message;
    return test::readAll(*test::openFootage(folder / "rendered.mkv"));
  }
  static std::vector<Picture> pictures(const std::string& project) {
    const auto footage = openSource(project, {}, {}, {});
    EXPECT_TRUE(footage) << footage.error().message;
    return footage ? test::readAll(**footage) : std::vector<Picture>();
  }
  static void expectSame(const std::vector<Picture>& a, const std::vector<Picture>& b, const std::string& what) {
    ASSERT_EQ(a.size(), b.size()) << what;
    for (std::size_t n = 0; n < a.size(); ++n) ASSERT_TRUE(test::samePicture(a[n], b[n])) << what << " picture " << n;
  }

  test::TempFolder folder;
};

TEST_F(ResultFootage, ItIsWhatWouldBeRendered) {
  std::mt19937 random(1);
  const std::vector<std::string> clips = {"a.mkv", "b.mkv", "clear.mkv", "deep.mkv", "gray.mkv"};
  const std::vector<std::vector<std::string>> chains = {
      {}, {"pace:spans=0.3s@150%~0.1s+0.8s@40%"}, {"time-field:back=0.3s"}, {"loop"}, {"step-rate:rate=8"}, {"echoes:repeats=2,spacing=0.1s"}, {"finish:exposure=0.4", "strips:count=3"}};
  for (int round = 0; round < 24; ++round) {
    Project inner = over(clips[random() % clips.size()], chains[random() % chains.size()]);
    if (round % 3 == 1) inner.in = 3, inner.out = 11;
    if (round % 3 == 2) {
      // A reel.
      inner.more.push_back({.source = {folder / "b.mkv", {}, {}}, .chain = chainOf(chains[random() % chains.size()])});
      inner.place.to = Rational(1, 5);
      inner.place.cut.dissolve = Rational(2, 25);
    }
    const std::string path = saved(inner, "inner.molten");
    expectSame(pictures(path), rendered(inner), "round " + std::to_string(round));
  }
}

TEST_F(ResultFootage, AShotOfAReelMayBeOneWhereverItStands) {
  const Project inner = over("a.mkv", {"pace:from=0.2s,spans=0.6s@60%", "time-field:back=0.2s"});
  const std::string path = saved(inner, "inner.molten");
  rendered(inner);
  fs::rename(folder / "rendered.mkv", folder / "flat.mkv");
  for (const bool first : {true, false})
    for (const char* chain : {"", "echoes:repeats=2,spacing=0.1s"}) {
      const auto reel = [&](const std::string& source) {
        Project project = over(first ? source : folder / "b.mkv", {});
        Shot other;
        other.source.path = first ? folder / "b.mkv" : source;
        if (*chain) (first ? project.chain : other.chain) = chainOf({chain});
        project.more.push_back(other);
        return project;
      };
      expectSame(rendered(reel(path)), rendered(reel(folder / "flat.mkv")), std::string("first ") + (first ? "yes " : "no ") + chain);
    }
  // And one in it in turn.
  const std::string twice = saved(over(path, {"step-rate:rate=8"}), "twice.molten");
  expectSame(pictures(twice), rendered(over("flat.mkv", {"step-rate:rate=8"})), "two deep");
}

TEST_F(ResultFootage, AnEditShowsWhereItIsUsedHoweverDeep) {
  saved(over("a.mkv", {}), "deepest.molten");
  saved(over(folder / "deepest.molten", {}), "inner.molten");
  Sources sources(test::openFootage(folder / "b.mkv"), std::make_shared<MemoryBudget>(std::size_t(1) << 26), 1);
  SourceMaterial material(std::make_shared<Sources>(test::openFootage(folder / "b.mkv"), std::make_shared<MemoryBudget>(std::size_t(1) << 26), 1), 1);
  const SourceUse use{folder / "inner.molten", std::nullopt};
  const auto before = sources.describe(use, {});
  ASSERT_TRUE(before);
  EXPECT_EQ((*before)->clock().frameCount(), 40);
  EXPECT_EQ((*material.described(use, InBetween::Whole))->made.length, 40);
  EXPECT_EQ(*sources.describe(use, {}), *before) << "what has not changed is not opened again";
  saved(over("b.mkv", {}), "deepest.molten");
  // However coarse the disk's clock is.
  fs::last_write_time(folder / "deepest.molten", fs::last_write_time(folder / "inner.molten") + std::chrono::seconds(5));
  EXPECT_EQ((*sources.describe(use, {}))->clock().frameCount(), 31);
  EXPECT_EQ((*material.described(use, InBetween::Whole))->made.length, 31);
}

TEST_F(ResultFootage, WhatContainsItselfIsRefusedByWhateverWay) {
  const auto refused = [&](const std::string& path, const char* says) {
    const auto footage = openSource(path, {}, {}, {});
    ASSERT_FALSE(footage);
    EXPECT_NE(footage.error().message.find(says), std::string::npos) << footage.error().message;
  };
  saved(over(folder / "one.molten", {}), "one.molten");
  refused(folder / "one.molten", "contains itself");
  saved(over(folder / "two.molten", {}), "one.molten");
  saved(over("a.mkv", {"insert:source=" + (folder / "one.molten")}), "two.molten");
  refused(folder / "one.molten", "contains itself");
  refused(folder / "two.molten", "contains itself");
  Project heard = over("a.mkv", {});
  heard.sounds.push_back(layingSound(folder / "three.molten", 0));
  saved(heard, "three.molten");
  refused(folder / "three.molten", "contains itself");
  EXPECT_FALSE(openProjectSound(folder / "three.molten", std::make_shared<MemoryBudget>(std::size_t(1) << 26), Outline::No));
  for (int i = 0; i < 20; ++i) saved(over(i == 0 ? folder / "a.mkv" : folder / ("deep" + std::to_string(i - 1) + ".molten"), {}), "deep" + std::to_string(i) + ".molten");
  EXPECT_TRUE(openSource(folder / "deep10.molten", {}, {}, {}));
  refused(folder / "deep19.molten", "too deep");
  saved(over("gone.mkv", {}), "lost.molten");
  refused(folder / "lost.molten", "gone.mkv");
}

TEST_F(ResultFootage, NothingThatItReadsIsWrittenOver) {
  const std::string path = saved(over("a.mkv", {"time-field:shape=picture,file=" + (folder / "gray.mkv")}), "inner.molten");
  const std::string middle = saved(over(path, {}), "middle.molten");
  const auto footage = openSource(middle, {}, {}, {});
  ASSERT_TRUE(footage);
  for (const std::string& taken : {folder / "a.mkv", folder / "gray.mkv"}) {
    RenderSettings settings;
    settings.footage = *footage;
    settings.project.source.path = middle;
    settings.project.output.path = taken;
    const auto refused = render(settings, nullptr, {});
    ASSERT_FALSE(refused) << taken;
    EXPECT_NE(refused.error().message.find("part of what the project reads"), std::string::npos) << refused.error().message;
  }
  RenderSettings copied;
  copied.footage = *footage;
  copied.project.source.path = middle;
  copied.project.output.path = folder / "out.mkv";
  copied.sound = SoundWish::Copy;
  const auto refused = render(copied, nullptr, {});
  ASSERT_FALSE(refused);
  EXPECT_NE(refused.error().message.find("middle.molten"), std::string::npos) << refused.error().message;
}

TEST_F(ResultFootage, ItsSoundIsWhatIsHeardFromInToOut) {
  ASSERT_EQ(test::runCommand("ffmpeg -v error -y -f lavfi -i sine=f=300:d=2:r=48000 -f lavfi -i testsrc2=s=64x36:r=25:d=2 -c:v ffv1 -c:a pcm_f32le " + (folder / "tone.mkv")).exitCode, 0);
  Project inner = over("tone.mkv", {"pace:spans=0.5s@100%+1s@50%"});
  inner.in = 5, inner.out = 24;
  const std::string path = saved(inner, "inner.molten");
  const auto budget = std::make_shared<MemoryBudget>(std::size_t(1) << 26);
  const auto feed = openProjectSound(path, budget, Outline::No);
  ASSERT_TRUE(feed) << feed.error().message;
  EXPECT_EQ((*feed)->length(), 20 * soundRate / 25);
  // As its own mix, from in on.
  SoundFiles files(budget, Outline::No);
  const auto footage = test::openFootage(inner.source.path);
  const Piece piece = pieceOf(inner, footage->video());
  const Heard heard = heardOf(inner, std::make_shared<const ChainReading>(inner.chain, footage->video()), piece, files);
  Sound is(20 * soundRate / 25 + 2000), was(is.samples());
  ASSERT_TRUE((*feed)->read(-1000, is, {}));
  ASSERT_TRUE(heard.mix->read(5 * soundRate / 25 - 1000, was, {}));
  double loudest = 0;
  for (std::size_t i = 0; i < is.samples(); ++i) {
    const bool within = i >= 1000 && i < is.samples() - 1000;
    ASSERT_EQ(is.at(i, 0), within ? was.at(i, 0) : 0.0f) << i;
    loudest = std::max<double>(loudest, std::abs(is.at(i, 0)));
  }
  EXPECT_GT(loudest, 0.05);
  // As a shot's own it is heard with the shot.
  const auto nested = openProjectSound(saved(over(path, {}), "outer.molten"), budget, Outline::No);
  ASSERT_TRUE(nested) << nested.error().message;
  Sound again(2000);
  ASSERT_TRUE((*nested)->read(4000, again, {}));
  for (std::size_t i = 0; i < again.samples(); ++i) ASSERT_NEAR(again.at(i, 0), is.at(i + 5000, 0), 1e-4) << i;
  const auto silent = openProjectSound(saved(over("a.mkv", {}), "silent.molten"), budget, Outline::No);
  ASSERT_FALSE(silent);
  EXPECT_NE(silent.error().message.find("no sound"), std::string::npos);
}

TEST_F(ResultFootage, WhatIsKeptIsReadUntilSomethingChanges) {
  const std::string path = saved(over("a.mkv", {"time-field:back=0.3s"}), "inner.molten");
  const auto made = pictures(path);
  // Slowed down, as one shot and in a reel: what lies between its pictures is mixed from those.
  Project slow = over(path, {"pace:spans=1.2s@45%"}), reel = over("b.mkv", {});
  slow.source.between = InBetween::Mixed;
  reel.more.push_back({.source = slow.source, .chain = slow.chain});
  const auto slowed = rendered(slow), inReel = rendered(reel);
  expectSame({inReel.begin() + 31, inReel.end()}, slowed, "in a reel as by itself");
  EXPECT_FALSE(currentKept(path));
  const auto kept = keepResult(path, {}, nullptr, {});
  ASSERT_TRUE(kept) << kept.error().message;
  const auto file = currentKept(path);
  ASSERT_TRUE(file);
  expectSame(pictures(path), made, "kept");
  expectSame(rendered(slow), slowed, "kept and slowed down");
  expectSame(rendered(reel), inReel, "kept, in a reel");
  expectSame(rendered(over(path, {"step-rate:rate=5"})), rendered(over("a.mkv", {"time-field:back=0.3s", "step-rate:rate=5"})), "used by another");
  // It is the file that is read.
  {
    const auto whole = *openSource(path, {}, {}, {});
    EXPECT_EQ(whole->keptIn(), *file);
  }
  fs::copy_file(folder / "gray.mkv", *file, fs::copy_options::overwrite_existing);
  EXPECT_EQ(pictures(path).size(), 20u);
  // Something under it changes: it is made again, and kept under another name.
  fs::last_write_time(folder / "a.mkv", fs::last_write_time(folder / "a.mkv") + std::chrono::seconds(7));
  EXPECT_FALSE(currentKept(path));
  EXPECT_EQ(keptFiles(path).size(), 1u);
  expectSame(pictures(path), made, "made again");
  ASSERT_TRUE(keepResult(path, {}, nullptr, {}));
  EXPECT_EQ(keptFiles(path).size(), 1u) << "what was kept before goes";
  EXPECT_NE(currentKept(path), file);
  ASSERT_TRUE(clearKept(path));
  EXPECT_TRUE(keptFiles(path).empty());
  expectSame(pictures(path), made, "cleared");
}

TEST_F(ResultFootage, EveryFormatIsKeptAsItIsOrNotAtAll) {
  for (const char* clip : {"a.mkv", "clear.mkv", "deep.mkv", "gray.mkv"}) {
    const std::string path = saved(over(clip, {}), "inner.molten");
    const auto made = pictures(path);
    if (const auto kept = keepResult(path, {}, nullptr, {}); !kept) ADD_FAILURE() << clip << " " << kept.error().message;
    expectSame(pictures(path), made, clip);
    EXPECT_TRUE(clearKept(path));
  }
  std::stop_source stop;
  const std::string path = saved(over("a.mkv", {}), "inner.molten");
  const auto stopped = keepResult(path, {}, [&](const RenderProgress&) { stop.request_stop(); }, stop.get_token());
  ASSERT_FALSE(stopped);
  EXPECT_TRUE(stopped.error().cancelled);
  // Floating point is held by no lossless video file.
  ASSERT_EQ(test::runCommand("ffmpeg -v error -y -f lavfi -i testsrc2=s=48x32:r=25:d=0.2 -pix_fmt gbrpf32le " + (folder / "light-%03d.exr")).exitCode, 0);
  const auto refused = keepResult(saved(over("light-%03d.exr", {}), "light.molten"), {}, nullptr, {});
  ASSERT_FALSE(refused);
  EXPECT_NE(refused.error().message.find("no lossless"), std::string::npos) << refused.error().message;
  EXPECT_TRUE(keptFiles(folder / "light.molten").empty());
  EXPECT_TRUE(keptFiles(path).empty());
}

TEST(StageText, AFilesNameMayHaveACommaInIt) {
  const Stage stage = *parseStage("insert:source=/reels/a\\, b=c\\\\d.mkv", 25);
  EXPECT_EQ(valueOf<std::string>(stage, "source"), "/reels/a, b=c\\d.mkv");
  EXPECT_EQ(parseStage(stageText(stage), 25)->values, stage.values);
}

}  // namespace
}  // namespace molten
