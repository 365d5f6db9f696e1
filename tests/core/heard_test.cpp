// Which moment of the shot's sound is heard: that of whole pictures, without their steps.
#include "core/engine/heard.h"
#include "core/project/missing_files.h"
#include "core/project/project_file.h"
#include "core/project/sound_edits.h"
#include "support/sounds.h"

namespace molten {
namespace {

/// Ten seconds at 25 pictures a second.
VideoDescription tenSeconds() {
  VideoDescription video;
  video.size = {320, 180};
  video.rate = 25;
  video.length = 250;
  return video;
}

ChainReading readingOf(const std::vector<std::string>& stages) {
  return ChainReading(chainOf(stages), tenSeconds());
}

TEST(Heard, IsTheMomentThatIsSeenWhereWholePicturesMove) {
  std::mt19937 random(1);
  const std::vector<std::string> moving = {"pace:spans=2s@150%~0.5s+3s@-70%~0.2s+2s@40%", "pace:from=3s,spans=4s@100%+1s@0%+2s@-100%", "loop"};
  const std::vector<std::string> others = {"time-field:back=1s", "finish:exposure=1", "framing:zoom=120%", "echoes"};
  for (int round = 0; round < 60; ++round) {
    std::vector<std::string> chain(random() % 3);
    for (std::string& stage : chain) stage = others[random() % others.size()];
    chain.insert(chain.begin() + static_cast<std::ptrdiff_t>(random() % (chain.size() + 1)), moving[random() % moving.size()]);
    const ChainReading reading = readingOf(chain);
    for (int i = 0; i < 40; ++i) {
      const double position = std::uniform_real_distribution<>(0, reading.outgoing().pictures().toDouble() - 1)(random);
      const double heard = reading.heardAt(position), seen = reading.sourceOf(chain.size(), position);
      // Past an end where the last picture stands still nothing is heard, but for as long as that picture lasts.
      if (std::isnan(heard) || heard > 249) continue;
      EXPECT_NEAR(heard, seen, 1e-6) << round << " at " << position;
    }
  }
}

TEST(Heard, GoesOnWherePicturesAreShownInSteps) {
  const ChainReading steps = readingOf({"step-rate:rate=6"});
  for (const double position : {0.0, 3.3, 77.7, 200.1}) EXPECT_NEAR(steps.heardAt(position), position, 1e-9);
}

TEST(Heard, RunsOfAFrameOrderAreHeardAsTheyRun) {
  const ChainReading order = readingOf({"frame-order:order=10-19+5:4+30-21"});
  EXPECT_NEAR(order.heardAt(3.5), 13.5, 1e-9);
  EXPECT_NEAR(order.heardAt(11.0), order.heardAt(12.5), 1e-9) << "a frame that is held stands";
  EXPECT_NEAR(order.heardAt(16.5) - order.heardAt(17.5), 1, 1e-9) << "backwards";
}

TEST(Heard, PastTheEndsItIsAsThePicturesGo) {
  const auto at = [](const char* past, double position) {
    return readingOf({std::string("pace:spans=20s@100%,past-the-ends=") + past}).heardAt(position);
  };
  EXPECT_TRUE(std::isnan(at("stand-still", 300)));
  EXPECT_NEAR(at("go-round", 300.5), 50.5, 1e-6);
  EXPECT_LT(at("turn-back", 300) - at("turn-back", 299), 0);
  EXPECT_TRUE(std::isnan(at("transparent", 300)));
}

TEST(Heard, SamplesOfPicturesAddUpToThePiece) {
  for (const Rational rate : {Rational(25), Rational(30000, 1001), Rational(24000, 1001), Rational(60)}) {
    std::int64_t sum = 0;
    for (std::int64_t k = 0; k < 1000; ++k) {
      const std::int64_t samples = samplesBefore(k + 1, rate) - samplesBefore(k, rate);
      EXPECT_LE(std::abs(static_cast<double>(samples) - (Rational(soundRate) / rate).toDouble()), 1);
      sum += samples;
    }
    EXPECT_EQ(sum, samplesBefore(1000, rate));
  }
}

TEST(Heard, ProjectsKeepTheirSounds) {
  const test::TempFolder folder;
  Project project;
  project.source.path = folder / "a.mp4";
  project.ownSound = *[&] {
    Stage own = ownSound();
    EXPECT_TRUE(readValues(own, "other-speeds=keep-pitch,gain=-3dB", 25));
    return std::optional(own);
  }();
  project.sounds = {*parseLaidSound(folder / "whirr.flac" + "@2.5s,gain=-6dB@0s+0dB@2s~ease,fade-in=0.2s,loop", 25),
                    *parseLaidSound(folder / "a, b@c.wav", 25)};
  ASSERT_TRUE(saveProject(project, folder / "p.molten"));
  const auto again = loadProject(folder / "p.molten");
  ASSERT_TRUE(again) << again.error().message;
  EXPECT_EQ(again->sounds, project.sounds);
  EXPECT_EQ(again->ownSound, project.ownSound);
  EXPECT_EQ(laidSound(again->sounds[1]).file, folder / "a, b@c.wav");
  EXPECT_EQ(laidSound(again->sounds[0]).at, 2.5);
  // They are among what is looked for when it is opened.
  const auto missing = missingFiles(*again);
  EXPECT_EQ(missing.size(), 3u);
  // And what is not there now is so without harm.
  SoundFiles files(std::make_shared<MemoryBudget>(std::size_t(1) << 24), Outline::No);
  const Piece piece = pieceOf(*again, tenSeconds());
  const Heard heard = heardOf(*again, std::make_shared<const ChainReading>(again->chain, tenSeconds()), piece, files);
  EXPECT_EQ(heard.laid.size(), 2u);
  EXPECT_EQ(heard.findings.size(), 2u);
  Sound out(100);
  EXPECT_TRUE(heard.mix->read(0, out, {}));
  EXPECT_EQ(test::levelOf(out), 0);
}

TEST(Heard, WordsOfALaidSoundThatAreOffAreSaid) {
  for (const auto& [text, says] : {std::pair{"@1s", "no file is named"}, {"a.wav@1s,gain=loud", "Gain takes a number"}, {"a.wav@1s,volume=2", "has no parameter"}}) {
    const auto laid = parseLaidSound(text, 25);
    ASSERT_FALSE(laid) << text;
    EXPECT_NE(laid.error().message.find(says), std::string::npos) << laid.error().message;
  }
}

TEST(Heard, EditsOfSoundsHaveNames) {
  Project project;
  project = layInSounds(project, {"x/whirr.flac"}, 1).after;
  EXPECT_EQ(layInSounds(project, {"x/whirr.flac"}, 1).name, "Sound whirr.flac");
  EXPECT_EQ(removeSound(project, 0).name, "Remove whirr.flac");
  EXPECT_EQ(duplicateSound(project, 0).after.sounds.size(), 2u);
}

}  // namespace
}  // namespace molten
