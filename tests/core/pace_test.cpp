// Paces: the curve against a slow sum of its speed, its text, and that edits keep their word.
#include "core/stages/pace.h"

#include <cmath>
#include <random>

#include "core/time/pace_edits.h"
#include "core/time/pace_text.h"
#include "support/clips.h"

namespace molten {
namespace {

Rational tenths(std::mt19937& random, int least, int most) {
  return Rational(std::uniform_int_distribution<>(least, most)(random), 10);
}

PaceSetting randomPace(std::mt19937& random, int most = 6, bool sided = false) {
  PaceSetting pace;
  pace.from = tenths(random, -10, 30);
  const int count = std::uniform_int_distribution<>(1, most)(random);
  for (int i = 0; i < count; ++i) {
    PaceSpan span;
    span.length = tenths(random, 1, 25);
    span.speed = random() % 4 == 0 ? Rational(0) : Rational(std::uniform_int_distribution<>(-400, 400)(random), 100);
    span.glide = random() % 2 ? tenths(random, 1, 20) : Rational(0);
    span.bend = random() % 2 ? Rational(std::uniform_int_distribution<>(-100, 100)(random), 100) : Rational(0);
    if (sided && span.glide > Rational(0)) span.side = static_cast<GlideSide>(random() % 3);
    pace.spans.push_back(span);
  }
  pace.spans.back().glide = 0;
  pace.spans.back().bend = 0;
  pace.spans.back().side = GlideSide::Around;
  return pace;
}

/// The speed at a moment by the header's words: constant on spans, in glides a + (b − a)·s(u).
double speedByDefinition(const PaceSetting& pace, double t) {
  std::vector<double> marks{0};
  for (const auto& span : pace.spans) marks.push_back(marks.back() + span.length.toDouble());
  const auto glides = [&](std::size_t i) {
    return i + 1 < pace.spans.size() && pace.spans[i].glide > Rational(0) &&
           pace.spans[i].speed != pace.spans[i + 1].speed;
  };
  // The parts of a glide before and after its mark.
  const auto parts = [&](std::size_t i) {
    const double bend = pace.spans[i].bend.toDouble();
    return pace.spans[i].side == GlideSide::Before  ? std::pair(1.0, 0.0)
           : pace.spans[i].side == GlideSide::After ? std::pair(0.0, 1.0)
                                                    : std::pair(0.5 - bend / 10, 0.5 + bend / 10);
  };
  const auto room = [&](std::size_t i) {
    const double length = pace.spans[i].length.toDouble();
    const bool in = i > 0 && glides(i - 1) && parts(i - 1).second > 0, out = glides(i) && parts(i).first > 0;
    return in && out ? length / 2 : length;
  };
  for (std::size_t i = 0; i + 1 < pace.spans.size(); ++i) {
    if (!glides(i)) continue;
    const double bend = pace.spans[i].bend.toDouble();
    const auto [before, after] = parts(i);
    const double g = std::min(
        {pace.spans[i].glide.toDouble(), before > 0 ? room(i) / before : 1e9, after > 0 ? room(i + 1) / after : 1e9});
    const double u = (t - (marks[i + 1] - g * before)) / g;
    if (u < 0 || u > 1) continue;
    const double a = pace.spans[i].speed.toDouble(), b = pace.spans[i + 1].speed.toDouble();
    return a + (b - a) * (3 * u * u - 2 * u * u * u + 3 * bend * u * u * (1 - u) * (1 - u));
  }
  std::size_t i = 0;
  while (i + 1 < pace.spans.size() && t >= marks[i + 1]) ++i;
  return pace.spans[i].speed.toDouble();
}

TEST(Pace, IsTheSumOfItsSpeed) {
  std::mt19937 random(31);
  for (int round = 0; round < 60; ++round) {
    const bool sided = round % 2 == 1;
    const PaceSetting pace = randomPace(random, 6, sided);
    const PaceCurve curve = pace.curve();
    const double length = curve.length().toDouble();
    double sum = pace.from.toDouble();
    // Span by span: at a mark the speed may jump.
    for (std::size_t span = 0; span < pace.spans.size(); ++span) {
      constexpr int parts = 4000;
      const Rational begin = curve.beginOf(span), each = pace.spans[span].length / Rational(parts);
      for (int i = 0; i < parts; ++i) {
        const Rational at = begin + each * Rational(i);
        if (i % 50 == 0) {
          ASSERT_NEAR(curve.at(at).seconds(), sum, 3e-6) << paceSpansText(pace.spans) << " at " << at.toDouble();
          ASSERT_NEAR(curve.atSeconds(at.toDouble()), curve.at(at).seconds(), 1e-9);
          const double beside = at.toDouble() + 1e-5;
          ASSERT_NEAR(curve.speedAt(beside), speedByDefinition(pace, beside), 1e-6);
        }
        sum += speedByDefinition(pace, (at + each / Rational(2)).toDouble()) * each.toDouble();
      }
    }
    // What a stretch reads lies within its bounds, which are not much wider.
    for (int i = 0; i < 20; ++i) {
      const double from = length * (random() % 100) / 100, to = from + length * (random() % 40) / 100;
      const auto [low, high] = curve.range(from, to);
      for (int k = 0; k <= 50; ++k) {
        const double at = curve.atSeconds(from + (to - from) * k / 50);
        ASSERT_GE(at, low - 1e-9);
        ASSERT_LE(at, high + 1e-9);
      }
    }
    if (sided) continue;
    // Glides around their marks move none.
    Rational source = pace.from;
    for (std::size_t i = 0; i < pace.spans.size(); ++i) {
      EXPECT_EQ(curve.sourceAt(i), source);
      source = source + pace.spans[i].length * pace.spans[i].speed;
    }
    EXPECT_NEAR(curve.at(curve.length()).seconds(), source.toDouble(), 1e-9);
  }
}

/// With the glides before it and after it a freeze keeps its full length, on the frame at which it was asked for.
TEST(Pace, AFreezeKeepsItsLengthBetweenGlides) {
  PaceSpans spans{{2, 1, Rational(1, 2)}, {1, 0, Rational(1, 2)}, {2, 1}};
  spans[0].side = GlideSide::Before, spans[1].side = GlideSide::After;
  const PaceCurve curve(0, spans);
  const double frozen = curve.atSeconds(2);
  for (const double t : {2.0, 2.3, 2.7, 3.0}) EXPECT_NEAR(curve.atSeconds(t), frozen, 1e-12) << t;
  EXPECT_LT(curve.atSeconds(1.95), frozen);
  EXPECT_GT(curve.atSeconds(3.05), frozen);
  EXPECT_EQ(curve.glideAfter(0).begin, Rational(3, 2));
  EXPECT_EQ(curve.glideAfter(1).begin, Rational(3));
  EXPECT_FALSE(curve.isNarrowed(0));
  // Where there is no room it is narrowed, and that is told.
  spans[0].glide = 3;
  EXPECT_TRUE(PaceCurve(0, spans).isNarrowed(0));
  const auto text = paceSpansText(spans);
  EXPECT_EQ(text, "2s@100%~3s:before+1s@0%~0.5s:after+2s@100%");
  EXPECT_EQ(*parsePaceSpans(text, 25), spans);
}

TEST(Pace, GathersNoErrorInAnHour) {
  const PaceCurve third(0, {{3600, Rational(1, 3), 0, 0}});
  const VideoDescription video{{64, 36}, 1, {30000, 1001}, 200'000};
  Stage stage = newStage(pace());
  paceParameters().spans.set(stage.values, third.spans());
  const auto map = pace().timeMap(stage, video);
  for (std::int64_t n = 0; n < 107'000; n += 997) {
    const Moment at = map->readAt({n});
    EXPECT_EQ(at.whole, n / 3);
    EXPECT_NEAR(at.part(), static_cast<double>(n % 3) / 3, 1e-12);
  }
  // With a glide before it, which is no fraction.
  const PaceCurve after(0, {{1, 2, Rational(1, 2), Rational(3, 10)}, {3600, Rational(1, 3), 0, 0}});
  EXPECT_NEAR(after.at(3601).seconds() * 30, (2 + 1200) * 30, 1e-6);
}

TEST(Pace, TextIsReadBack) {
  std::mt19937 random(8);
  for (int round = 0; round < 300; ++round) {
    PaceSpans spans = randomPace(random).spans;
    if (round % 3 == 0) spans[0].length = Rational(1001 * (round + 1), 30000);
    if (round % 5 == 0) spans[0].speed = Rational(1, 3);
    const auto read = parsePaceSpans(paceSpansText(spans), 30);
    ASSERT_TRUE(read) << paceSpansText(spans) << ": " << read.error().message;
    EXPECT_EQ(*read, spans) << paceSpansText(spans);
  }
  const auto written = parsePaceSpans("2s@100%~0.4s+1.5s@35%+0.5s@0%+2s@-140%", 24);
  ASSERT_TRUE(written);
  ASSERT_EQ(written->size(), 4u);
  EXPECT_EQ((*written)[0], (PaceSpan{2, 1, Rational(2, 5), 0}));
  EXPECT_EQ((*written)[3], (PaceSpan{2, Rational(-7, 5), 0, 0}));
  EXPECT_EQ(parsePaceSpans("36f@+50~12f~-20%+1/12s@1/3", 24)->at(0),
            (PaceSpan{Rational(3, 2), Rational(1, 2), Rational(1, 2), Rational(-1, 5)}));
  for (const char* bad : {"2s", "@5%", "2s@", "0s@100%", "-1s@5%", "2s@10001%", "2s@5%~", "2s@5%~-1s", "2s@5%~1s~200%",
                          "2s@5%+", "1e9s@1%", "90000s@1%", "2s@5%~1s~", "2s@x", "2s@1/0", "nan@1%"}) {
    const auto refused = parsePaceSpans(bad, 24);
    EXPECT_FALSE(refused) << bad;
    if (!refused) {
      EXPECT_GT(refused.error().message.size(), 20u);
    }
  }
}

TEST(PaceEdits, ANewMarkChangesNothingThatIsSeen) {
  std::mt19937 random(3);
  for (int round = 0; round < 100; ++round) {
    PaceSetting pace = randomPace(random);
    for (auto& span : pace.spans) span.glide = 0;
    const PaceCurve before = pace.curve();
    const Rational t = before.length() * Rational(static_cast<int>(random() % 997) + 1, 999);
    const PaceCurve after = dropMark(pace, t, Rational(1, 5)).curve();
    for (int i = 0; i <= 20; ++i) {
      const Rational at = before.length() * Rational(i, 20);
      EXPECT_EQ(after.at(at).seconds(), before.at(at).seconds());
    }
  }
}

TEST(PaceEdits, SpeedKeepsFootageOrLength) {
  const PaceSetting pace{Rational(1, 2), {{2, 1, Rational(1, 5), 0}, {1, Rational(1, 2), 0, 0}, {3, 2, 0, 0}}};
  const PaceCurve footage = setSpeed(pace, 1, Rational(1, 4), Keeping::Footage).curve();
  EXPECT_EQ(footage.length(), Rational(7));
  EXPECT_EQ(footage.sourceAt(2), pace.curve().sourceAt(2));
  EXPECT_EQ(footage.sourceAt(3), pace.curve().sourceAt(3));
  const PaceCurve length = setSpeed(pace, 1, Rational(-1, 4), Keeping::Length).curve();
  EXPECT_EQ(length.length(), Rational(6));
  EXPECT_EQ(length.beginOf(2), pace.curve().beginOf(2));
  EXPECT_EQ(length.sourceAt(2), Rational(9, 4));
  // What cannot be is refused: far too long.
  EXPECT_EQ(setSpeed(pace, 2, Rational(1, 1'000'000), Keeping::Footage), pace);
}

TEST(PaceEdits, MarksSlideAlongTheOutputOrTheFootage) {
  const PaceSetting pace{0, {{2, 1, 0, 0}, {2, Rational(1, 2), 0, 0}, {2, 3, 0, 0}}};
  const PaceCurve before = pace.curve();
  const PaceCurve output = slideMark(pace, 0, Along::Output, 3).curve();
  EXPECT_EQ(output.beginOf(1), Rational(3));
  EXPECT_EQ(output.beginOf(2), before.beginOf(2));
  EXPECT_EQ(output.length(), before.length());
  const PaceCurve footage = slideMark(pace, 0, Along::Footage, Rational(5, 2)).curve();
  EXPECT_EQ(footage.sourceAt(1), Rational(5, 2));
  EXPECT_EQ(footage.sourceAt(2), before.sourceAt(2));
  EXPECT_EQ(footage.sourceAt(3), before.sourceAt(3));
  EXPECT_EQ(footage.beginOf(2), Rational(7, 2));
  for (const auto& curve : {output, footage})
    for (std::size_t i = 0; i < 3; ++i) EXPECT_EQ(curve.spans()[i].speed, pace.spans[i].speed);
  // Never past a neighbour.
  EXPECT_GT(slideMark(pace, 0, Along::Output, 100).spans[1].length, Rational(0));
  EXPECT_EQ(slideMark(pace, 0, Along::Footage, 100), pace);
}

TEST(PaceEdits, FreezesRewindsAndFits) {
  const PaceSetting pace{0, {{4, 1, 0, 0}}};
  const PaceCurve frozen = freezeHere(pace, Rational(3, 2), 2).curve();
  EXPECT_EQ(frozen.length(), Rational(6));
  EXPECT_EQ(frozen.at(2).exact, Rational(3, 2));
  EXPECT_EQ(frozen.at(Rational(7, 2)).exact, Rational(3, 2));
  EXPECT_EQ(frozen.at(6).exact, Rational(4));

  const PaceCurve rewound = backAndAgain(dropMark(pace, 2), 0, 2, Rational(1, 10)).curve();
  EXPECT_EQ(rewound.length(), Rational(12));
  EXPECT_EQ(rewound.sourceAt(1), Rational(2));
  EXPECT_EQ(rewound.sourceAt(2), Rational(0));
  EXPECT_EQ(rewound.sourceAt(5), Rational(2));
  EXPECT_EQ(rewound.sourceAt(6), Rational(4));

  const PaceCurve backwards = runBackwards(pace, 0, Rational(1, 60)).curve();
  EXPECT_EQ(backwards.at(0).exact, Rational(239, 60));
  EXPECT_EQ(backwards.at(Rational(239, 60)).exact, Rational(0));

  const PaceSetting minute{0, {{60, 1, 0, 0}}};
  const PaceCurve fitted = fitTo(minute, 7, 1).curve();
  EXPECT_EQ(fitted.length(), Rational(7));
  EXPECT_NEAR(fitted.at(7).seconds(), 60, 1e-9);
  EXPECT_EQ(fitted.at(0).seconds(), 0);
  EXPECT_NEAR(fitted.speedAt(0), 0, 1e-9);
  EXPECT_NEAR(fitted.speedAt(7), 0, 1e-6);
  EXPECT_EQ(fitTo(minute, 7, 0).curve().length(), Rational(7));
}

TEST(PaceEdits, SlipLineUpAndTrim) {
  std::mt19937 random(14);
  for (int round = 0; round < 100; ++round) {
    const PaceSetting pace = randomPace(random);
    const PaceCurve before = pace.curve();
    const Rational t = before.length() * Rational(static_cast<int>(random() % 99) + 1, 101);
    const PaceSetting lined = lineUp(pace, Rational(5, 4), t);
    EXPECT_NEAR(lined.curve().at(t).seconds(), 1.25, 1e-9);
    EXPECT_EQ(lined.spans, pace.spans);
    const PaceSetting slipped = slip(pace, Rational(-1, 3));
    EXPECT_EQ(slipped.curve().at(t).exact, before.at(t).exact - Rational(1, 3));
    // What is left after trimming stays on its footage, except in a glide that is cut through.
    const PaceCurve later = trimStart(pace, t).curve();
    EXPECT_EQ(later.length(), before.length() - t);
    EXPECT_NEAR(later.at(later.length()).seconds(), before.at(before.length()).seconds(), 1e-9);
    const PaceCurve earlier = trimEnd(pace, t).curve();
    EXPECT_EQ(earlier.length(), t);
    EXPECT_EQ(earlier.from(), before.from());
  }
}

TEST(PaceEdits, SpeedsSnapToWholeStepsAndCleanOnes) {
  const Rational clean(2, 5), reach(1, 100);
  EXPECT_EQ(snappedSpeed(Rational(351, 1000), clean, reach), Rational(35, 100));
  EXPECT_EQ(snappedSpeed(Rational(131, 1000), clean, reach), Rational(2, 15));
  EXPECT_EQ(snappedSpeed(Rational(-797, 1000), clean, reach), Rational(-4, 5));
  EXPECT_EQ(snappedSpeed(Rational(3, 1000), clean, reach), Rational(0));
  EXPECT_EQ(snappedSpeed(Rational(325, 1000), clean, reach), Rational(325, 1000));
  EXPECT_EQ(slowestCleanSpeed(60, 24), clean);
  EXPECT_EQ(lookOf(clean, 60, 24), SpanLook::Clean);
  EXPECT_EQ(lookOf(Rational(3, 10), 60, 24), SpanLook::Repeats);
  EXPECT_EQ(lookOf(-2, 60, 24), SpanLook::Skips);
  EXPECT_EQ(lookOf(0, 60, 24), SpanLook::Freeze);
}

}  // namespace
}  // namespace molten
