// Stages that become a source and come back, other footage in place of what there is, and a folder of clips through one chain.
#include <gtest/gtest.h>

#include <fstream>

#include "core/engine/project_footage.h"
#include "core/project/chain_source.h"
#include "core/project/each.h"
#include "core/project/project_file.h"
#include "core/project/swap.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

TEST(ChainSource, TheFirstStagesMoveAndComeBack) {
  test::TempFolder folder;
  test::makeNoiseClip(folder / "a.mkv", 40, {48, 32}, "yuv420p");
  Project project;
  project.source = {folder / "a.mkv", {}, InBetween::Mixed};
  project.chain = chainOf({"time-field:back=0.3s", "pace:spans=0.8s@100%", "step-rate:rate=5"});
  project.versionB = chainOf({"loop"});
  project.in = 2, project.out = 12;
  const std::string path = folder / "a-source.molten";
  const TurnedIntoSource turned = turnIntoSource(project, 2, path);
  EXPECT_EQ(turned.source.source, project.source);
  EXPECT_EQ(turned.source.chain, chainOf({"time-field:back=0.3s", "pace:spans=0.8s@100%"}));
  EXPECT_EQ(turned.edit.after.source.path, path);
  EXPECT_EQ(turned.edit.after.source.between, InBetween::Mixed);
  EXPECT_EQ(turned.edit.after.chain, chainOf({"step-rate:rate=5"}));
  EXPECT_EQ(turned.edit.after.in, 2);
  EXPECT_EQ(turned.edit.name, "Turn 2 stages into a source");
  // It shows the same: whole pictures are read of it.
  ASSERT_TRUE(saveProject(turned.source, path));
  ASSERT_TRUE(saveProject(project, folder / "was.molten"));
  ASSERT_TRUE(saveProject(turned.edit.after, folder / "is.molten"));
  const auto was = openSource(folder / "was.molten", {}, {}, {}), is = openSource(folder / "is.molten", {}, {}, {});
  ASSERT_TRUE(was && is);
  const auto a = test::readAll(**was), b = test::readAll(**is);
  ASSERT_EQ(a.size(), b.size());
  for (std::size_t n = 0; n < a.size(); ++n) EXPECT_TRUE(test::samePicture(a[n], b[n])) << n;
  const auto back = takeSourceApart(turned.edit.after, turned.source);
  ASSERT_TRUE(back);
  EXPECT_EQ(back->after.chain, project.chain);
  EXPECT_EQ(back->after.source, project.source);
  EXPECT_EQ(back->name, "Take a-source.molten apart");
}

TEST(ChainSource, SoundsThatValuesFollowGoAlongUnheard) {
  Project project;
  project.source.path = "/films/a.mkv";
  project.chain = chainOf({"finish:exposure=0_follow_loudness_2", "loop"});
  project.sounds.push_back(layingSound("/films/beat.wav", 1.5));
  setText(project.ownSound, "other-speeds", "silent");
  const TurnedIntoSource turned = turnIntoSource(project, 1, "/films/a-source.molten");
  ASSERT_EQ(turned.source.sounds.size(), 1u);
  EXPECT_EQ(laidSound(turned.source.sounds[0]).at, 1.5);
  EXPECT_TRUE(soundSwitches(turned.source.sounds[0]).mute);
  EXPECT_EQ(otherSpeeds(turned.source.ownSound), OtherSpeeds::Silent);
  EXPECT_EQ(turned.edit.after.sounds, project.sounds);
  EXPECT_TRUE(takeSourceApart(turned.edit.after, turned.source));
  // Stages that follow nothing need none.
  project.chain = chainOf({"loop"});
  EXPECT_TRUE(turnIntoSource(project, 1, "/films/a-source.molten").source.sounds.empty());
}

TEST(ChainSource, WhatIsMoreThanAChainIsNotTakenApart) {
  Project outer;
  outer.source.path = "/films/inner.molten";
  Project inner;
  inner.source.path = "/films/a.mkv";
  const auto refused = [&](const Project& source, const char* says) {
    const auto edit = takeSourceApart(outer, source);
    ASSERT_FALSE(edit);
    EXPECT_NE(edit.error().message.find(says), std::string::npos) << edit.error().message;
    EXPECT_NE(edit.error().message.find("inner.molten"), std::string::npos);
  };
  Project reel = inner;
  reel.more.push_back({.source = {"/films/b.mkv", {}, {}}});
  refused(reel, "several shots");
  Project part = inner;
  part.in = 4;
  refused(part, "a part");
  Project sung = inner;
  sung.sounds.push_back(layingSound("/films/beat.wav", 0));
  refused(sung, "sounds are laid");
  Project crowded = inner;
  crowded.chain.assign(mostStages, newStage(*findStageKind("loop")));
  outer.chain = chainOf({"loop"});
  refused(crowded, "longer than");
}

VideoDescription video(Size size, Rational rate, std::int64_t length) {
  return {size, 1, rate, length};
}

TEST(Swap, OneShotOrAllThatUseAClip) {
  Project reel;
  reel.source = {"/films/a.mkv", Rational(24), {}};
  for (const char* path : {"/films/b.mkv", "/films/a.mkv"}) reel.more.push_back({.source = {path, {}, {}}});
  reel.place.to = Rational(2);
  EXPECT_EQ(shotsOf(reel, "/films/a.mkv"), 2u);
  const Edit all = swapFootage(reel, "/films/a.mkv", "/films/new.mkv");
  EXPECT_EQ(all.name, "Replace footage with new.mkv in 2 shots");
  EXPECT_EQ(all.after.source.path, "/films/new.mkv");
  EXPECT_FALSE(all.after.source.rate) << "that was the old clip's";
  EXPECT_EQ(all.after.more[0].source.path, "/films/b.mkv");
  EXPECT_EQ(all.after.more[1].source.path, "/films/new.mkv");
  EXPECT_EQ(all.after.place.to, Rational(2)) << "trims stay";
}

TEST(Swap, WhatDoesNotFitHasARemedy) {
  Project reel;
  reel.source.path = "/films/a.mkv";
  reel.place.name = "pour";
  reel.more.push_back({.source = {"/films/b.mkv", {}, {}}});
  reel.place.from = Rational(1), reel.place.to = Rational(4);
  const auto was = video({1920, 1080}, 25, 250);
  EXPECT_TRUE(misfits(reel, 0, was, was).empty());
  EXPECT_TRUE(misfits(reel, 0, was, video({1280, 720}, 25, 100)).empty()) << "of the same shape and long enough";
  const auto one = [&](const VideoDescription& is) {
    const auto all = misfits(reel, 0, was, is);
    EXPECT_EQ(all.size(), 1u);
    return all.empty() ? Misfit() : all[0];
  };
  // Too short for its end, and for its beginning.
  const Misfit end = one(video({1920, 1080}, 25, 75));
  EXPECT_EQ(end.says, "pour is shown to 4.00 s, and what there is now ends at 3.00 s.");
  ASSERT_TRUE(end.remedy);
  EXPECT_EQ(end.remedy->after.place.from, Rational(1));
  EXPECT_FALSE(end.remedy->after.place.to);
  EXPECT_TRUE(misfits(end.remedy->after, 0, was, video({1920, 1080}, 25, 75)).empty());
  const Misfit begin = one(video({1920, 1080}, 25, 20));
  ASSERT_TRUE(begin.remedy);
  EXPECT_FALSE(begin.remedy->after.place.from);
  EXPECT_EQ(begin.remedy->name, "Take off the ends of pour");
  const Misfit tall = one(video({1080, 1920}, 25, 250));
  ASSERT_TRUE(tall.remedy);
  EXPECT_TRUE(tall.remedy->after.place.fills);
  EXPECT_NE(tall.says.find("1080 × 1920 in place of 1920 × 1080"), std::string::npos);
  EXPECT_FALSE(one(video({1920, 1080}, 50, 500)).remedy) << "the reel's rate is its own";
}

TEST(Swap, OneShotAloneStaysAtItsRateAndWithinItsFootage) {
  Project project;
  project.source.path = "/films/a.mkv";
  project.chain = chainOf({"pace:from=1s,spans=3s@100%"});
  const auto was = video({1920, 1080}, 25, 250);
  EXPECT_TRUE(misfits(project, 0, was, video({1920, 1080}, 25, 101)).empty());
  const auto rates = misfits(project, 0, was, video({1920, 1080}, 50, 500));
  ASSERT_EQ(rates.size(), 1u);
  ASSERT_TRUE(rates[0].remedy);
  EXPECT_EQ(rates[0].remedy->after.output.rate, Rational(25));
  const auto shorter = misfits(project, 0, was, video({1920, 1080}, 25, 60));
  ASSERT_EQ(shorter.size(), 1u);
  ASSERT_TRUE(shorter[0].remedy);
  EXPECT_EQ(shorter[0].remedy->after.out, 34) << "the last picture that reads within it";
}

TEST(Each, EveryClipOfAFolderHasAResultOfItsOwn) {
  test::TempFolder folder;
  namespace fs = std::filesystem;
  fs::create_directory(folder / "clips");
  fs::create_directory(folder / "clips/still");
  const auto touch = [&](const std::string& name) { std::ofstream(folder / ("clips/" + name)) << "x"; };
  for (const char* name : {"b.mp4", "a take, 2.MOV", "notes.txt", ".hidden.mp4"}) touch(name);
  touch("still/s-00001.png"), touch("still/s-00002.png");
  const auto all = eachClipOf(folder / "clips", folder / "%s-out.mp4");
  ASSERT_TRUE(all) << all.error().message;
  ASSERT_EQ(all->size(), 3u);
  EXPECT_EQ((*all)[0], (EachClip{folder / "clips/a take, 2.MOV", folder / "a take, 2-out.mp4"}));
  EXPECT_EQ((*all)[1], (EachClip{folder / "clips/b.mp4", folder / "b-out.mp4"}));
  EXPECT_EQ((*all)[2], (EachClip{folder / "clips/still", folder / "still-out.mp4"}));
  const auto refused = [&](const std::string& where, const std::string& output, const char* says) {
    const auto none = eachClipOf(where, output);
    ASSERT_FALSE(none);
    EXPECT_NE(none.error().message.find(says), std::string::npos) << none.error().message;
  };
  refused(folder / "clips", folder / "out.mp4", "%s");
  refused(folder / "clips", folder / "clips/%s.mp4", "written over a clip");
  refused(folder / "nowhere", folder / "%s.mp4", "cannot be looked through");
  fs::create_directory(folder / "empty");
  refused(folder / "empty", folder / "%s.mp4", "no clip");
  touch("b.mkv");
  refused(folder / "clips", folder / "%s.mp4", "would both become");
}

}  // namespace
}  // namespace molten
