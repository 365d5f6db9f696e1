// Sounds side by side, against what a slow and obvious sum says of each sample.
#include "core/sound/loudness.h"
#include "core/sound/sound_mix.h"
#include "support/sounds.h"

namespace molten {
namespace {

std::shared_ptr<const SoundSource> noise(std::uint32_t seed) {
  return std::make_shared<test::MadeSound>(test::noiseSound(seed));
}

Sound read(const SoundSource& source, std::int64_t first, std::size_t samples) {
  Sound out(samples);
  EXPECT_TRUE(source.read(first, out, {}));
  return out;
}

/// What one of them adds to a sample of the result; none: it lies in a blend at a seam.
std::optional<double> addedBy(const PlacedSound& sound, std::int64_t sample, int channel) {
  const std::int64_t at = sample - sound.at;
  if (at < 0 || at >= sound.length) return 0;
  if (sound.round > 0 && at >= sound.round && at % sound.round < 200) return std::nullopt;
  const std::int64_t place = sound.from + (sound.round > 0 ? at % sound.round : at);
  double gain = sound.gain;
  if (at < sound.fadeIn) gain *= (static_cast<double>(at) + 0.5) / static_cast<double>(sound.fadeIn);
  if (sound.length - 1 - at < sound.fadeOut)
    gain *= (static_cast<double>(sound.length - 1 - at) + 0.5) / static_cast<double>(sound.fadeOut);
  return gain * read(*sound.source, place, 1).at(0, channel);
}

TEST(SoundMix, IsTheSumOfWhatIsPlacedTrimmedRepeatedAndFaded) {
  std::mt19937 random(1);
  for (int round = 0; round < 20; ++round) {
    std::vector<PlacedSound> sounds(random() % 4);
    for (PlacedSound& sound : sounds) {
      sound.source = noise(random());
      sound.at = static_cast<std::int64_t>(random() % 6000) - 2000;
      sound.from = static_cast<std::int64_t>(random() % 5000);
      sound.length = static_cast<std::int64_t>(random() % 7000);
      sound.round = random() % 2 ? 0 : 1500 + static_cast<std::int64_t>(random() % 1000);
      sound.gain = static_cast<float>(random() % 200) / 100;
      sound.fadeIn = static_cast<std::int64_t>(random() % 1000);
      sound.fadeOut = static_cast<std::int64_t>(random() % 1000);
    }
    const SoundMix mix(sounds);
    const Sound whole = read(mix, -500, 5000);
    for (std::int64_t i = 0; i < 5000; i += 7)
      for (int c = 0; c < soundChannels; ++c) {
        double sum = 0;
        bool blended = false;
        for (const PlacedSound& sound : sounds) {
          const auto added = addedBy(sound, i - 500, c);
          sum += added.value_or(0), blended |= !added;
        }
        if (!blended) {
          ASSERT_NEAR(whole.at(static_cast<std::size_t>(i), c), sum, 1e-5) << round << ": " << i;
        }
      }
    // Whatever pieces it is asked for in.
    const auto first = static_cast<std::int64_t>(random() % 4000);
    const Sound piece = read(mix, first - 500, 700);
    for (std::size_t i = 0; i < 700; ++i)
      ASSERT_NEAR(piece.at(i, 1), whole.at(static_cast<std::size_t>(first) + i, 1), 1e-6) << round << ": " << first + static_cast<std::int64_t>(i);
  }
}

TEST(SoundMix, AGainThatMovesIsFollowed) {
  PlacedSound sound;
  sound.source = noise(4);
  sound.length = soundRate;
  sound.moreGain = [](double seconds) { return 0.5 + 0.4 * std::sin(seconds * 9); };
  const Sound mixed = read(SoundMix({sound}), 1000, 20'000), own = read(*sound.source, 1000, 20'000);
  for (std::size_t i = 0; i < mixed.samples(); ++i) {
    const double gain = 0.5 + 0.4 * std::sin(static_cast<double>(i + 1000) / soundRate * 9);
    ASSERT_NEAR(mixed.at(i, 0), gain * own.at(i, 0), 1e-5) << i;
  }
}

TEST(SoundMix, DecibelsAreFactorsAndBack) {
  EXPECT_NEAR(factorOf(-6), 0.501187, 1e-6);
  EXPECT_NEAR(decibelsOf(factorOf(7.3)), 7.3, 1e-9);
  EXPECT_EQ(factorOf(-std::numeric_limits<double>::infinity()), 0);
}

/// As the broadcasters' own test signals: a tone of so many decibels in both channels is as loud in LUFS.
TEST(Loudness, OfAToneIsItsLevel) {
  for (const double decibels : {-23.0, -33.0}) {
    Loudness loudness;
    const test::MadeSound source([&](double sample, int) {
      return factorOf(decibels) * std::sin(2 * M_PI * 1000 * sample / soundRate);
    });
    for (int second = 0; second < 20; ++second) loudness.add(read(source, second * soundRate, soundRate));
    ASSERT_TRUE(loudness.whole());
    EXPECT_NEAR(*loudness.whole(), decibels, 0.1);
  }
  Loudness silent;
  silent.add(Sound(soundRate));
  EXPECT_FALSE(silent.whole());
}

}  // namespace
}  // namespace molten
