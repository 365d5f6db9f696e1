// A reel written as other programs read one, and read back: what comes back shows the same frames.
#include <gtest/gtest.h>

#include <nlohmann/json.hpp>
#include <random>

#include "core/project/edl.h"
#include "core/project/frame_list.h"
#include "core/project/otio.h"
#include "support/stages.h"

namespace molten {
namespace {

VideoDescription tenSeconds(Rational rate) {
  VideoDescription video;
  video.size = {320, 180};
  video.rate = rate;
  video.length = (rate * Rational(10)).floor();
  return video;
}

/// Files named by their rate: `/films/25-a.mp4`.
const DescribeSource byName = [](const Source& source) -> Result<VideoDescription> {
  const std::string name = source.path.substr(source.path.rfind('/') + 1);
  return tenSeconds(*parseRate(name.substr(0, name.find('-'))));
};

struct Listed {
  Project project;
  Played played;
  std::vector<std::shared_ptr<const ChainReading>> readings;
};
Listed listed(const Project& project) {
  auto played = playedOf(project, std::nullopt, byName);
  EXPECT_TRUE(played);
  auto readings = readingsOf(project, *played, std::nullopt, byName);
  return {project, std::move(*played), std::move(readings)};
}

/// What picture n shows: of which file, at which of its seconds; in a dissolve of the one that is seen more.
std::pair<std::string, double> shownAt(const Listed& reel, std::int64_t n) {
  const Rational at = Rational(n) / reel.played.piece.rate;
  const RowMoment seen = rowMoment(*reel.played.row, at);
  const std::size_t k = seen.next && seen.share > 0.5 ? *seen.next : seen.shot;
  const ShotTime& time = reel.played.times[k];
  const auto& reading = reel.readings[time.shot];
  const Rational local = (time.course ? Rational(0) : time.from) + at - time.begin;
  return {sourceOf(reel.project, time.shot).path, reading->sourceOf(reading->size(), (local * reading->outgoing().rate).toDouble()) / reading->source().rate.toDouble()};
}

Project randomReel(std::mt19937& random, Rational rate, bool bent) {
  const std::vector<std::string> chains = {"", "", "pace:spans=4s@50%", "pace:from=9s,spans=3s@-100%", "pace:from=2s,spans=3s@0%", "pace:spans=2.5s@200%"};
  const std::vector<std::string> curves = {"pace:spans=1s@100%~0.5s+2s@40%", "pace:spans=1s@-50%~0.2s+2s@300%,from=1s"};
  std::vector<Shot> shots;
  const std::size_t count = 2 + random() % 4;
  for (std::size_t i = 0; i < count; ++i) {
    Shot shot;
    shot.source.path = std::string("/films/") + (random() % 2 ? "25-a.mp4" : "50-b with, odd \"name\".mp4");
    const std::string& chain = bent && random() % 2 ? curves[random() % curves.size()] : chains[random() % chains.size()];
    if (!chain.empty()) shot.chain = chainOf({chain});
    shot.place.name = "shot " + std::to_string(i);
    const Rational from(static_cast<std::int64_t>(random() % 20), 25);
    shot.place.from = from;
    shot.place.to = from + Rational(static_cast<std::int64_t>(20 + random() % 25), 25);
    if (random() % 2) shot.place.cut.dissolve = Rational(static_cast<std::int64_t>(random() % 9), 25);
    shots.push_back(std::move(shot));
  }
  Project project = withShots({}, std::move(shots));
  project.output.rate = rate;
  return project;
}

/// Frames of the footage by which what comes back may differ.
void expectSame(const Listed& was, const Listed& is, double frames, int round) {
  ASSERT_EQ(was.played.piece.length, is.played.piece.length) << round;
  for (std::int64_t n = 0; n < was.played.piece.length; ++n) {
    const auto a = shownAt(was, n), b = shownAt(is, n);
    ASSERT_EQ(a.first, b.first) << round << " at " << n;
    ASSERT_NEAR(a.second, b.second, frames / 25) << round << " at " << n;
  }
}

TEST(Interchange, ATimelineComesBackAsItWas) {
  std::mt19937 random(1);
  for (int round = 0; round < 60; ++round) {
    const Listed was = listed(randomReel(random, 25, true));
    std::vector<std::string> lost;
    const CutList list = cutListOf(was.project, was.played, was.readings, "round", lost);
    const std::string text = otioText(list);
    const auto back = parseOtio(text, "", lost);
    ASSERT_TRUE(back) << back.error().message;
    ASSERT_EQ(back->clips.size(), list.clips.size());
    EXPECT_EQ(back->rate, list.rate);
    EXPECT_EQ(otioText(*back), text) << round;
    expectSame(was, listed(projectOf(*back)), 0.02, round);
  }
}

TEST(Interchange, ATimelineHasTheFormThatIsPublished) {
  std::mt19937 random(2);
  const Listed reel = listed(randomReel(random, 25, true));
  std::vector<std::string> lost;
  const auto json = nlohmann::json::parse(otioText(cutListOf(reel.project, reel.played, reel.readings, "form", lost)));
  EXPECT_EQ(json["OTIO_SCHEMA"], "Timeline.1");
  EXPECT_EQ(json["tracks"]["OTIO_SCHEMA"], "Stack.1");
  const auto& track = json["tracks"]["children"][0];
  EXPECT_EQ(track["OTIO_SCHEMA"], "Track.1");
  EXPECT_EQ(track["kind"], "Video");
  for (const auto& child : track["children"]) {
    const std::string schema = child["OTIO_SCHEMA"];
    ASSERT_TRUE(schema == "Clip.2" || schema == "Transition.1") << schema;
    if (schema == "Transition.1") {
      for (const char* offset : {"in_offset", "out_offset"}) EXPECT_EQ(child[offset]["OTIO_SCHEMA"], "RationalTime.1");
      continue;
    }
    EXPECT_EQ(child["source_range"]["OTIO_SCHEMA"], "TimeRange.1");
    EXPECT_EQ(child["media_references"]["DEFAULT_MEDIA"]["OTIO_SCHEMA"], "ExternalReference.1");
    EXPECT_EQ(child["active_media_reference_key"], "DEFAULT_MEDIA");
    for (const auto& effect : child["effects"]) {
      const std::string kind = effect["OTIO_SCHEMA"];
      EXPECT_TRUE(kind == "LinearTimeWarp.1" || kind == "FreezeFrame.1") << kind;
    }
  }
}

TEST(Interchange, AnEditListComesBackToTheFrame) {
  std::mt19937 random(3);
  for (const Rational rate : {Rational(25), Rational(30), Rational(24)})
    for (int round = 0; round < 40; ++round) {
      const Listed was = listed(randomReel(random, rate, false));
      std::vector<std::string> lost;
      const CutList list = cutListOf(was.project, was.played, was.readings, "round", lost);
      const auto back = parseEdl(edlText(list, lost), rate, "", lost);
      ASSERT_TRUE(back) << back.error().message << "\n" << edlText(list, lost);
      ASSERT_EQ(back->clips.size(), list.clips.size());
      for (std::size_t i = 0; i < list.clips.size(); ++i) {
        EXPECT_EQ(back->clips[i].path, list.clips[i].path);
        EXPECT_EQ(back->clips[i].name, list.clips[i].name);
        EXPECT_EQ(back->clips[i].length, list.clips[i].length) << round;
        EXPECT_NEAR(back->clips[i].speed.toDouble(), list.clips[i].speed.toDouble(), 0.05 / rate.toDouble()) << round;
        EXPECT_NEAR(back->clips[i].from.toDouble(), list.clips[i].from.toDouble(), 1 / rate.toDouble()) << round;
      }
    }
}

TEST(Interchange, AListOfFramesComesBackAsItWas) {
  std::mt19937 random(4);
  for (int round = 0; round < 40; ++round) {
    const Listed was = listed(randomReel(random, 25, true));
    const std::string text = frameListText(was.project, was.played, was.readings);
    EXPECT_GE(std::count(text.begin(), text.end(), '\n'), was.played.piece.length + 1);
    const auto back = parseFrameList(text, "");
    ASSERT_TRUE(back) << back.error().message;
    expectSame(was, listed(projectOf(*back)), 0.02, round);
  }
}

TEST(Interchange, WhatCannotBeListedIsSaid) {
  Project reel = randomReel(*std::make_unique<std::mt19937>(5), 25, false);
  reel.chain = chainOf({"time-field:back=1s", "pace:spans=1s@100%~0.5s+2s@40%"});
  reel.more.push_back({.source = {"/films/25-off.mp4", {}, {}}});
  reel.more.back().place.on = false;
  reel.sounds = {*parseLaidSound("whirr.flac@1s", 25)};
  const Listed was = listed(reel);
  std::vector<std::string> lost;
  const CutList list = cutListOf(was.project, was.played, was.readings, "", lost);
  const auto said = [&](const char* words) { return std::any_of(lost.begin(), lost.end(), [&](const std::string& one) { return one.find(words) != std::string::npos; }); };
  EXPECT_TRUE(said("Time Field"));
  EXPECT_TRUE(said("is off"));
  EXPECT_TRUE(said("Sounds"));
  edlText(list, lost);
  EXPECT_TRUE(said("listed as one speed"));
}

/// At 29.97 frames a second a list may leave numbers out.
TEST(Interchange, DroppedNumbersAreCounted) {
  const auto listOf = [](const char* mode, const char* from, const char* to) {
    std::vector<std::string> lost;
    const std::string text = std::string("TITLE: t\nFCM: ") + mode + "\n001  AX       V     C        00:00:00:00 00:00:02:00 " + from + " " + to + "\n";
    auto list = parseEdl(text, Rational(30000, 1001), "", lost);
    EXPECT_TRUE(list) << list.error().message;
    return *list;
  };
  const auto frames = [](const CutList& list) { return (list.clips[0].length * list.rate).toDouble(); };
  // From the last number of a minute to the first of the next there is one frame: 00 and 01 are left out.
  EXPECT_EQ(frames(listOf("DROP FRAME", "01:00:59:29", "01:01:00:02")), 1);
  EXPECT_EQ(frames(listOf("NON-DROP FRAME", "01:00:59;29", "01:01:00;02")), 1);
  EXPECT_EQ(frames(listOf("NON-DROP FRAME", "01:00:59:29", "01:01:00:02")), 3);
  // At every tenth none are.
  EXPECT_EQ(frames(listOf("DROP FRAME", "01:09:59:29", "01:10:00:02")), 3);
  EXPECT_EQ(frames(listOf("DROP FRAME", "01:00:00:00", "02:00:00:00")), 107892);
}

/// Files whose own time begins elsewhere, and clips that are off, as other programs write them.
TEST(Interchange, ATimelineOfAnotherProgramIsRead) {
  const std::string text = R"({"OTIO_SCHEMA":"Timeline.1","name":"theirs","tracks":{"OTIO_SCHEMA":"Stack.1","children":[{"OTIO_SCHEMA":"Track.1","kind":"Video","children":[
    {"OTIO_SCHEMA":"Clip.1","name":"pour","source_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","value":90050,"rate":25},"duration":{"OTIO_SCHEMA":"RationalTime.1","value":40,"rate":25}},
     "media_reference":{"OTIO_SCHEMA":"ExternalReference.1","target_url":"takes/pour%201.mov","available_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","value":90000,"rate":25},"duration":{"OTIO_SCHEMA":"RationalTime.1","value":500,"rate":25}}}},
    {"OTIO_SCHEMA":"Clip.2","name":"spare","enabled":false,"source_range":{"OTIO_SCHEMA":"TimeRange.1","start_time":{"OTIO_SCHEMA":"RationalTime.1","value":0,"rate":25},"duration":{"OTIO_SCHEMA":"RationalTime.1","value":40,"rate":25}}}]}]}})";
  std::vector<std::string> lost;
  const auto list = parseOtio(text, "/films", lost);
  ASSERT_TRUE(list) << list.error().message;
  ASSERT_EQ(list->clips.size(), 1u);
  EXPECT_EQ(list->clips[0].path, "/films/takes/pour 1.mov");
  EXPECT_EQ(list->clips[0].from, Rational(2));
  EXPECT_EQ(list->clips[0].length, Rational(8, 5));
  ASSERT_EQ(lost.size(), 1u);
  EXPECT_EQ(lost[0], "spare is off, and not taken.");
}

TEST(Interchange, WhatIsAmissIsRefusedInWords) {
  std::vector<std::string> lost;
  for (const char* bad : {"", "{", "[]", "{}", R"({"OTIO_SCHEMA":"Clip.2"})", R"({"OTIO_SCHEMA":"Timeline.1"})",
                          R"({"OTIO_SCHEMA":"Timeline.1","tracks":{"children":[{"OTIO_SCHEMA":"Track.1","kind":"Video","children":[]}]}})",
                          R"({"OTIO_SCHEMA":"Timeline.1","tracks":{"children":[{"OTIO_SCHEMA":"Track.1","kind":"Video","children":[{"OTIO_SCHEMA":"Clip.2"}]}]}})",
                          R"({"OTIO_SCHEMA":"Timeline.1","tracks":{"children":[{"OTIO_SCHEMA":"Track.1","kind":"Video","children":[{"OTIO_SCHEMA":"Clip.2","source_range":{"start_time":{"value":0,"rate":0},"duration":{"value":1,"rate":25}}}]}]}})"}) {
    const auto list = parseOtio(bad, "", lost);
    EXPECT_FALSE(list) << bad;
    EXPECT_TRUE(list || list.error().message.size() > 15) << bad;
  }
  for (const char* bad : {"", "TITLE: x\n", "001 AX V C 00:00:00:00 00:00:01:00 00:00:00:00\n", "001 AX V C 00:00:00:00 00:00:01:00 00:00:00:00 00:99:00:00\n",
                          "M2 AX 12.5 00:00:00:00\n", "001 AX V C 00:00:00:00 00:00:01:00 01:00:05:00 01:00:01:00\n"}) {
    const auto list = parseEdl(bad, 25, "", lost);
    EXPECT_FALSE(list) << bad;
    EXPECT_TRUE(list || list.error().message.size() > 15) << bad;
  }
  for (const char* bad : {"", "frame\n", "frame,seconds,shot,name,file,file fps,source frame,fraction,share\n", "frame,seconds,shot,name,file,file fps,source frame,fraction,share\n1,2\n",
                          "frame,seconds,shot,name,file,file fps,source frame,fraction,share\n0,0,1,a,b,25,x,0,1\n"}) {
    const auto list = parseFrameList(bad, "");
    EXPECT_FALSE(list) << bad;
  }
}

/// Whatever is damaged in a list, nothing breaks, and what is taken can be made into shots.
TEST(Interchange, RandomDamageNeverCrashes) {
  std::mt19937 random(6);
  const Listed reel = listed(randomReel(random, 25, true));
  std::vector<std::string> lost;
  const CutList list = cutListOf(reel.project, reel.played, reel.readings, "good", lost);
  const std::string good[] = {otioText(list), edlText(list, lost), frameListText(reel.project, reel.played, reel.readings)};
  for (int round = 0; round < 1500; ++round) {
    std::string bad = good[round % 3];
    for (unsigned i = 0; i < 1 + random() % 6; ++i) bad[random() % bad.size()] = static_cast<char>(32 + random() % 96);
    lost.clear();
    const auto taken = round % 3 == 0 ? parseOtio(bad, "/x", lost) : round % 3 == 1 ? parseEdl(bad, 25, "/x", lost) : parseFrameList(bad, "/x");
    if (taken) {
      EXPECT_GE(shotCount(projectOf(*taken)), 1u);
    }
  }
}

}  // namespace
}  // namespace molten
