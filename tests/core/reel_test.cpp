// Shots in a row: the edits of their row against a plain list, and what is seen when against a slow walk through it.
#include <gtest/gtest.h>

#include <random>

#include "core/project/project_file.h"
#include "core/project/played.h"

namespace molten {
namespace {

Project reelOf(const std::vector<std::string>& files) {
  Project reel;
  reel.source.path = files[0];
  for (std::size_t i = 1; i < files.size(); ++i) reel.more.push_back({.source = {files[i], {}, {}}});
  return reel;
}

ShotRow rowOf(const std::vector<ShotTime>& times) {
  ShotRow row;
  for (const ShotTime& time : times) {
    RowShot shot;
    shot.begin = time.begin, shot.length = time.length, shot.from = time.from, shot.comes = time.comes;
    row.shots.push_back(std::move(shot));
  }
  return row;
}

std::vector<std::string> filesOf(const Project& reel) {
  std::vector<std::string> all;
  for (std::size_t i = 0; i < shotCount(reel); ++i) all.push_back(shotOf(reel, i).source.path);
  return all;
}

TEST(Reel, ItsEditsAreThoseOfARow) {
  std::mt19937 random(1);
  Project reel = reelOf({"a"});
  std::vector<std::string> row{"a"};
  for (int round = 0; round < 500; ++round) {
    const std::size_t shot = random() % row.size(), to = random() % row.size();
    const auto at = row.begin() + static_cast<std::ptrdiff_t>(shot);
    switch (random() % 4) {
      case 0: {
        const std::string one = "s" + std::to_string(round), other = one + "b";
        reel = addShots(reel, shot, {{one, {}, {}}, {other, {}, {}}}).after;
        row.insert(at, {one, other});
        break;
      }
      case 1:
        if (row.size() == 1) break;
        reel = removeShot(reel, shot).after;
        row.erase(at);
        break;
      case 2: {
        reel = duplicateShot(reel, shot).after;
        const std::string same = *at;
        row.insert(at + 1, same);
        break;
      }
      case 3: {
        reel = moveShot(reel, shot, to).after;
        const std::string moved = *at;
        row.erase(at);
        row.insert(row.begin() + static_cast<std::ptrdiff_t>(to), moved);
        break;
      }
    }
    ASSERT_EQ(filesOf(reel), row) << round;
  }
}

TEST(Reel, AShotIsEditedAsAProjectOfItsOwn) {
  Project reel = reelOf({"a.mp4", "b.mp4", "c.mp4"});
  reel.output.rate = 25;
  for (std::size_t shot = 0; shot < 3; ++shot) {
    const Project one = shotAt(reel, shot);
    EXPECT_EQ(one.source.path, filesOf(reel)[shot]);
    EXPECT_TRUE(one.more.empty());
    EXPECT_EQ(one.output.rate, Rational(25));
    const Edit edit = inShot(reel, shot, setSourceRate(one, 12));
    for (std::size_t other = 0; other < 3; ++other) {
      if (other == shot) {
        EXPECT_EQ(shotOf(edit.after, other).source.rate, Rational(12));
      } else {
        EXPECT_EQ(shotOf(edit.after, other), shotOf(reel, other));
      }
    }
  }
}

TEST(Reel, SoundsLieOnAShotsOwnTimeWhileThatIsEdited) {
  Project reel = reelOf({"a.mp4", "b.mp4"});
  reel.sounds = {layingSound("one.wav", 0.1), layingSound("two.wav", 3.3)};
  const double later = -7.0 / 3;
  const Project shot = shotAt(reel, 1, later);
  EXPECT_NEAR(laidSound(shot.sounds[0]).at, 0.1 - 7.0 / 3, 1e-12);
  Project edited = shot;
  LaidSound laid = laidSound(edited.sounds[1]);
  laid.at += 1;
  edited.sounds[1] = withLaidSound(edited.sounds[1], laid);
  edited.sounds.push_back(layingSound("three.wav", 0));
  const Project back = inShot(reel, 1, {"Move", edited, {}}, later).after;
  EXPECT_EQ(back.sounds[0], reel.sounds[0]) << "to the bit";
  EXPECT_NEAR(laidSound(back.sounds[1]).at, 4.3, 1e-12);
  EXPECT_NEAR(laidSound(back.sounds[2]).at, 7.0 / 3, 1e-12);
}

TEST(Reel, InAndOutBecomeTheFirstShotsEnds) {
  Project single = reelOf({"a.mp4"});
  single.in = 10, single.out = 39;
  single.output.length = Rational(2);
  const Project reel = asReel(single, 20);
  EXPECT_EQ(reel.place.from, Rational(1, 2));
  EXPECT_EQ(reel.place.to, Rational(2));
  EXPECT_FALSE(reel.in || reel.out || reel.output.length) << "what was fixed for one is not for all";
  const auto times = shotTimes(reel, {{5, false, nullptr}}, 20);
  EXPECT_EQ(times[0].length, Rational(3, 2));
}

TEST(Reel, FramesOfAShotAndOfTheReelAreFoundFromEachOther) {
  const ShotFrames frames{{0, 4, 2, 1, 0, 0}, 25, 30};
  EXPECT_EQ(frames.first(), 100);
  EXPECT_EQ(frames.last(), 149);
  EXPECT_EQ(frames.toShot(100), 30);
  EXPECT_EQ(frames.toShot(125), 60);
  for (std::int64_t n = 100; n < 150; ++n) EXPECT_EQ(frames.toReel(frames.toShot(n)), n);
  EXPECT_EQ(frames.toReel(0), 100);
  EXPECT_EQ(frames.toReel(1000), 149);
}

TEST(Reel, EveryMomentIsOfTheShotThatLiesThere) {
  std::mt19937 random(2);
  for (int round = 0; round < 200; ++round) {
    std::vector<std::string> files(1 + random() % 5, "x");
    Project reel = reelOf(files);
    std::vector<ShotLength> lengths;
    for (std::size_t i = 0; i < files.size(); ++i) {
      lengths.push_back({Rational(static_cast<std::int64_t>(1 + random() % 100), 10), false, nullptr});
      const Rational from(static_cast<std::int64_t>(random() % 40), 10), to = from + Rational(static_cast<std::int64_t>(1 + random() % 60), 10);
      if (random() % 2) reel = trimShot(reel, i, from, to).after;
      if (random() % 2) reel = setCut(reel, i, {Rational(static_cast<std::int64_t>(random() % 30), 10)}).after;
      if (i > 0 && random() % 6 == 0) reel = switchShot(reel, i, false).after;
    }
    const auto times = shotTimes(reel, lengths, 25);
    ASSERT_FALSE(times.empty());
    EXPECT_EQ(times[0].begin, Rational(0));
    for (std::size_t k = 0; k < times.size(); ++k) {
      const ShotTime& time = times[k];
      EXPECT_GE(time.length, Rational(1, 25));
      EXPECT_GE(time.from, Rational(0));
      EXPECT_LT(time.from + time.length, lengths[time.shot].seconds + Rational(1, 25));
      EXPECT_EQ((time.length * Rational(25)).den(), 1) << "cuts lie on pictures";
      EXPECT_LE(time.comes + time.goes, time.length) << "two dissolves of one shot do not meet";
      if (k > 0) {
        EXPECT_EQ(times[k - 1].end() - time.begin, time.comes);
      }
    }
    // What lies at a moment, looked for among all.
    for (std::int64_t n = 0; Rational(n, 25) < times.back().end(); ++n) {
      const Rational seconds(n, 25);
      std::vector<std::size_t> there;
      for (std::size_t k = 0; k < times.size(); ++k)
        if (seconds >= times[k].begin && seconds < times[k].end()) there.push_back(k);
      ASSERT_FALSE(there.empty());
      ASSERT_LE(there.size(), 2u);
      const RowMoment moment = rowMoment(rowOf(times), seconds);
      EXPECT_EQ(moment.shot, there[0]);
      EXPECT_EQ(moment.next.has_value(), there.size() == 2) << n;
      if (there.size() == 2) {
        EXPECT_EQ(*moment.next, there[1]);
        EXPECT_NEAR(moment.share, ((seconds - times[there[1]].begin) / times[there[1]].comes).toDouble(), 1e-12);
      }
    }
  }
}

/// Whatever is asked for: both sides are as fast at the cut, the pictures beside it stay, and time goes on forwards.
TEST(Reel, ACutThatIsRunThroughIsAsFastOnBothSides) {
  std::mt19937 random(9);
  const Rational rates[] = {25, 30, Rational(24000, 1001), 60};
  int made = 0;
  for (int round = 0; round < 300; ++round) {
    const Rational rate = rates[random() % 4], picture = Rational(1) / rate;
    Project reel = reelOf({"a", "b", "c"});
    std::vector<ShotLength> lengths;
    for (std::size_t i = 0; i < 3; ++i) {
      lengths.push_back({Rational(static_cast<std::int64_t>(5 + random() % 200)) / rate, false, nullptr});
      if (random() % 3 == 0) reel = trimShot(reel, i, picture * Rational(static_cast<std::int64_t>(random() % 4)), std::nullopt).after;
      Cut cut;
      if (i < 2 && random() % 4) cut.through = {Rational(static_cast<std::int64_t>(10 + random() % 990), 100), Rational(static_cast<std::int64_t>(random() % 150), 100)};
      reel = setCut(reel, i, cut).after;
    }
    Project hard = reel;
    for (std::size_t i = 0; i < 3; ++i) hard = setCut(hard, i, {}).after;
    const auto times = shotTimes(reel, lengths, rate), before = shotTimes(hard, lengths, rate);
    for (std::size_t k = 0; k < 3; ++k) {
      EXPECT_EQ((times[k].begin * rate).den(), 1);
      EXPECT_EQ((times[k].length * rate).den(), 1);
      if (!times[k].course) continue;
      ++made;
      const PaceCurve& course = *times[k].course;
      EXPECT_EQ(course.length(), times[k].length) << round;
      const double first = before[k].from.toDouble(), last = (before[k].from + before[k].length - picture).toDouble();
      EXPECT_NEAR(course.atSeconds(0), first, 1e-9);
      const bool goes = k < 2 && placeOf(reel, times[k].shot).cut.through.speed != Rational(1);
      // The picture before a cut that is run through, or else where it ends.
      EXPECT_NEAR(course.atSeconds((times[k].length - (goes ? picture : Rational(0))).toDouble()), goes ? last : last + picture.toDouble(), picture.toDouble() / 500)
          << round << " shot " << k;
      double was = -1;
      for (Rational at = 0; at < times[k].length; at = at + picture) {
        const double is = course.atSeconds(at.toDouble());
        EXPECT_GE(is, was);
        was = is;
      }
      if (k == 2 || !times[k + 1].course) continue;
      const double v = placeOf(reel, times[k].shot).cut.through.speed.toDouble();
      if (v == 1) continue;
      const double out = (course.atSeconds(times[k].length.toDouble()) - course.atSeconds((times[k].length - picture).toDouble())) / picture.toDouble();
      const double in = (times[k + 1].course->atSeconds(picture.toDouble()) - times[k + 1].course->atSeconds(0)) / picture.toDouble();
      EXPECT_NEAR(out, v, v / 100) << round;
      EXPECT_NEAR(in, v, v / 100) << round;
    }
  }
  EXPECT_GT(made, 300);
}

/// What a chain does to time counts: it is the footage that is as fast on both sides.
TEST(Reel, ItIsTheFootageThatIsAsFastOnBothSides) {
  VideoDescription video;
  video.size = {320, 180};
  video.rate = 25;
  video.length = 200;
  Project reel = reelOf({"a", "b"});
  reel.chain = {*parseStage("pace:spans=6s@40%", 25)};
  reel.more[0].chain = {*parseStage("pace:spans=3s@250%~0.5s+3s@50%", 25)};
  // What lies beyond the trim is there to be raced into.
  reel.place.to = Rational(4);
  reel = setCut(reel, 0, {.through = {4, Rational(1, 2)}}).after;
  const auto describe = [&](const Source&) { return Result<VideoDescription>(video); };
  const auto played = playedOf(reel, video, describe);
  ASSERT_TRUE(played);
  const auto readings = readingsOf(reel, *played, video, describe);
  const auto footage = [&](std::size_t shot, double picture) { return readings[shot]->sourceOf(readings[shot]->size(), picture) / 25; };
  const double last = (played->times[0].length * Rational(25)).toDouble();
  EXPECT_NEAR((footage(0, last) - footage(0, last - 1)) * 25, 4, 0.04);
  EXPECT_NEAR((footage(1, 1) - footage(1, 0)) * 25, 4, 0.04);
}

TEST(Reel, FramesAreFoundThroughACut) {
  Project reel = reelOf({"a", "b"});
  reel = setCut(reel, 0, {.through = {5, Rational(1, 2)}}).after;
  const auto times = shotTimes(reel, {{4, false, nullptr}, {4, false, nullptr}}, 25);
  EXPECT_LT(times[0].length, Rational(4)) << "what races takes less time";
  const ShotFrames first{times[0], 25, 25}, second{times[1], 25, 25};
  EXPECT_EQ(first.toShot(first.last()), 99);
  EXPECT_EQ(second.toShot(second.first()), 0);
  for (std::int64_t n = first.first(); n <= first.last(); ++n) EXPECT_LE(first.toReel(first.toShot(n)), n);
  for (std::int64_t n = 0; n < 100; ++n) {
    const std::int64_t at = first.toReel(n);
    EXPECT_TRUE(first.toShot(at) >= n && (at == first.first() || first.toShot(at - 1) < n)) << n;
  }
}

TEST(Reel, ASplitShowsTheSame) {
  Project reel = reelOf({"a", "b"});
  reel = setCut(reel, 0, {Rational(1, 2)}).after;
  const std::vector<ShotLength> lengths{{4, false, nullptr}, {3, false, nullptr}};
  const Project split = splitShot(reel, 0, Rational(38, 25)).after;
  ASSERT_EQ(shotCount(split), 3u);
  const auto before = shotTimes(reel, lengths, 25), after = shotTimes(split, {lengths[0], lengths[0], lengths[1]}, 25);
  EXPECT_EQ(before.back().end(), after.back().end());
  for (std::int64_t n = 0; n < 162; ++n) {
    const Rational seconds(n, 25);
    const RowMoment one = rowMoment(rowOf(before), seconds), other = rowMoment(rowOf(after), seconds);
    const auto at = [&](const std::vector<ShotTime>& times, std::size_t k) { return times[k].from + seconds - times[k].begin; };
    EXPECT_EQ(at(before, one.shot), at(after, other.shot));
    EXPECT_EQ(one.next.has_value(), other.next.has_value());
    EXPECT_EQ(one.share, other.share);
  }
}

TEST(Reel, IsWrittenAndReadAsItIs) {
  Project reel = reelOf({"/films/a.mp4", "/films/b.mp4", "/films/a.mp4", "/films/c.mp4"});
  reel.more[0].source.rate = 24;
  reel.more[1].source.between = InBetween::Flow;
  reel.more[0].chain = {*parseStage("echoes", 25)};
  reel.more[0].versionB = Chain{*parseStage("loop", 25)};
  reel.chain = {*parseStage("pace:spans=1s@50%", 25)};
  reel.reelChain = {*parseStage("finish:exposure=1", 25)};
  reel = trimShot(reel, 0, Rational(1, 3), Rational(5, 2)).after;
  reel = setCut(reel, 1, {Rational(2, 5), true}).after;
  reel = setCut(reel, 2, {.through = {Rational(7, 2), Rational(3, 4)}}).after;
  reel = switchShot(reel, 2, false).after;
  reel = renameShot(reel, 3, "the end").after;
  reel.more[2].place.fills = true;
  const std::string text = projectText(reel, "/films");
  const auto back = parseProject(text, "/films");
  ASSERT_TRUE(back) << back.error().message;
  EXPECT_EQ(*back, reel);
  EXPECT_EQ(projectText(*back, "/films"), text);
  // A shot of its own is written as ever: nothing of a reel.
  const std::string single = projectText(reelOf({"/films/a.mp4"}), "/films");
  for (const char* word : {"\"cut\"", "\"from\"", "\"fills\"", "\"reel\""}) EXPECT_EQ(single.find(word), std::string::npos) << word;
}

TEST(Reel, WhatIsAmissInItsFileIsSaid) {
  const auto why = [](const std::string& shots) {
    const auto parsed = parseProject(R"({"format":2,"sources":[{"path":"a"}],"shots":)" + shots + "}", "/films");
    return parsed ? std::string("taken") : parsed.error().message;
  };
  EXPECT_EQ(why(R"([{"source":0},{"source":0}])"), "taken");
  EXPECT_NE(why(R"([{"source":1}])").find("source that is not there"), std::string::npos);
  EXPECT_NE(why(R"([{"source":0,"from":"-1"}])").find("\"from\""), std::string::npos);
  EXPECT_NE(why(R"([{"source":0,"on":1}])").find("\"on\""), std::string::npos);
  EXPECT_NE(why(R"([{"source":0,"cut":7}])").find("cut"), std::string::npos);
  EXPECT_NE(why(R"([{"source":0,"cut":{"run-through":{"speed":"900"}}}])").find("run through"), std::string::npos);
  EXPECT_NE(why(R"([{"source":0,"cut":{"run-through":{"speed":"0"}}}])").find("run through"), std::string::npos);
  EXPECT_NE(why("[]").find("shots"), std::string::npos);
}

}  // namespace
}  // namespace molten
