// Where sounds begin.
#include "core/sound/onsets.h"
#include "demo/sounds.h"
#include "support/sounds.h"

namespace molten {
namespace {

/// A sound that begins at sample 0.
class Held : public SoundSource {
 public:
  explicit Held(Sound sound) : sound_(std::move(sound)) {}
  Status read(std::int64_t first, Sound& out, std::stop_token) const override {
    for (std::size_t i = 0; i < out.samples(); ++i) {
      const std::int64_t at = first + static_cast<std::int64_t>(i);
      for (int c = 0; c < soundChannels; ++c)
        out.at(i, c) = at >= 0 && at < length() ? sound_.at(static_cast<std::size_t>(at), c) : 0;
    }
    return {};
  }
  std::int64_t length() const { return static_cast<std::int64_t>(sound_.samples()); }

 private:
  Sound sound_;
};

Held demoSound(const std::string& name) {
  for (const demo::DemoSound& one : demo::sounds())
    if (one.name == name) return Held(one.sound);
  ADD_FAILURE() << name;
  return Held(Sound());
}

std::vector<std::int64_t> onsetsOf(const Held& sound, double sensitivity) {
  const auto onsets = onsetsIn(sound, 0, sound.length(), sensitivity, {});
  EXPECT_TRUE(onsets);
  return onsets ? *onsets : std::vector<std::int64_t>();
}

TEST(Onsets, OfTheFourHitsAreWhereTheHammerFallsAndNoMore) {
  const Held hits = demoSound("four-hits");
  for (const double sensitivity : {0.3, 0.5, 0.7}) {
    const auto onsets = onsetsOf(hits, sensitivity);
    ASSERT_EQ(onsets.size(), 4u) << sensitivity;
    const double wanted[] = {0.4, 0.9, 1.65, 2.15};
    for (std::size_t i = 0; i < 4; ++i) EXPECT_NEAR(static_cast<double>(onsets[i]) / soundRate, wanted[i], 0.010) << sensitivity;
  }
}

TEST(Onsets, OfAHumAreNone) {
  EXPECT_TRUE(onsetsOf(Held(Sound(3 * soundRate)), 1).empty()) << "silence";
  const auto hum = test::tone(110, 0.3);
  Sound steady(2 * soundRate);
  ASSERT_TRUE(hum.read(soundRate, steady, {}));
  // The stretch begins within it: what begins at its first sample begins before.
  const auto found = onsetsIn(hum, soundRate, 3 * soundRate, 0.5, {});
  ASSERT_TRUE(found);
  EXPECT_TRUE(found->empty()) << found->size();
}

TEST(Onsets, MoreAreFoundBySensitivity) {
  // Softer and softer hits in noise.
  Sound sound(6 * soundRate);
  const auto noise = test::noiseSound(7);
  ASSERT_TRUE(noise.read(0, sound, {}));
  for (std::size_t i = 0; i < sound.samples(); ++i) {
    const double since = static_cast<double>(i % (soundRate / 2)) / soundRate;
    const double loud = 0.9 * std::pow(0.72, static_cast<double>(i / (soundRate / 2)));
    for (int c = 0; c < soundChannels; ++c)
      sound.at(i, c) = static_cast<float>(0.02 * sound.at(i, c) + loud * std::exp(-30 * since) * std::sin(2 * M_PI * 900 * since));
  }
  const Held held(sound);
  std::size_t last = 0;
  for (const double sensitivity : {0.0, 0.25, 0.5, 0.75, 1.0}) {
    const std::size_t now = onsetsOf(held, sensitivity).size();
    EXPECT_GE(now, last) << sensitivity;
    last = now;
  }
  EXPECT_GE(last, 9u);
}

TEST(Onsets, IsCalledOff) {
  std::stop_source stop;
  stop.request_stop();
  const auto found = onsetsIn(test::noiseSound(1), 0, soundRate, 0.5, stop.get_token());
  ASSERT_FALSE(found);
  EXPECT_TRUE(found.error().cancelled);
}

}  // namespace
}  // namespace molten
