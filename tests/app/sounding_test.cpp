// What is heard while it plays: what the mix says, sample by sample, without gaps, on the device's clock.
#include <gtest/gtest.h>

#include "app/sound/sounding.h"
#include "support/sounds.h"

namespace molten {
namespace {

/// Takes what the test asks it to take, when it asks.
class HandDevice : public SoundDevice {
 public:
  Status start(Fill fill) override {
    fill_ = std::move(fill);
    taken_ = 0;
    return {};
  }
  void stop() override { fill_ = nullptr; }
  double heard() const override { return static_cast<double>(taken_) / soundRate; }
  Sound take(std::size_t samples) {
    Sound out(samples);
    if (fill_) fill_(out);
    taken_ += samples;
    return out;
  }

 private:
  Fill fill_;
  std::size_t taken_ = 0;
};

class SoundingTest : public ::testing::Test {
 protected:
  SoundingTest() {
    auto device = std::make_unique<HandDevice>();
    device_ = device.get();
    sounding_ = std::make_unique<Sounding>(std::move(device));
  }
  static std::shared_ptr<const Heard> heardOf(std::uint32_t seed) {
    auto heard = std::make_shared<Heard>();
    heard->mix = std::make_shared<test::MadeSound>(test::noiseSound(seed));
    heard->samples = 10 * soundRate;
    return heard;
  }
  /// Takes so many samples as they come to be mixed.
  Sound take(std::size_t samples) {
    Sound all(samples);
    for (std::size_t at = 0; at < samples;) {
      const std::size_t some = std::min<std::size_t>(480, samples - at);
      const int gaps = sounding_->gaps();
      const Sound got = device_->take(some);
      EXPECT_EQ(sounding_->gaps(), gaps) << "at " << at;
      std::copy(got.values().begin(), got.values().end(), all.values().begin() + static_cast<std::ptrdiff_t>(at * soundChannels));
      at += some;
      sounding_->waitUntilMixed();
    }
    return all;
  }
  HandDevice* device_;
  std::unique_ptr<Sounding> sounding_;
};

TEST_F(SoundingTest, PlaysWhatTheMixSays) {
  const auto heard = heardOf(1);
  sounding_->play({heard, 0.5, 1, 0, 10, false});
  sounding_->waitUntilMixed();
  const Sound got = take(30'000);
  Sound wanted(30'000);
  ASSERT_TRUE(heard->mix->read(soundRate / 2, wanted, {}));
  EXPECT_EQ(got, wanted);
  EXPECT_EQ(sounding_->gaps(), 0);
}

TEST_F(SoundingTest, GoesRoundWithoutAGap) {
  const auto heard = heardOf(2);
  sounding_->play({heard, 1.0, 1, 1.0, 1.25, true});
  sounding_->waitUntilMixed();
  const Sound got = take(40'000);
  Sound round(12'000);
  ASSERT_TRUE(heard->mix->read(soundRate, round, {}));
  // But for the blend at each seam it is the round again and again.
  for (std::size_t i = 0; i < got.samples(); ++i)
    if (i < 12'000 || i % 12'000 > 200) {
      ASSERT_NEAR(got.at(i, 0), round.at(i % 12'000, 0), 1e-6) << i;
    }
}

TEST_F(SoundingTest, AChangeIsHeardSoonAndWithoutAClick) {
  auto first = std::make_shared<Heard>(), second = std::make_shared<Heard>();
  first->mix = std::make_shared<test::MadeSound>(test::tone(200, 0.5));
  second->mix = std::make_shared<test::MadeSound>(test::tone(200, 0.1));
  sounding_->play({first, 0, 1, 0, 10, false});
  sounding_->waitUntilMixed();
  take(10'000);
  sounding_->change({second, 0, 1, 0, 10, false});
  sounding_->waitUntilMixed();
  const Sound got = take(20'000);
  Sound wanted(20'000);
  ASSERT_TRUE(second->mix->read(10'000, wanted, {}));
  for (std::size_t i = 5'000; i < got.samples(); ++i) ASSERT_NEAR(got.at(i, 0), wanted.at(i, 0), 1e-6) << "a tenth of a second on: " << i;
  EXPECT_LT(test::largestStep(got), 0.5 * 2 * M_PI * 200 / soundRate + 2 * 0.5 / 480);
}

}  // namespace
}  // namespace molten
