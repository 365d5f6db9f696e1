// What is heard of shots in a row: each of its own sound where it is seen, at its own moment, and both in a dissolve.
#include <gtest/gtest.h>

#include "core/engine/heard.h"
#include "core/project/sound_edits.h"
#include "support/clips.h"
#include "support/sounds.h"
#include "support/stages.h"

namespace molten {
namespace {

/// Four seconds of 32-bit floats, both channels alike.
std::string waveOf(const std::string& path, const std::function<double(double seconds)>& value) {
  std::vector<std::uint8_t> bytes;
  const auto put = [&](std::uint32_t number, int count) {
    for (int i = 0; i < count; ++i) bytes.push_back(static_cast<std::uint8_t>(number >> (8 * i)));
  };
  const auto text = [&](const char* word) { bytes.insert(bytes.end(), word, word + 4); };
  constexpr std::uint32_t samples = 4 * soundRate, size = samples * 8;
  text("RIFF"), put(36 + size, 4), text("WAVE"), text("fmt "), put(16, 4), put(3, 2), put(2, 2), put(soundRate, 4), put(soundRate * 8, 4), put(8, 2), put(32, 2);
  text("data"), put(size, 4);
  for (std::uint32_t i = 0; i < samples; ++i)
    for (int c = 0; c < 2; ++c) {
      const auto sample = static_cast<float>(value(static_cast<double>(i) / soundRate));
      std::uint32_t bits;
      std::memcpy(&bits, &sample, 4);
      put(bits, 4);
    }
  test::writeFile(path, bytes);
  return path;
}

class ReelSound : public ::testing::Test {
 protected:
  ReelSound() {
    reel.source.path = waveOf(folder / "a.wav", [](double t) { return 0.1 + 0.05 * t; });
    reel.more.push_back({.source = {waveOf(folder / "b.wav", [](double t) { return -0.1 - 0.05 * t; }), {}, {}}});
    reel.place.from = 1, reel.place.to = 3;
  }
  static VideoDescription fourSeconds() {
    VideoDescription video;
    video.size = {320, 180};
    video.rate = 25;
    video.length = 100;
    return video;
  }
  Heard heard() {
    const DescribeSource describe = [](const Source&) { return Result<VideoDescription>(fourSeconds()); };
    const auto played = playedOf(reel, fourSeconds(), describe);
    EXPECT_TRUE(played);
    return heardOf(reel, *played, readingsOf(reel, *played, fourSeconds(), describe), files);
  }
  /// A sample at so many seconds of the reel, read by itself or among its neighbours.
  double at(double seconds) {
    const Heard made = heard();
    Sound out(1001);
    EXPECT_TRUE(made.mix->read(std::llround(seconds * soundRate) - 500, out, {}));
    return out.at(500, 0);
  }

  test::TempFolder folder;
  Project reel;
  SoundFiles files{std::make_shared<MemoryBudget>(std::size_t(1) << 26), Outline::No};
};

TEST_F(ReelSound, EachIsHeardWhereItIsSeen) {
  EXPECT_EQ(heard().samples, 6 * soundRate);
  for (const double t : {0.1, 0.9, 1.9}) EXPECT_NEAR(at(t), 0.1 + 0.05 * (t + 1), 1e-4) << t;
  for (const double t : {2.1, 3.0, 5.9}) EXPECT_NEAR(at(t), -0.1 - 0.05 * (t - 2), 1e-4) << t;
  reel.place.on = false;
  EXPECT_NEAR(at(1), -0.15, 1e-4);
  reel.place.on = true;
  reel.chain = chainOf({"pace:spans=8s@50%"});
  EXPECT_NEAR(at(0.5), 0.1 + 0.05 * 0.75, 1e-4) << "along the shot's own pace, from its trim on";
}

TEST_F(ReelSound, BothAreHeardInADissolveWithTheSamePowerTogether) {
  reel.place.cut.dissolve = 1;
  EXPECT_EQ(heard().samples, 5 * soundRate);
  for (const double t : {1.1, 1.5, 1.8}) {
    const double share = t - 1, a = 0.1 + 0.05 * (t + 1), b = -0.1 - 0.05 * (t - 1), quarter = std::acos(0.0);
    EXPECT_NEAR(at(t), a * std::cos(share * quarter) + b * std::sin(share * quarter), 2e-4) << t;
  }
  EXPECT_NEAR(at(0.9), 0.1 + 0.05 * 1.9, 1e-4);
  EXPECT_NEAR(at(2.2), -0.1 - 0.05 * 1.2, 1e-4);
}

TEST_F(ReelSound, MutedAloneAndAfterTheLastCut) {
  reel.more[0].ownSound = *[] {
    Stage own = ownSound();
    EXPECT_TRUE(readValues(own, "mute=on", 25));
    return std::optional(own);
  }();
  EXPECT_NEAR(at(1), 0.2, 1e-4);
  EXPECT_EQ(at(3), 0);
  // What comes after the last cut moves sound as it moves pictures.
  reel.more[0].ownSound = ownSound();
  reel.reelChain = chainOf({"pace:from=1s,spans=3s@100%"});
  EXPECT_NEAR(at(0.5), 0.1 + 0.05 * 2.5, 1e-4);
  EXPECT_NEAR(at(1.5), -0.1 - 0.05 * 0.5, 1e-4);
}

/// A gain that follows speed goes by the shot that is seen.
TEST_F(ReelSound, LaidSoundsLieOnTheReelsTime) {
  const std::string whole = waveOf(folder / "laid.wav", [](double t) { return 0.3 + 0.1 * t; });
  reel.ownSound = *[] {
    Stage own = ownSound();
    EXPECT_TRUE(readValues(own, "mute=on", 25));
    return std::optional(own);
  }();
  reel.more[0].ownSound = reel.ownSound;
  reel.sounds = {*parseLaidSound(whole + "@1s", 25)};
  EXPECT_EQ(at(0.5), 0);
  EXPECT_NEAR(at(3), 0.3 + 0.1 * 2, 1e-4);
}

}  // namespace
}  // namespace molten
