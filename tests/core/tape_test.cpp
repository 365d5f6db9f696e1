// Sound along a curve: exact at its own speed, in tune at others, without clicks, the same in whatever pieces.
#include <gtest/gtest.h>

#include "core/sound/tape.h"
#include "support/sounds.h"

namespace molten {
namespace {

SoundCurve straight(double speed, double from = 0) {
  return SoundCurve([=](double seconds) { return from + seconds * speed; });
}

Sound heard(const SoundCurve& curve, const SoundSource& source, std::int64_t first, std::size_t samples) {
  Sound out(samples);
  EXPECT_TRUE(tape(curve, source, first, out, {}));
  return out;
}

/// Speeds that glide from one to the next, and where they lead.
class Glides {
 public:
  Glides(std::uint32_t seed, double least, double most) {
    std::mt19937 random(seed);
    std::uniform_real_distribution<> speed(least, most), length(0.05, 0.3);
    double at = 0, from = 2, last = 1;
    while (at < 4) {
      const double l = length(random), next = random() % 3 ? speed(random) : last;
      parts_.push_back({at, l, from, last, next});
      at += l, from += l * (last + next) / 2;
      // Some marks are sudden.
      last = random() % 3 ? next : speed(random);
    }
  }
  double operator()(double seconds) const {
    const Part* part = &parts_.front();
    for (const Part& p : parts_)
      if (p.at <= seconds) part = &p;
    const double t = seconds - part->at;
    return part->from + part->a * t + (part->b - part->a) * t * t / (2 * part->length);
  }

 private:
  struct Part {
    double at, length, from, a, b;
  };
  std::vector<Part> parts_;
};

TEST(Tape, AtItsOwnSpeedIsTheSourceToTheBit) {
  const auto source = test::noiseSound(1);
  for (const std::int64_t first : {0, 1, 4711, 345'600'000}) {
    Sound own(20'000);
    ASSERT_TRUE(source.read(first + 96, own, {}));
    EXPECT_EQ(heard(straight(1, 0.002), source, first, 20'000), own) << first;
  }
}

TEST(Tape, BackwardsAtItsOwnSpeedIsItsMirror) {
  const auto source = test::noiseSound(2);
  Sound own(10'000);
  ASSERT_TRUE(source.read(48'000 - 9'999, own, {}));
  const Sound back = heard(straight(-1, 1), source, 0, 10'000);
  for (std::size_t i = 0; i < 10'000; ++i)
    for (int c = 0; c < soundChannels; ++c) ASSERT_EQ(back.at(i, c), own.at(9'999 - i, c)) << i;
}

TEST(Tape, ATonesPitchGoesWithTheSpeedAndNothingElseIsHeard) {
  const auto source = test::tone(1000);
  for (const double speed : {0.5, 2.0, -0.5, -2.0, 0.37, 1.0001, 3.7}) {
    const Sound sound = heard(straight(speed, 20), source, 1000, 24'000);
    const double wanted = 1000 * std::abs(speed);
    EXPECT_NEAR(test::hertzOf(sound, wanted * 0.9, wanted * 1.1), wanted, wanted * 0.001) << speed;
    EXPECT_LT(test::besideTone(sound, wanted), -80) << speed;
  }
}

TEST(Tape, WhatWouldBeTooHighIsNotHeard) {
  const auto source = test::tone(18'000);
  EXPECT_LT(20 * std::log10(test::levelOf(heard(straight(2), source, 2000, 20'000))), -80);
  EXPECT_LT(20 * std::log10(test::levelOf(heard(straight(-5, 60), source, 2000, 20'000))), -80);
}

TEST(Tape, ARandomPaceIsWhatTheSourceSaysBetweenItsSamples) {
  // Low enough to be heard at the highest speed: what is heard of it is known exactly.
  const auto value = [](double sample, int channel) {
    double sum = 0;
    for (const double hertz : {211.0, 977.0, 2503.0, 5003.0})
      sum += 0.2 * std::sin(2 * M_PI * hertz * sample / soundRate + channel + hertz);
    return sum;
  };
  const test::MadeSound source(value);
  for (std::uint32_t seed = 1; seed <= 6; ++seed) {
    const Glides glides(seed, -3, 3);
    const SoundCurve curve([&](double seconds) { return glides(seconds); });
    const Sound sound = heard(curve, source, 0, 3 * soundRate);
    double off = 0;
    std::size_t counted = 0;
    const std::vector<double> positions = curve.positions(0, sound.samples());
    for (std::size_t i = 1; i + 1 < sound.samples(); ++i) {
      // Where it stands still it is silent.
      if (std::abs(positions[i + 1] - positions[i - 1]) < 0.01) continue;
      for (int c = 0; c < soundChannels; ++c) {
        const double by = sound.at(i, c) - value(positions[i], c);
        off += by * by, ++counted;
      }
    }
    EXPECT_LT(10 * std::log10(off / static_cast<double>(counted)) + 9, -60) << seed;
  }
}

TEST(Tape, IsTheSameInWhateverPieces) {
  const auto source = test::noiseSound(3);
  std::mt19937 random(4);
  const Glides glides(9, -4, 4);
  // With jumps, as at a loop's seam, and a stretch of which nothing is heard.
  const SoundCurve curve([&](double seconds) {
    if (seconds > 0.4 && seconds < 0.45) return std::nan("");
    return glides(std::fmod(seconds, 0.3)) + (seconds > 0.7 ? 1 : 0);
  });
  const Sound whole = heard(curve, source, 0, 60'000);
  for (int i = 0; i < 20; ++i) {
    const auto first = static_cast<std::int64_t>(random() % 50'000);
    const std::size_t count = 1 + random() % 9'000;
    const Sound piece = heard(curve, source, first, count);
    for (std::size_t k = 0; k < count; ++k)
      for (int c = 0; c < soundChannels; ++c)
        ASSERT_NEAR(piece.at(k, c), whole.at(static_cast<std::size_t>(first) + k, c), 1e-6) << first << " + " << k;
  }
}

TEST(Tape, NothingClicksAtMarksTurnsAndSeams) {
  const auto source = test::tone(200, 0.5);
  const double own = 0.5 * 2 * M_PI * 200 / soundRate;
  const auto stepOf = [&](const SoundCurve& curve) { return test::largestStep(heard(curve, source, 0, soundRate)); };
  // A mark where the speed changes at once, and a turn.
  EXPECT_LT(stepOf(SoundCurve([](double s) { return s < 0.5 ? s : 0.5 + (s - 0.5) * 1.4; })), own * 1.4 * 1.01);
  EXPECT_LT(stepOf(SoundCurve([](double s) { return s < 0.503 ? s : 0.503 - (s - 0.503) * 0.8; })), own * 1.01);
  // What lies farther apart is blended over a few milliseconds: at most the whole swing in that time besides.
  const double blended = own + 2 * 0.5 * M_PI / 2 / static_cast<double>(cutFade);
  EXPECT_LT(stepOf(SoundCurve([](double s) { return std::fmod(s, 0.2512); })), blended);
  EXPECT_LT(stepOf(SoundCurve([](double s) { return s < 0.50123 || s > 0.8 ? s : 0.50123; })), blended);
  EXPECT_LT(stepOf(SoundCurve([](double s) { return s < 0.50123 ? s : std::nan(""); })), blended);
}

TEST(Tape, AFreezeIsSilent) {
  const auto source = test::noiseSound(5);
  const SoundCurve curve([](double s) { return s < 0.1 ? s : s < 0.6 ? 0.1 : s - 0.5; });
  const Sound sound = heard(curve, source, 4'800 + static_cast<std::int64_t>(cutFade) + 1, 10'000);
  EXPECT_EQ(test::levelOf(sound), 0);
  Sound own(5'000);
  ASSERT_TRUE(source.read(4'800 + 400, own, {}));
  EXPECT_EQ(heard(curve, source, 28'800 + 400, 5'000), own) << "as it was before, once it is faded in";
}

TEST(Tape, IsCalledOff) {
  std::stop_source stop;
  stop.request_stop();
  Sound out(100);
  const Status done = tape(straight(1), test::noiseSound(6), 0, out, stop.get_token());
  ASSERT_FALSE(done);
  EXPECT_TRUE(done.error().cancelled);
}

}  // namespace
}  // namespace molten
