// Exact rates, folding past the ends, and which frames stand at a moment.
#include <cmath>

#include "support/clips.h"

namespace molten {
namespace {

TEST(Rate, ReadsWhatPeopleWrite) {
  EXPECT_EQ(parseRate("25"), Rational(25));
  EXPECT_EQ(parseRate("30000/1001"), Rational(30000, 1001));
  EXPECT_EQ(parseRate("29.97"), Rational(30000, 1001));
  EXPECT_EQ(parseRate("12.5"), Rational(25, 2));
  for (const char* bad : {"", "0", "-5", "x", "25fps", "1/0", "2000", "1e3"}) EXPECT_FALSE(parseRate(bad)) << bad;
  EXPECT_EQ(rateText(Rational(30000, 1001)), "29.97");
}

TEST(Rational, FloorsTowardsMinusInfinity) {
  EXPECT_EQ(Rational(-7, 2).floor(), -4);
  EXPECT_EQ(Rational(-7, 2).part(), Rational(1, 2));
  EXPECT_EQ(Rational(1, 3) + Rational(1, 6), Rational(1, 2));
  EXPECT_LT(Rational(24000, 1001), Rational(24));
}

/// Walks from frame 0 step by step, turning or jumping as the setting says.
std::int32_t foldedSlowly(std::int64_t i, std::int64_t count, PastTheEnds past) {
  std::int64_t at = 0, direction = i < 0 ? -1 : 1;
  for (std::int64_t step = 0; step < std::abs(i); ++step) {
    const std::int64_t next = at + direction;
    if (next >= 0 && next < count)
      at = next;
    else if (past == PastTheEnds::StandStill)
      return static_cast<std::int32_t>(at);
    else if (past == PastTheEnds::Transparent)
      return noFrame;
    else if (past == PastTheEnds::GoRound)
      at = next < 0 ? count - 1 : 0;
    else if (count > 1)
      direction = -direction, at += direction;
  }
  return static_cast<std::int32_t>(at);
}

TEST(PastTheEnds, AgreesWithWalking) {
  for (const auto past :
       {PastTheEnds::StandStill, PastTheEnds::TurnBack, PastTheEnds::GoRound, PastTheEnds::Transparent})
    for (const std::int64_t count : {1, 2, 3, 7})
      for (std::int64_t i = -30; i <= 30; ++i)
        EXPECT_EQ(foldFrame(i, count, past), foldedSlowly(i, count, past)) << i << " of " << count;
}

TEST(FrameClock, WholeAndMixedAtAConstantRate) {
  const auto clock = FrameClock::constant(25, 100);
  using enum InBetween;
  EXPECT_EQ(clock.pick(10, 0.49, PastTheEnds::StandStill, Whole), (FramePick{10, 10, 0}));
  EXPECT_EQ(clock.pick(10, 0.5, PastTheEnds::StandStill, Whole), (FramePick{11, 11, 0}));
  EXPECT_EQ(clock.pick(10, -0.5, PastTheEnds::StandStill, Whole), (FramePick{10, 10, 0}));
  EXPECT_EQ(clock.pick(10, -0.75, PastTheEnds::StandStill, Mixed), (FramePick{9, 10, 16384}));
  EXPECT_EQ(clock.pick(10, 1 - 1e-7, PastTheEnds::StandStill, Mixed), (FramePick{11, 11, 0}));
  EXPECT_EQ(clock.pick(99, 0.5, PastTheEnds::GoRound, Mixed), (FramePick{99, 0, 32768}));
  EXPECT_EQ(clock.pick(99, 0.5, PastTheEnds::Transparent, Mixed), (FramePick{99, noFrame, 32768}));
}

TEST(FrameClock, VaryingRateTakesTheLastStampNotAfter) {
  // Frames at 0, 1, 4 and 5; the last one lasts until 7.
  const auto clock = FrameClock::stamped(10, {0, 1, 4, 5}, 7);
  EXPECT_EQ(clock.length(), 7);
  const auto frameAt = [&](double t, PastTheEnds past) { return clock.pick(0, t, past, InBetween::Whole).first; };
  using enum PastTheEnds;
  EXPECT_EQ(frameAt(3.999, StandStill), 1);
  EXPECT_EQ(frameAt(4 - 1e-7, StandStill), 2);
  EXPECT_EQ(frameAt(6.9, StandStill), 3);
  EXPECT_EQ(frameAt(-2, StandStill), 0);
  EXPECT_EQ(frameAt(50, StandStill), 3);
  EXPECT_EQ(frameAt(8.5, GoRound), 1);
  EXPECT_EQ(frameAt(-0.5, GoRound), 3);
  EXPECT_EQ(frameAt(-1.5, TurnBack), 1);
  EXPECT_EQ(frameAt(8, TurnBack), 1);
  EXPECT_EQ(frameAt(-0.1, Transparent), noFrame);
  EXPECT_EQ(frameAt(7, Transparent), noFrame);
  EXPECT_EQ(clock.pick(0, 2.5, StandStill, InBetween::Mixed), (FramePick{1, 2, 32768}));
}

TEST(Timecode, CountsFramesFromZero) {
  EXPECT_EQ(timecode(0, 25), "00:00:00:00");
  EXPECT_EQ(timecode(99, 25), "00:00:03:24");
  EXPECT_EQ(timecode(3600 * 60, 60), "01:00:00:00");
}

}  // namespace
}  // namespace molten
