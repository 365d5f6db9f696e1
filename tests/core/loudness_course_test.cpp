// How loud a sound is from moment to moment, against a slow and obvious reckoning; and values that follow it.
#include <gtest/gtest.h>

#include "core/engine/evaluator.h"
#include "core/engine/heard.h"
#include "core/engine/measured_course.h"
#include "core/engine/source_material.h"
#include "core/project/sound_edits.h"
#include "core/sound/loudness_course.h"
#include "core/stages/drive_words.h"
#include "support/clips.h"
#include "support/sounds.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

constexpr double nearly = 1e-5;

std::shared_ptr<const SoundSource> made(test::MadeSound sound) {
  return std::make_shared<test::MadeSound>(std::move(sound));
}

/// Of the moment number × 10 ms, by the definition.
double levelAt(const SoundSource& source, std::int64_t number) {
  Sound around(2048);
  EXPECT_TRUE(source.read(number * 480 - 1024, around, {}));
  double sum = 0, weights = 0;
  for (std::size_t i = 0; i < 2048; ++i) {
    const double hann = std::pow(std::sin(M_PI * (static_cast<double>(i) + 0.5) / 2048), 2);
    weights += hann;
    for (int c = 0; c < 2; ++c) sum += hann * std::pow(static_cast<double>(around.at(i, c)), 2) / 2;
  }
  return std::clamp((10 * std::log10(std::max(2 * sum / weights, 1e-12)) + 60) / 60, 0.0, 1.0);
}

/// No level before now, less what falls since then, is louder; no level of those, with what may rise since then, is softer.
double limitedAt(const SoundSource& source, std::int64_t number, int attack, int release) {
  const auto held = [&](std::int64_t at) {
    double most = levelAt(source, at);
    for (int back = 1; back <= release; ++back) most = std::max(most, levelAt(source, at - back) - static_cast<double>(back) / release);
    return std::max(most, 0.0);
  };
  double least = held(number);
  for (int back = 1; back <= attack; ++back) least = std::min(least, held(number - back) + static_cast<double>(back) / attack);
  return least;
}

/// Noise that comes and goes.
std::shared_ptr<const SoundSource> bursts() {
  const auto noise = std::make_shared<test::MadeSound>(test::noiseSound(7));
  return made(test::MadeSound([noise](double sample, int channel) {
    const auto part = static_cast<std::int64_t>(std::floor(sample / 3000));
    Sound one(1);
    EXPECT_TRUE(noise->read(static_cast<std::int64_t>(sample), one, {}));
    return static_cast<double>(one.at(0, channel)) * std::pow(10.0, -static_cast<double>((part % 7 + 7) % 7) / 2);
  }));
}

TEST(LoudnessCourse, IsWhatTheDefinitionSays) {
  const auto source = bursts();
  const LoudnessCourse course(source, {});
  for (const auto& [attack, release] : {std::pair{0, 0}, {3, 0}, {0, 9}, {4, 20}})
    for (const std::int64_t number : {-40, -1, 0, 1, 57, 127, 128, 129, 400}) {
      const double seconds = static_cast<double>(number) / 100;
      EXPECT_NEAR(course.at(seconds, attack / 100.0, release / 100.0), limitedAt(*source, number, attack, release), nearly)
          << number << ": " << attack << " " << release;
      // Between two moments it goes straight.
      const double first = course.at(seconds, attack / 100.0, release / 100.0), second = course.at(seconds + 0.01, attack / 100.0, release / 100.0);
      EXPECT_NEAR(course.at(seconds + 0.0025, attack / 100.0, release / 100.0), 0.75 * first + 0.25 * second, nearly);
    }
}

TEST(LoudnessCourse, GoesByDecibels) {
  for (const auto& [amplitude, level] : {std::pair{1.0, 1.0}, {4.0, 1.0}, {0.1, 2.0 / 3}, {0.01, 1.0 / 3}, {0.0005, 0.0}}) {
    const LoudnessCourse course(made(test::MadeSound([a = amplitude](double sample, int) { return a * std::sin(2 * M_PI * 440 * sample / soundRate); })), {});
    EXPECT_NEAR(course.at(1, 0, 0), level, 1e-3) << amplitude;
  }
}

TEST(LoudnessCourse, HearsItsBandAlone) {
  const auto level = [](double hertz, Band band) {
    return LoudnessCourse(made(test::MadeSound([=](double sample, int) { return std::sin(2 * M_PI * hertz * sample / soundRate); })), band).at(2, 0, 0);
  };
  EXPECT_NEAR(level(100, {40, 250}), 1, 0.01);
  EXPECT_NEAR(level(40, {40, 250}), 1 - 3.0 / 60, 0.01) << "half of it at the band's end";
  EXPECT_NEAR(level(250, {40, 250}), 1 - 3.0 / 60, 0.01);
  EXPECT_NEAR(level(500, {40, 250}), 1 - 24.1 / 60, 0.01) << "24 dB an octave";
  EXPECT_NEAR(level(20, {40, 250}), 1 - 24.1 / 60, 0.01);
  EXPECT_LT(level(3000, {40, 250}), 0.02);
  EXPECT_NEAR(level(5000, {1000, 0}), 1, 0.01);
  EXPECT_LT(level(100, {1000, 0}), 0.02);
}

TEST(LoudnessCourse, IsTheSameWhateverWasAskedForBefore) {
  const auto source = bursts();
  const LoudnessCourse forwards(source, {60, 4000}), backwards(source, {60, 4000});
  std::vector<double> one, other;
  for (int i = 0; i < 60; ++i) one.push_back(forwards.at(i * 0.0731, 0.03, 0.4));
  for (int i = 60; i-- > 0;) other.push_back(backwards.at(i * 0.0731, 0.03, 0.4));
  std::reverse(other.begin(), other.end());
  EXPECT_EQ(one, other);
}

TEST(LoudnessCourse, IsNotKnownWhereTheSoundCannotBeRead) {
  class Broken : public SoundSource {
    Status read(std::int64_t, Sound&, std::stop_token) const override { return Error{"It is broken."}; }
  };
  EXPECT_TRUE(std::isnan(LoudnessCourse(std::make_shared<Broken>(), {}).at(1, 0.1, 0.1)));
}

/// A gray clip of three seconds, 25 pictures a second, whose own sound is loud in its last second.
class FollowsLoudness : public ::testing::Test {
 protected:
  FollowsLoudness() {
    run("ffmpeg -v error -y -f lavfi -i color=c=0x404040:s=32x32:r=25:d=3 -f lavfi -i \"aevalsrc='0.9*sin(2*PI*300*t)*gte(t,2)':s=48000:d=3\" "
        "-c:v ffv1 -c:a pcm_s16le " + (folder / "gray.mkv"));
    run("ffmpeg -v error -y -f lavfi -i \"aevalsrc='0.9*sin(2*PI*80*t)*lt(t,0.5)+0.9*sin(2*PI*4000*t)*gte(t,0.5)':s=48000:d=1\" " + (folder / "low-high.wav"));
    footage = test::openFootage(folder / "gray.mkv");
  }
  static void run(const std::string& command) {
    const auto done = test::runCommand(command);
    EXPECT_EQ(done.exitCode, 0) << done.err;
  }
  static Stage stage(const std::string& text) {
    auto parsed = parseStage(text, 25);
    EXPECT_TRUE(parsed) << (parsed ? "" : parsed.error().message);
    return *parsed;
  }
  /// Of a picture's middle.
  double lumaAt(const Chain& chain, const FollowedSounds& sounds, std::int64_t n) {
    Evaluator evaluator(std::make_shared<FrameFeed>(footage, std::size_t(1) << 26, 1), 1);
    PlanSettings settings{1, InBetween::Whole, 25, sounds};
    const auto picture = evaluator.picture(evaluator.plan(chain, settings), {n, 0}, {});
    EXPECT_TRUE(picture);
    return picture->row(0, 16)[16];
  }
  TempFolder folder;
  std::shared_ptr<const Footage> footage;
};

TEST_F(FollowsLoudness, TheShotsOwnAsWholePicturesRun) {
  const Chain finish{stage("finish:exposure=1.5_follow_loudness_0_0%_100%_0_0_0_0s_0s")};
  const double dark = lumaAt({stage("finish:exposure=0")}, {}, 10), light = lumaAt({stage("finish:exposure=1.5")}, {}, 60);
  EXPECT_NEAR(lumaAt(finish, {}, 20), dark, 0);
  EXPECT_NEAR(lumaAt(finish, {}, 60), light, 3);
  Chain backwards{stage("pace:from=3s,spans=3s@-100%"), finish[0]};
  EXPECT_NEAR(lumaAt(backwards, {}, 10), light, 3) << "the loud end comes first";
  EXPECT_NEAR(lumaAt(backwards, {}, 60), dark, 0);
}

TEST_F(FollowsLoudness, ABandOfALaidSoundWhereItIsLaid) {
  const FollowedSounds laid({layingSound(folder / "low-high.wav", 1)});
  const auto luma = [&](const std::string& band, std::int64_t n) {
    return lumaAt({stage("finish:exposure=1.5_follow_loudness_0_20%_90%_1_" + band + "_0s_0s")}, laid, n);
  };
  const double dark = luma("0_0", 10), light = luma("0_0", 30);
  EXPECT_GT(light, dark + 20);
  EXPECT_EQ(luma("20Hz_0.2kHz", 30), light) << "low in its first half";
  EXPECT_EQ(luma("20Hz_0.2kHz", 45), dark);
  EXPECT_EQ(luma("2000_8000", 30), dark);
  EXPECT_EQ(luma("2000_8000", 45), light);
  EXPECT_EQ(luma("0_0", 60), dark) << "it has ended";
  // One that is not there leaves values as they are.
  EXPECT_EQ(lumaAt({stage("finish:exposure=1.5_follow_loudness_0_0%_100%_2")}, laid, 10), lumaAt({stage("finish:exposure=1.5")}, {}, 10));
}

/// What a lane is drawn by is what a render finds.
TEST_F(FollowsLoudness, IsMeasuredForLanes) {
  const FollowedSounds laid({layingSound(folder / "low-high.wav", 1)});
  const auto sources = std::make_shared<Sources>(std::make_shared<FrameFeed>(footage, std::size_t(1) << 26, 1), 1);
  const Stage finish = stage("finish:exposure=1_follow_loudness_0_0%_100%_1_0_0_0.1s_0.4s,contrast=100%_follow_loudness_0%_0%_100%_1_0_0_0.1s_0.4s");
  const auto what = toMeasure(finish);
  ASSERT_EQ(what.size(), 1u) << "both go by the same";
  EXPECT_EQ(toMeasure(stage("finish:exposure=1_follow_loudness_-2_30%_60%_1_0_0_0.1s_0.4s")), what)
      << "where a value goes is nothing to be measured anew for";
  const auto course = measureCourse({sources, InBetween::Whole, laid}, {}, what[0], {});
  ASSERT_TRUE(course);
  ASSERT_EQ(course->values.size(), 75u);
  const auto file = SoundFeed::open(folder / "low-high.wav", std::make_shared<MemoryBudget>(std::size_t(1) << 26), std::nullopt, Outline::No);
  ASSERT_TRUE(file);
  const LoudnessCourse own(*file, {});
  for (std::int64_t n = 0; n < 75; ++n) EXPECT_NEAR(course->at(static_cast<double>(n)), own.at(static_cast<double>(n) / 25 - 1, 0.1, 0.4), 1e-6) << n;
  EXPECT_GT(course->at(30), 0.9);
  // One that is not there is known not to be.
  Follow gone = what[0];
  gone.listening.sound = 2;
  const auto none = measureCourse({sources, InBetween::Whole, laid}, {}, gone, {});
  ASSERT_TRUE(none);
  EXPECT_TRUE(none->values.empty());
  EXPECT_FALSE(followedAs(footage->video(), {*none})->isBeingMeasured(gone));
}

TEST_F(FollowsLoudness, OtherSoundsAreAnotherPlan) {
  const FollowedSounds here({layingSound(folder / "low-high.wav", 0)}), there({layingSound(folder / "low-high.wav", 2)});
  EXPECT_FALSE(here == there);
  EXPECT_TRUE(here == FollowedSounds({layingSound(folder / "low-high.wav", 0)}));
  Evaluator evaluator(std::make_shared<FrameFeed>(footage, std::size_t(1) << 26, 1), 1);
  const Chain chain{stage("echoes:repeats=1"), stage("finish:exposure=1.5_follow_loudness_0_0%_100%_1")};
  const PicturePlan first = evaluator.plan(chain, {1, InBetween::Whole, 25, here});
  const auto before = evaluator.picture(first, {10, 0}, {});
  const PicturePlan second = evaluator.plan(chain, {1, InBetween::Whole, 25, there}, &first);
  const auto after = evaluator.picture(second, {10, 0}, {});
  ASSERT_TRUE(before && after);
  EXPECT_FALSE(test::samePicture(*before, *after)) << "what was made for the other sounds does not serve";
}

TEST_F(FollowsLoudness, AGainGivesWayToAnotherSound) {
  Project project;
  project.source.path = folder / "gray.mkv";
  Stage voice = layingSound(folder / "low-high.wav", 1), bed = layingSound(folder / "bed.wav", 0);
  run("ffmpeg -v error -y -f lavfi -i \"aevalsrc='0.5*sin(2*PI*1000*t)':s=48000:d=3\" " + (folder / "bed.wav"));
  const std::size_t gain = soundParameters(bed).gain;
  auto parsed = parseMovement(bed.kind->description().parameters[gain], "0dB_follow_loudness_-20dB_80%_10%_1_0_0_0s_0s", 25);
  ASSERT_TRUE(parsed);
  setMovement(bed, gain, *parsed);
  project.sounds = {voice, bed};
  project.sounds[0].values[soundParameters(voice).mute] = true;
  project.ownSound.values[soundParameters(project.ownSound).mute] = true;
  SoundFiles files(std::make_shared<MemoryBudget>(std::size_t(1) << 26), Outline::No);
  const VideoDescription video = footage->video();
  const Heard heard = molten::heardOf(project, std::make_shared<const ChainReading>(Chain{}, video), pieceOf(project, video), files);
  const auto loud = [&](double seconds) {
    Sound some(4800);
    EXPECT_TRUE(heard.mix->read(std::llround(seconds * soundRate), some, {}));
    return test::levelOf(some);
  };
  EXPECT_NEAR(loud(0.5), 0.5 / std::sqrt(2), 0.01);
  EXPECT_NEAR(loud(1.5) / loud(0.5), 0.1, 0.01) << "also where the other one is mute";
  EXPECT_NEAR(loud(2.5) / loud(0.5), 1, 0.01);
}

TEST_F(FollowsLoudness, IsWrittenAndReadAsItIs) {
  const std::string text = "finish:exposure=0_follow_loudness_2_20%_80%_3_40_120_0.01s_0.5s";
  EXPECT_EQ(stageText(stage(text)), text);
  EXPECT_EQ(stageText(stage("finish:exposure=0_follow_loudness_2_20%_80%_3_40Hz_0.12kHz_10ms_500ms")), text);
  const auto& parameter = layingSound("a", 0).kind->description().parameters[soundParameters(layingSound("a", 0)).gain];
  EXPECT_FALSE(parseMovement(parameter, "0dB_follow_brightness_-6dB", 25)) << "a sound has no pictures to go by";
}

TEST(SoundEdits, WhatIsFollowedKeepsItsSound) {
  Project project;
  for (const char* file : {"a.wav", "b.wav", "c.wav"}) project.sounds.push_back(layingSound(file, 0));
  const auto follows = [](const char* number) {
    auto parsed = parseStage(std::string("finish:exposure=1_follow_loudness_0_0%_100%_") + number, 25);
    EXPECT_TRUE(parsed);
    return *parsed;
  };
  project.chain = {follows("0"), follows("1"), follows("2"), follows("3")};
  const auto numbers = [](const Project& of) {
    std::vector<std::size_t> all;
    for (const Follow& follow : {std::get<Follow>(of.chain[0].drives.begin()->second[0]), std::get<Follow>(of.chain[1].drives.begin()->second[0]),
                                 std::get<Follow>(of.chain[2].drives.begin()->second[0]), std::get<Follow>(of.chain[3].drives.begin()->second[0])})
      all.push_back(follow.listening.sound);
    return all;
  };
  const auto fewer = numbers(removeSound(project, 1).after);
  EXPECT_EQ(fewer[0], 0u);
  EXPECT_EQ(fewer[1], 1u);
  EXPECT_GT(fewer[2], 1000u) << "it is gone";
  EXPECT_EQ(fewer[3], 2u);
  EXPECT_EQ(numbers(duplicateSound(project, 1).after), (std::vector<std::size_t>{0, 1, 2, 4}));
  // A gain that follows is likewise; so is what follows in version B.
  const std::size_t gain = soundParameters(project.sounds[2]).gain;
  auto ducks = parseMovement(project.sounds[2].kind->description().parameters[gain], "0dB_follow_loudness_-9dB_80%_20%_2", 25);
  ASSERT_TRUE(ducks);
  setMovement(project.sounds[2], gain, *ducks);
  EXPECT_EQ(std::get<Follow>(removeSound(project, 0).after.sounds[1].drives.at(gain)[0]).listening.sound, 1u);
  project.versionB = project.chain;
  EXPECT_EQ(std::get<Follow>((*removeSound(project, 0).after.versionB)[3].drives.begin()->second[0]).listening.sound, 2u);
}

TEST(SoundEdits, SeveralAreOneStep) {
  Project project;
  for (const char* file : {"a.wav", "b.wav", "c.wav"}) project.sounds.push_back(layingSound(file, 0));
  const Edit edit = editSounds(project, {SoundName(0), SoundName(2)}, "Both", [](const Project& before, const SoundName& one) {
    return setSoundValue(before, one, soundParameters(before.sounds[*one]).gain, -6.0);
  });
  EXPECT_EQ(edit.name, "Both");
  EXPECT_NEAR(soundGain(edit.after.sounds[0], 0), 0.501, 1e-3);
  EXPECT_EQ(soundGain(edit.after.sounds[1], 0), 1);
  EXPECT_NEAR(soundGain(edit.after.sounds[2], 0), 0.501, 1e-3);
  EXPECT_FALSE(edit.mergeKey.empty());
}

}  // namespace
}  // namespace molten
