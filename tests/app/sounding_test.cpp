// What is heard while it plays: what the mix says, sample by sample, without gaps, on the device's clock.
#include <gtest/gtest.h>

#include <future>

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
  bool plays() const { return fill_ != nullptr; }
  double heard() const override { return static_cast<double>(taken_) / soundRate; }
  Sound take(std::size_t samples) {
    Sound out(samples);
    if (fill_) fill_(out.values());
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

/// Held back until the test lets it go.
class HeldBack : public SoundSource {
 public:
  explicit HeldBack(std::shared_ptr<const SoundSource> source) : source_(std::move(source)) {}
  Status read(std::int64_t first, Sound& out, std::stop_token stop) const override {
    std::unique_lock lock(mutex_);
    ++waiting_;
    changed_.notify_all();
    if (!changed_.wait(lock, stop, [&] { return open_; })) return cancelledError();
    return source_->read(first, out, stop);
  }
  void setOpen(bool open) {
    const std::scoped_lock lock(mutex_);
    open_ = open, waiting_ = 0;
    changed_.notify_all();
  }
  /// Returns when somebody waits for it.
  void waitForReader() {
    std::unique_lock lock(mutex_);
    changed_.wait(lock, [&] { return waiting_ > 0; });
  }

 private:
  std::shared_ptr<const SoundSource> source_;
  mutable std::mutex mutex_;
  mutable std::condition_variable_any changed_;
  bool open_ = false;
  mutable int waiting_ = 0;
};

TEST_F(SoundingTest, TheDeviceBeginsWhenThereIsSomethingToHear) {
  auto held = std::make_shared<HeldBack>(heardOf(3)->mix);
  auto heard = std::make_shared<Heard>();
  heard->mix = held;
  sounding_->play({heard, 0.25, 1, 0, 10, false});
  held->waitForReader();
  EXPECT_FALSE(device_->plays());
  EXPECT_LT(sounding_->seconds(), 0) << "it has not begun";
  // A change before that is one of what will be heard from the beginning on.
  sounding_->change({heard, 1, 1, 0, 10, false});
  held->setOpen(true);
  sounding_->waitUntilMixed();
  const Sound got = take(4800);
  Sound wanted(4800);
  ASSERT_TRUE(heardOf(3)->mix->read(soundRate, wanted, {}));
  EXPECT_EQ(got, wanted);
  EXPECT_EQ(sounding_->gaps(), 0);
}

/// Where it cannot be mixed in time there is a hole, and after it everything is in its place again.
TEST_F(SoundingTest, WhatComesTooLateIsLeftOut) {
  auto held = std::make_shared<HeldBack>(heardOf(4)->mix);
  auto heard = std::make_shared<Heard>();
  heard->mix = held;
  held->setOpen(true);
  sounding_->play({heard, 0, 1, 0, 10, false});
  sounding_->waitUntilMixed();
  held->setOpen(false);
  device_->take(480);
  held->waitForReader();
  // All that was mixed ahead, and half a second of nothing.
  device_->take(soundRate);
  EXPECT_GT(sounding_->gaps(), 0);
  held->setOpen(true);
  sounding_->waitUntilMixed();
  device_->take(4800);
  sounding_->waitUntilMixed();
  const Sound got = take(4800);
  Sound wanted(4800);
  ASSERT_TRUE(heardOf(4)->mix->read(480 + soundRate + 4800, wanted, {}));
  EXPECT_EQ(got, wanted);
}

/// Against a plain list of samples: what is written, cut back and asked for at random.
TEST(SoundStream, GivesWhatIsMixedAndSilenceElsewhere) {
  std::mt19937 random(3);
  for (int round = 0; round < 20; ++round) {
    SoundStream stream;
    std::vector<float> mixed;  // left and right in turn
    std::size_t given = 0;
    int gaps = 0;
    for (int step = 0; step < 400; ++step) {
      const std::size_t ahead = mixed.size() / 2 > given ? mixed.size() / 2 - given : 0;
      if (random() % 3 != 0 && ahead < 40'000) {
        const std::size_t first = std::max(mixed.size() / 2, given) + (random() % 6 == 0 ? random() % 500 : 0);
        std::vector<float> some(2 * (1 + random() % 3000));
        for (float& value : some) value = static_cast<float>(random() % 2000) / 1000 - 1;
        stream.write(static_cast<std::int64_t>(first), some);
        mixed.resize(first * 2, 0.0f);
        mixed.insert(mixed.end(), some.begin(), some.end());
      } else if (random() % 5 == 0) {
        const std::size_t to = given + random() % 2000;
        stream.cutBack(static_cast<std::int64_t>(to));
        mixed.resize(std::min(mixed.size(), 2 * to));
      }
      std::vector<float> out(2 * (random() % 2500), 9.0f);
      stream.read(out);
      std::vector<float> wanted(out.size(), 0.0f);
      for (std::size_t i = 0; i < wanted.size() && given * 2 + i < mixed.size(); ++i) wanted[i] = mixed[given * 2 + i];
      ASSERT_EQ(out, wanted) << round << ", " << step;
      given += out.size() / 2;
      gaps += given > mixed.size() / 2 && !out.empty();
      ASSERT_EQ(stream.given(), static_cast<std::int64_t>(given));
      ASSERT_EQ(stream.gaps(), gaps);
    }
    for (std::size_t back = 0; back < 1000 && back < mixed.size() / 2; ++back) {
      const std::size_t sample = mixed.size() / 2 - 1 - back;
      ASSERT_EQ(stream.at(static_cast<std::int64_t>(sample), 1), mixed[sample * 2 + 1]);
    }
    stream.end();
    std::vector<float> out(64, 9.0f);
    stream.read(out);
    EXPECT_EQ(out, std::vector<float>(64, 0.0f));
  }
}

/// One thread writes, another takes: every sample comes once and in order.
TEST(SoundStream, IsReadWhileItIsWritten) {
  SoundStream stream;
  constexpr std::int64_t all = 300'000;
  std::jthread mixing([&] {
    for (std::int64_t at = 0; at < all;) {
      if (at - stream.given() > 20'000) {
        std::this_thread::yield();
        continue;
      }
      std::vector<float> some(2 * 700);
      for (std::size_t i = 0; i < some.size(); ++i) some[i] = static_cast<float>(at * 2 + static_cast<std::int64_t>(i) + 1);
      stream.write(at, some);
      at += 700;
    }
  });
  std::vector<float> out(2 * 256);
  for (float next = 1; next < static_cast<float>(2 * all);) {
    if (stream.mixed() - stream.given() < 256) {
      std::this_thread::yield();
      continue;
    }
    stream.read(out);
    for (const float value : out) {
      ASSERT_EQ(value, next);
      next += 1;
    }
  }
  EXPECT_EQ(stream.gaps(), 0);
}

/// What cannot be mixed is said, once.
TEST(Sounding, WhatCannotBeMixedIsSaid) {
  class Unreadable : public SoundSource {
    Status read(std::int64_t, Sound&, std::stop_token) const override { return Error{"whirr.wav cannot be decoded."}; }
  };
  std::mutex mutex;
  std::vector<std::string> said;
  auto device = std::make_unique<HandDevice>();
  Sounding sounding(std::move(device), [&](const Error& error) {
    const std::scoped_lock lock(mutex);
    said.push_back(error.message);
  });
  auto heard = std::make_shared<Heard>();
  heard->mix = std::make_shared<Unreadable>();
  sounding.play({heard, 0, 1, 0, 10, false});
  sounding.waitUntilMixed();
  const std::scoped_lock lock(mutex);
  EXPECT_EQ(said, std::vector<std::string>{"whirr.wav cannot be decoded. It is silent there."});
}

TEST(Sounding, ADeviceThatCannotBePlayedToIsSaidAndTimeGoesOn) {
  class Broken : public SoundDevice {
    Status start(Fill) override { return Error{"The sound device is broken."}; }
    void stop() override {}
    double heard() const override { return 0; }
  };
  std::promise<std::string> said;
  Sounding sounding(std::make_unique<Broken>(), [&](const Error& error) { said.set_value(error.message); });
  auto heard = std::make_shared<Heard>();
  heard->mix = std::make_shared<test::MadeSound>(test::noiseSound(1));
  sounding.play({heard, 0, 1, 0, 10, false});
  EXPECT_EQ(said.get_future().get(), "The sound device is broken.");
  const double first = sounding.seconds();
  EXPECT_GE(first, 0);
  while (sounding.seconds() == first) std::this_thread::yield();
  EXPECT_GT(sounding.seconds(), first);
}

}  // namespace
}  // namespace molten
