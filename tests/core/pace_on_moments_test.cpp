// A Pace set by moments: marks, turns, spans that fit.
#include <gtest/gtest.h>

#include "core/time/pace_on_moments.h"

namespace molten {
namespace {

const std::vector<Rational> hits{Rational(4, 10), Rational(9, 10), Rational(165, 100), Rational(215, 100)};

TEST(PaceOnMoments, MarksStandOnEachAndChangeNothing) {
  const PaceSetting pace{1, {{4, Rational(1)}}};
  const PaceSetting after = markEvery(pace, hits);
  ASSERT_EQ(after.spans.size(), 5u);
  for (std::size_t i = 0; i < hits.size(); ++i) EXPECT_EQ(after.curve().beginOf(i + 1), hits[i]);
  for (double t = 0; t < 4; t += 0.01) EXPECT_NEAR(after.curve().atSeconds(t), pace.curve().atSeconds(t), 1e-9);
  EXPECT_EQ(markEvery(pace, std::vector<Rational>{Rational(-1), Rational(9)}), pace) << "what lies outside is left out";
}

TEST(PaceOnMoments, EveryMomentTurnsAndTheLastGoesOn) {
  const PaceSetting pace{1, {{4, Rational(3, 2)}}};
  const PaceCurve curve = turnAtEvery(pace, hits, Rational(8, 100)).curve();
  // Well between two of them, by the slope.
  const double between[] = {0.2, 0.65, 1.3, 1.9, 3};
  const double speeds[] = {1.5, -1.5, 1.5, -1.5, 1.5};
  for (int i = 0; i < 5; ++i) EXPECT_NEAR(curve.speedAt(between[i]), speeds[i], 1e-9) << between[i];
  // It turns at each moment itself: before and after it, it goes either way.
  for (std::size_t i = 0; i < 3; ++i) {
    const double at = hits[i].toDouble();
    EXPECT_LT(curve.speedAt(at - 0.05) * curve.speedAt(at + 0.05), 0) << at;
    EXPECT_NEAR(curve.speedAt(at), 0, 1e-6) << at;
  }
}

TEST(PaceOnMoments, ASpanFitsAMomentAndALength) {
  const PaceSetting pace{0, {{1, Rational(1)}, {2, Rational(1, 2)}, {1, Rational(1)}}};
  const PaceSetting after = fitSpan(pace, 1, Rational(3, 2), Rational(12, 10));
  EXPECT_EQ(after.curve().beginOf(1), Rational(3, 2));
  EXPECT_EQ(after.curve().beginOf(2), Rational(27, 10));
  EXPECT_EQ(after.spans[1].length * after.spans[1].speed, Rational(1)) << "over the same source";
  EXPECT_EQ(fitSpan(pace, 1, Rational(0), Rational(1)), pace) << "what is before it has to end first";
}

}  // namespace
}  // namespace molten
