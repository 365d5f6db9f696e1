// Sources: opened once, decoded once, whoever looks; projects as sources; files that change and go.
#include <gtest/gtest.h>

#include "core/engine/evaluator.h"
#include "core/engine/render_job.h"
#include "core/project/missing_files.h"
#include "core/project/project_file.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

class SourcesTest : public ::testing::Test {
 protected:
  std::string clip(const std::string& name, int frames = 10, Size size = {48, 32}) {
    test::makeNoiseClip(folder / (name + ".mkv"), frames, size, "yuv444p");
    return folder / (name + ".mkv");
  }
  static std::shared_ptr<Evaluator> over(const std::string& path) {
    return std::make_shared<Evaluator>(std::make_shared<FrameFeed>(test::openFootage(path), std::size_t(1) << 27, 1), 2);
  }
  static Result<Picture> pictureOf(Evaluator& evaluator, const Chain& chain, std::int64_t n) {
    return evaluator.picture(evaluator.plan(chain, {}), {n}, {});
  }
  TempFolder folder;
};

TEST_F(SourcesTest, OneClipIsDecodedOnceWhateverLooksAtIt) {
  const std::string path = clip("one", 24);
  const auto feed = std::make_shared<FrameFeed>(test::openFootage(path), std::size_t(1) << 27, 1);
  Evaluator evaluator(feed, 2);
  // Footage, a field's clip, a field of the video itself, and an Insert.
  const Chain chain = chainOf({"time-field:shape=footage,back=0.1s", "time-field:shape=picture,file=" + path + ",back=0.2s",
                               "insert:scale=50%,opacity=50%,source=" + path, "insert/time-field:shape=footage,back=0.1s"});
  const PicturePlan plan = evaluator.plan(chain, {});
  for (std::int64_t n = 0; n < 24; ++n) ASSERT_TRUE(evaluator.picture(plan, {n}, {}));
  EXPECT_EQ(feed->decoded(), 24u);
  EXPECT_EQ(evaluator.sources().feed({path}, {})->get(), feed.get());
}

/// Memory for what is in reach as pictures, and for a few frames: nothing is decoded twice, and nothing ahead that is at hand.
TEST_F(SourcesTest, WhatIsMixedAgainIsDecodedOnceInLittleMemory) {
  const auto footage = test::openFootage(clip("one", 60));
  const std::size_t frame = footage->shape().bytes();
  const auto little = std::make_shared<Sources>(footage, std::make_shared<MemoryBudget>(30 * frame), 1, 5 * frame);
  const auto plenty = std::make_shared<Sources>(footage, std::make_shared<MemoryBudget>(1000 * frame), 1, 100 * frame);
  Evaluator one(little, 2), other(plenty, 2);
  for (const char* words : {"echoes:repeats=4,spacing=3f,mix=light", "echoes:repeats=4,spacing=3f,mix=light,reckoned-in=linear"}) {
    const PicturePlan plan = one.plan(chainOf({words}), {}), roomy = other.plan(chainOf({words}), {});
    const std::size_t before = little->feed()->decoded();
    for (std::int64_t n = 0; n < 60; ++n) {
      const auto made = one.picture(plan, {n}, {}), same = other.picture(roomy, {n}, {});
      ASSERT_TRUE(made && same);
      ASSERT_TRUE(test::samePicture(*made, *same)) << words << ' ' << n << ": whatever is kept, and in what form";
      if (n < 12 || n == 59) continue;
      const std::vector<SourceFrames> soon = plan.sourcesFor({n + 1});
      EXPECT_EQ(soon[0].frames, std::vector{static_cast<std::int32_t>(n + 1)});
    }
    EXPECT_EQ(little->feed()->decoded() - before, 60u) << words;
  }
}

TEST_F(SourcesTest, TheSameChainAtAnotherScaleIsPlannedWithoutLookingAtTheVideo) {
  const auto evaluator = over(clip("one", 24));
  const Chain chain = chainOf({"time-field:shape=footage,back=0.3s"});
  const PicturePlan large = evaluator->plan(chain, {});
  EXPECT_TRUE(evaluator->looksAtVideo());
  const PicturePlan small = evaluator->plan(chain, {2}, &large);
  EXPECT_FALSE(evaluator->looksAtVideo()) << "that may have to be decoded first";
  const PicturePlan alone = evaluator->plan(chain, {2});
  for (const std::int64_t n : {0, 12, 23}) {
    const auto made = evaluator->picture(small, {n}, {}), expected = evaluator->picture(alone, {n}, {});
    ASSERT_TRUE(made && expected);
    EXPECT_TRUE(test::samePicture(*made, *expected)) << n;
  }
}

TEST_F(SourcesTest, AProjectIsASource) {
  const std::string under = clip("under"), over = clip("over", 12), third = clip("third", 12);
  Project inner;
  inner.source.path = over;
  inner.chain = chainOf({"time-field:back=0.2s", "insert:scale=50%,source=" + third});
  inner.in = 2, inner.out = 7;
  ASSERT_TRUE(saveProject(inner, folder / "inner.molten"));
  const auto evaluator = this->over(under), alone = this->over(over);
  const Chain chain = chainOf({"insert:past-the-ends=stand-still,source=" + (folder / "inner.molten")});
  for (const std::int64_t n : {0, 3, 5, 9}) {
    const auto made = pictureOf(*evaluator, chain, n);
    ASSERT_TRUE(made) << made.error().message;
    EXPECT_TRUE(test::samePicture(*made, *pictureOf(*alone, inner.chain, 2 + std::min<std::int64_t>(n, 5)))) << n;
  }
  // It follows its file.
  inner.chain.clear();
  ASSERT_TRUE(saveProject(inner, folder / "inner.molten"));
  EXPECT_TRUE(test::samePicture(*pictureOf(*evaluator, chain, 0), *pictureOf(*alone, {}, 2)));
}

TEST_F(SourcesTest, NoProjectContainsItself) {
  const std::string under = clip("under");
  Project a, b;
  a.source.path = b.source.path = under;
  a.chain = chainOf({"insert:source=" + (folder / "b.molten")});
  b.chain = chainOf({"insert:source=" + (folder / "a.molten")});
  ASSERT_TRUE(saveProject(a, folder / "a.molten"));
  ASSERT_TRUE(saveProject(b, folder / "b.molten"));
  const auto evaluator = over(under);
  const auto made = pictureOf(*evaluator, a.chain, 0);
  ASSERT_FALSE(made);
  EXPECT_NE(made.error().message.find("contains itself"), std::string::npos) << made.error().message;
  // Nor by another way into it.
  b.chain = chainOf({"insert", "insert/pace"});
  b.chain[0].branch = a.chain;
  setTo(b.chain[0], "source", under);
  ASSERT_TRUE(saveProject(b, folder / "b.molten"));
  EXPECT_FALSE(pictureOf(*evaluator, a.chain, 0));
}

TEST_F(SourcesTest, AllSourcesAreSavedAndMoveTogether) {
  std::filesystem::create_directory(folder / "a");
  const std::string under = clip("a/under"), over = clip("a/over", 12);
  ASSERT_EQ(test::runCommand("ffmpeg -v error -i " + over + " " + (folder / "a/still-%02d.png")).exitCode, 0);
  Project inner;
  inner.source.path = over;
  inner.chain = chainOf({"loop"});
  ASSERT_TRUE(saveProject(inner, folder / "a/inner.molten"));
  Project project;
  project.source.path = under;
  project.chain = chainOf({"insert:scale=40%,source=" + over, "insert/time-field:back=0.1s", "insert:at=0.2x0.2,scale=30%,source=" + (folder / "a/inner.molten"),
                           "insert:at=0.8x0.8,scale=30%,source=" + (folder / "a/still-%02d.png"),
                           "insert:at=0.8x0.2,scale=30%,source=" + (folder / "a/still-03.png"), "insert:source=blank:48x32@25:1s", "insert/insert:shows=title,text=O",
                           "insert:at=0.2x0.8,scale=30%,source=" + under});
  ASSERT_TRUE(saveProject(project, folder / "a/all.molten"));
  const auto wanted = pictureOf(*this->over(under), project.chain, 4);
  ASSERT_TRUE(wanted) << wanted.error().message;
  std::filesystem::rename(folder / "a", folder / "b");
  const auto moved = loadProject(folder / "b/all.molten");
  ASSERT_TRUE(moved) << moved.error().message;
  EXPECT_EQ(moved->chain[0].branch, project.chain[0].branch);
  EXPECT_EQ(valueOf<std::string>(moved->chain[0], "source"), folder / "b/over.mkv");
  EXPECT_EQ(valueOf<std::string>(moved->chain[5], "source"), moved->source.path);
  const auto made = pictureOf(*this->over(moved->source.path), moved->chain, 4);
  ASSERT_TRUE(made) << made.error().message;
  EXPECT_TRUE(test::samePicture(*made, *wanted));
  EXPECT_EQ(projectText(*moved, folder / "b"), projectText(project, folder / "a"));
}

/// A source that is asked for by its chain alone, as text and back.
/// In both versions of the chain and in branches; one is shown where it is, and the others that lie there are found with it.
TEST_F(SourcesTest, WhatIsMissingIsFoundWithAllThatLieThere) {
  std::filesystem::create_directories(folder / "a/deep");
  const std::string under = clip("a/under"), over = clip("a/deep/over"), third = clip("a/third"), alone = clip("alone");
  ASSERT_EQ(test::runCommand("ffmpeg -v error -i " + over + " " + (folder / "a/still-%02d.png")).exitCode, 0);
  Project project;
  project.source.path = under;
  project.in = 2;
  project.chain = chainOf({"insert:source=" + over, "insert/insert:source=" + third, "time-field:shape=picture,file=" + alone,
                           "insert:source=" + (folder / "a/still-%02d.png")});
  project.versionB = chainOf({"insert:source=" + over, "insert:source=" + under});
  EXPECT_TRUE(missingFiles(project).empty());
  std::filesystem::rename(folder / "a", folder / "b");
  const std::vector<MissingFile> missing = missingFiles(project);
  ASSERT_EQ(missing.size(), 4u);
  EXPECT_EQ(missing[0], (MissingFile{under, ""}));
  EXPECT_EQ(missing[1], (MissingFile{over, "Insert"}));
  // By any of them, in a folder or below one.
  for (const auto& [was, is] : {std::pair(over, folder / "b/deep/over.mkv"), std::pair(third, folder / "b/third.mkv")}) {
    const Edit edit = withFound(project, missing, was, is);
    EXPECT_EQ(edit.name, "Find " + std::filesystem::path(is).filename().string() + " and 3 others");
    EXPECT_TRUE(missingFiles(edit.after).empty());
    EXPECT_EQ(edit.after.source.path, folder / "b/under.mkv");
    EXPECT_EQ(edit.after.in, 2);
    EXPECT_EQ(valueOf<std::string>(edit.after.chain[0], "source"), folder / "b/deep/over.mkv");
    EXPECT_EQ(valueOf<std::string>(edit.after.chain[0].branch[0], "source"), folder / "b/third.mkv");
    EXPECT_EQ(valueOf<std::string>(edit.after.chain[1], "file"), alone);
    EXPECT_EQ(valueOf<std::string>(edit.after.chain[2], "source"), folder / "b/still-%02d.png");
    EXPECT_EQ(valueOf<std::string>((*edit.after.versionB)[1], "source"), folder / "b/under.mkv");
  }
  // One of numbered stills is chosen, and all are meant.
  const Edit stills = withFound(project, missing, folder / "a/still-%02d.png", folder / "b/still-07.png");
  EXPECT_EQ(valueOf<std::string>(stills.after.chain[2], "source"), folder / "b/still-%02d.png");
  // Another name is taken as it is.
  EXPECT_EQ(withFound(project, missing, under, alone).after.source.path, alone);
}

TEST_F(SourcesTest, ChainsOfSourcesAreWrittenAsText) {
  const Chain chain = chainOf({"insert:scale=40%,source=/x/y.mkv", "insert/pace:spans=1s@50%", "insert/insert:source=/x/z.mkv", "insert/insert/loop"});
  ASSERT_EQ(chain.size(), 1u);
  ASSERT_EQ(chain[0].branch.size(), 2u);
  EXPECT_EQ(chain[0].branch[1].branch.size(), 1u);
  const auto again = parseChain(chainText(chain, ""), 25, "", 2);
  ASSERT_TRUE(again) << again.error().message;
  EXPECT_EQ(*again, chain);
  Chain none;
  const auto wrong = appendStage(none, "insert/pace", 25);
  ASSERT_FALSE(wrong);
  EXPECT_NE(wrong.error().message.find("There is no insert before"), std::string::npos) << wrong.error().message;
}

/// Frames of several sources in one small budget: read again rather than held.
TEST_F(SourcesTest, TheBudgetHoldsForAllSources) {
  const std::string under = clip("under", 30, {320, 180}), over = clip("over", 30, {320, 180}), third = clip("third", 30, {320, 180});
  const std::size_t frame = test::openFootage(under)->shape().bytes();
  auto budget = std::make_shared<MemoryBudget>(frame * 30);
  const auto feed = std::make_shared<FrameFeed>(test::openFootage(under), budget, 1);
  Evaluator evaluator(feed, 2);
  const Chain chain = chainOf({"time-field:back=0.6s", "insert:scale=60%,source=" + over, "insert/time-field:back=0.6s", "insert:scale=30%,source=" + third});
  const auto plan = evaluator.plan(chain, {});
  for (std::int64_t n = 0; n < 30; n += 3) {
    ASSERT_TRUE(evaluator.picture(plan, {n}, {}));
    EXPECT_LE(budget->used(), budget->limit() + budget->limit() / 10);
  }
}

}  // namespace
}  // namespace molten
