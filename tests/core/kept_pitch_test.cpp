// Sound at another speed with its pitch kept: in tune, in time, the same in whatever pieces.
#include "core/sound/kept_pitch.h"
#include "core/sound/tape.h"
#include "support/sounds.h"

namespace molten {
namespace {

std::shared_ptr<MemoryBudget> ample() {
  return std::make_shared<MemoryBudget>(std::size_t(1) << 28);
}

KeptPitch kept(SoundCurve::SecondsAt curve, const test::MadeSound& source) {
  return KeptPitch(SoundCurve(std::move(curve)), std::make_shared<test::MadeSound>(source), ample());
}

Sound read(const SoundSource& source, std::int64_t first, std::size_t samples) {
  Sound out(samples);
  EXPECT_TRUE(source.read(first, out, {}));
  return out;
}

TEST(KeptPitch, AToneStaysAtEverySpeed) {
  for (const double speed : {0.25, 0.4, 0.8, 1.3, 2.0, 4.0, -0.5, -1.0, -2.0}) {
    const KeptPitch sound = kept([=](double s) { return 30 + s * speed; }, test::tone(1000));
    const Sound heard = read(sound, soundRate, soundRate / 4);
    EXPECT_NEAR(test::hertzOf(heard, 900, 1100), 1000, 5) << speed;
    EXPECT_NEAR(test::levelOf(heard), test::levelOf(read(test::tone(1000), 0, soundRate)), 0.1) << speed;
  }
}

TEST(KeptPitch, FasterAndSlowerThanThatItGoesWithTheSpeed) {
  for (const double speed : {0.2, 4.5}) {
    const KeptPitch sound = kept([=](double s) { return 30 + s * speed; }, test::tone(1000));
    EXPECT_NEAR(test::hertzOf(read(sound, soundRate, soundRate / 10), 100, 6000), 1000 * speed, 10 * speed) << speed;
  }
}

TEST(KeptPitch, AtItsOwnSpeedItIsTheSourceToTheBit) {
  const auto source = test::noiseSound(3);
  const KeptPitch sound = kept([](double s) { return s + 0.5; }, source);
  EXPECT_EQ(read(sound, 1000, 30'000), read(source, 25'000, 30'000));
}

TEST(KeptPitch, AClickLandsWhereTheCurvePutsIt) {
  // Clicks each half second of the source.
  const test::MadeSound clicks([](double sample, int) {
    const double since = std::fmod(sample, soundRate / 2.0);
    return since >= 0 && since < 96 ? 0.8 * std::exp(-since / 30) * std::cos(since * 0.7) : 0.0;
  });
  for (const auto& [begin, end] : {std::pair{0.25, 0.25}, {4.0, 4.0}, {0.5, 2.0}, {-0.7, -0.7}}) {
    // The speed glides from one to the other in four seconds.
    const auto curve = [first = begin, last = end](double s) { return 20.2 + first * s + (last - first) * s * s / 8; };
    const Sound heard = read(kept(curve, clicks), 0, 4 * soundRate);
    int found = 0;
    for (int k = 1; k < 80; ++k) {
      const double source = k * 0.5;
      // When that is heard, by halving.
      double from = 0, to = 4;
      if ((curve(from) - source) * (curve(to) - source) >= 0) continue;
      for (int i = 0; i < 60; ++i) ((curve((from + to) / 2) - source) * (curve(from) - source) > 0 ? from : to) = (from + to) / 2;
      if (from < 0.15 || from > 3.85) continue;
      // The loudest sample near that.
      std::size_t loudest = 0;
      for (auto i = static_cast<std::size_t>((from - 0.1) * soundRate); i < static_cast<std::size_t>((from + 0.1) * soundRate); ++i)
        if (std::abs(heard.at(i, 0)) > std::abs(heard.at(loudest, 0)) || loudest == 0) loudest = i;
      EXPECT_NEAR(static_cast<double>(loudest) / soundRate, from, 0.010) << begin << " to " << end << ", click " << k;
      ++found;
    }
    EXPECT_GT(found, 1);
  }
}

TEST(KeptPitch, WhereItIsPutTogetherItIsAsLoudAsElsewhere) {
  const KeptPitch sound = kept([](double s) { return 20 + 0.6 * s; }, test::noiseSound(8));
  const double level = test::levelOf(read(sound, 2 * soundRate, soundRate));
  for (double at = 3.7; at < 4.3; at += 0.02)
    EXPECT_NEAR(20 * std::log10(test::levelOf(read(sound, static_cast<std::int64_t>(at * soundRate), 2400)) / level), 0, 1.5) << at;
}

TEST(KeptPitch, IsTheSameInWhateverPieces) {
  const auto source = test::noiseSound(5);
  const auto curve = [](double s) { return s < 3 ? 0.6 * s : s < 5 ? 1.8 + (s - 3) * -1.2 : 9 + std::fmod(s, 1.7); };
  const KeptPitch whole = kept(curve, source), other = kept(curve, source);
  const Sound all = read(whole, 0, 10 * soundRate);
  std::mt19937 random(2);
  for (int i = 0; i < 8; ++i) {
    const auto first = static_cast<std::int64_t>(random() % (9 * soundRate));
    const Sound piece = read(other, first, 9000);
    for (std::size_t k = 0; k < 9000; ++k)
      ASSERT_NEAR(piece.at(k, 0), all.at(static_cast<std::size_t>(first) + k, 0), 1e-6) << first << " + " << k;
  }
}

}  // namespace
}  // namespace molten
