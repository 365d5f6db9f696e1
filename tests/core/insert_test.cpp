// Insert: what is laid over the picture, where and when, against slow reckoning; in every order with the other stages.
#include <gtest/gtest.h>

#include <cmath>
#include <random>

#include "core/engine/evaluator.h"
#include "core/engine/render_job.h"
#include "core/number_text.h"
#include "core/picture/accumulator.h"
#include "core/picture/primaries.h"
#include "core/stages/insert_place.h"
#include "support/clips.h"
#include "support/random_chains.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

/// R G B (and alpha) floats of one size, as WorkingFormat sees them.
PictureShape floats(Size size, bool alpha) {
  PictureShape shape;
  shape.format = {ColourModel::Rgb, 32, 0, 0, alpha, true};
  shape.size = size;
  return shape;
}
float& at(Picture& picture, int plane, int x, int y) {
  return reinterpret_cast<float*>(picture.writableRow(plane, y))[x];
}
float seen(const Picture& picture, int plane, int x, int y) {
  return reinterpret_cast<const float*>(picture.row(plane, y))[x];
}
Picture noise(Size size, bool alpha, std::mt19937& random) {
  Picture picture(floats(size, alpha));
  std::uniform_real_distribution<float> any(0, 1);
  for (int p = 0; p < (alpha ? 4 : 3); ++p)
    for (int y = 0; y < size.height; ++y)
      for (int x = 0; x < size.width; ++x) at(picture, p, x, y) = any(random);
  return picture;
}

double sinc(double x) {
  const double pi = std::acos(-1.0);
  return x == 0 ? 1 : std::sin(pi * x) / (pi * x);
}

/// What a place of a picture shows by Lanczos' window, beyond its edges what the edge shows: R G B and alpha, the colours
/// times the alpha.
std::array<double, 4> shownAt(const Picture& picture, const Affine& way, double px, double py) {
  const Size size = picture.shape().size;
  const double s = std::max(1.0, std::sqrt(std::abs(way.determinant())));
  const double u = way.x(px, py), v = way.y(px, py);
  const auto weight = [&](double d) { return std::abs(d / s) < 3 ? sinc(d / s) * sinc(d / s / 3) : 0; };
  const int reach = static_cast<int>(3 * s) + 2, left = static_cast<int>(std::floor(u)), top = static_cast<int>(std::floor(v));
  std::array<double, 4> sum{};
  double all = 0;
  for (int j = top - reach; j <= top + reach; ++j)
    for (int i = left - reach; i <= left + reach; ++i) {
      const double w = weight(i + 0.5 - u) * weight(j + 0.5 - v);
      const int x = std::clamp(i, 0, size.width - 1), y = std::clamp(j, 0, size.height - 1);
      const double a = picture.format().alpha ? static_cast<double>(seen(picture, 3, x, y)) : 1.0;
      for (std::size_t p = 0; p < 3; ++p) sum[p] += w * a * static_cast<double>(seen(picture, static_cast<int>(p), x, y));
      sum[3] += w * a;
      all += w;
    }
  for (double& one : sum) one /= all;
  return sum;
}

double mixedBy(BlendMode blend, double v, double i, double w) {
  switch (blend) {
    case BlendMode::Sum: return v + w * i;
    case BlendMode::BelowWhite: return 1 - (1 - v) * (1 - w * i);
    case BlendMode::Brightest: return std::max(v, w * i);
    case BlendMode::Darkest: return std::min(v, 1 - w * (1 - i));
    default: return (1 - w) * v + w * i;
  }
}

/// Any place, turn, crop and way of laying over, with and without alpha on either side: to one part in 10 000.
TEST(Laying, IsWhatItSaysToOnePartIn10000) {
  std::mt19937 random(5);
  const auto within = [&](double a, double b) { return std::uniform_real_distribution<double>(a, b)(random); };
  constexpr BlendMode blends[] = {BlendMode::Over, BlendMode::Sum, BlendMode::BelowWhite, BlendMode::Brightest, BlendMode::Darkest};
  int laid = 0;
  for (int round = 0; round < 40; ++round) {
    const Size low{44, 28}, high{round % 4 == 0 ? 44 : 31, round % 4 == 0 ? 28 : 26};
    const bool clear = round % 3 == 1;
    const Picture under = noise(low, clear, random), over = noise(high, round % 5 == 2, random);
    Laying laying;
    if (round % 4 != 0) {
      const double scale = within(0.6, 1.5), turn = round % 2 ? within(-3, 3) : 0;
      laying.way = {std::cos(turn) * scale, std::sin(turn) * scale, within(-8, 20), -std::sin(turn) * scale, std::cos(turn) * scale, within(-8, 20)};
    }
    laying.left = round % 6 == 1 ? within(0, 8) : 0, laying.top = round % 6 == 2 ? within(0, 8) : 0;
    laying.right = high.width - (round % 6 == 3 ? within(0, 8) : 0), laying.bottom = high.height - (round % 6 == 4 ? within(0, 8) : 0);
    laying.opacity = static_cast<float>(round % 7 ? within(0.2, 1) : 1);
    laying.blend = blends[round % 5];
    const Picture made = laidOver(under, over, laying, 1, under.shape());
    const double across = 1 / std::hypot(laying.way.xx, laying.way.xy), down = 1 / std::hypot(laying.way.yx, laying.way.yy);
    for (int y = 0; y < low.height; ++y)
      for (int x = 0; x < low.width; ++x) {
        const double u = laying.way.x(x + 0.5, y + 0.5), v = laying.way.y(x + 0.5, y + 0.5);
        const auto inside = [](double d) { return std::clamp(d + 0.5, 0.0, 1.0); };
        const double covered = inside((u - laying.left) * across) * inside((laying.right - u) * across) *
                               inside((v - laying.top) * down) * inside((laying.bottom - v) * down);
        const auto upper = shownAt(over, laying.way, x + 0.5, y + 0.5);
        // Where hardly anything is, its colour says nothing.
        if (upper[3] < 0.05) continue;
        const double w = covered * std::clamp(upper[3], 0.0, 1.0) * static_cast<double>(laying.opacity);
        const double a = clear ? static_cast<double>(seen(under, 3, x, y)) : 1.0, all = a + w * (1 - a);
        laid += w > 0;
        for (std::size_t p = 0; p < 3 && all > 0.02; ++p) {
          const double i = upper[p] / upper[3], v1 = static_cast<double>(seen(under, static_cast<int>(p), x, y));
          const double wanted = w > 0 ? (w * (1 - a) * i + a * mixedBy(laying.blend, v1, i, w)) / all : v1;
          EXPECT_NEAR(seen(made, static_cast<int>(p), x, y), wanted, 1e-4) << round << " at " << x << ", " << y;
        }
        if (clear) {
          EXPECT_NEAR(seen(made, 3, x, y), all, 1e-4) << round;
        }
        if (HasFailure()) return;
      }
  }
  EXPECT_GT(laid, 10000);
}

/// As small as can be seen, one way or both, turned or not: what light there is stays.
/// Colours are the same to the eye: red of wide primaries, and of another white, beside the published matrices.
TEST(Laying, OtherPrimariesAndCurvesAreMatched) {
  std::mt19937 random(7);
  const Size size{24, 8};
  Laying laying;
  laying.right = size.width, laying.bottom = size.height;
  struct Case {
    AVColorPrimaries from, to;
    double rows[3][3];
  };
  // ITU-R BT.2407 has the first; the second is its inverse, ITU-R BT.2087; the third goes from one white to the same.
  const Case cases[] = {
      {AVCOL_PRI_BT2020, AVCOL_PRI_BT709, {{1.6605, -0.5876, -0.0728}, {-0.1246, 1.1329, -0.0083}, {-0.0182, -0.1006, 1.1187}}},
      {AVCOL_PRI_BT709, AVCOL_PRI_BT2020, {{0.6274, 0.3293, 0.0433}, {0.0691, 0.9195, 0.0114}, {0.0164, 0.0880, 0.8956}}},
      {AVCOL_PRI_SMPTE432, AVCOL_PRI_BT709, {{1.2249, -0.2247, 0}, {-0.0420, 1.0419, 0}, {-0.0197, -0.0786, 1.0979}}}};
  for (const Case& one : cases)
    for (const AVColorTransferCharacteristic curve : {AVCOL_TRC_GAMMA22, AVCOL_TRC_LINEAR}) {
      PictureShape shape = floats(size, false);
      shape.colour.primaries = one.to, shape.colour.transfer = AVCOL_TRC_GAMMA22;
      Picture under(shape);
      for (int p = 0; p < 3; ++p)
        for (int y = 0; y < size.height; ++y) std::fill_n(&at(under, p, 0, y), size.width, 0.0f);
      shape.colour.primaries = one.from, shape.colour.transfer = curve;
      Picture over(shape);
      const Picture values = noise(size, false, random);
      for (int p = 0; p < 3; ++p)
        for (int y = 0; y < size.height; ++y)
          for (int x = 0; x < size.width; ++x) at(over, p, x, y) = seen(values, p, x, y);
      const Picture made = laidOver(under, over, laying, 1, under.shape());
      constexpr int planes[] = {2, 0, 1};  // red, green, blue
      for (int y = 0; y < size.height; ++y)
        for (int x = 0; x < size.width; ++x)
          for (int c = 0; c < 3; ++c) {
            double sum = 0;
            for (int k = 0; k < 3; ++k)
              sum += one.rows[c][k] * std::pow(seen(over, planes[k], x, y), curve == AVCOL_TRC_LINEAR ? 1 : 2.2);
            ASSERT_NEAR(std::pow(seen(made, planes[c], x, y), 2.2), std::max(0.0, sum), 8e-4) << one.from << " to " << one.to;
          }
    }
  // What does not say its primaries is taken as it is.
  EXPECT_FALSE(betweenPrimaries(AVCOL_PRI_UNSPECIFIED, AVCOL_PRI_BT709));
  EXPECT_FALSE(betweenPrimaries(AVCOL_PRI_SMPTE170M, AVCOL_PRI_SMPTE240M));
  // White stays white from any white.
  const auto cinema = betweenPrimaries(AVCOL_PRI_SMPTE431, AVCOL_PRI_BT709);
  ASSERT_TRUE(cinema);
  for (const auto& row : *cinema) EXPECT_NEAR(row[0] + row[1] + row[2], 1, 1e-4);
}

TEST(Laying, TheSmallestIsTheMeanOfAll) {
  std::mt19937 random(2);
  const Picture over = noise({600, 400}, false, random);
  Picture under(floats({40, 30}, false));
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < 30; ++y) std::fill_n(reinterpret_cast<float*>(under.writableRow(p, y)), 40, 0.0f);
  for (const auto& [wide, tall, turn] : {std::array{4.0, 4.0, 0.0}, {0.6, 20.0, 0.0}, {20.0, 0.4, 0.0}, {3.0, 9.0, 0.7}, {0.5, 0.5, 0.3}}) {
    const double sx = wide / 600, sy = tall / 400, c = std::cos(turn), s = std::sin(turn);
    Laying laying;
    laying.way = {c / sx, s / sx, 0, -s / sy, c / sy, 0};
    laying.way.x0 = 300 - laying.way.xx * 20 - laying.way.xy * 15, laying.way.y0 = 200 - laying.way.yx * 20 - laying.way.yy * 15;
    laying.right = 600, laying.bottom = 400;
    const Picture made = laidOver(under, over, laying, 1, under.shape());
    double light = 0;
    for (int y = 0; y < 30; ++y)
      for (int x = 0; x < 40; ++x) light += static_cast<double>(seen(made, 0, x, y));
    // Noise about a half; edges that meet within a pixel cover a little more or less of it.
    EXPECT_NEAR(light, wide * tall / 2, wide * tall * 0.1 + 0.25) << wide << " x " << tall;
  }
}

class InsertTest : public ::testing::Test {
 protected:
  std::string clip(const std::string& name, int frames, Size size = {48, 32}, const char* format = "yuv444p", const char* arguments = "") {
    const std::string path = folder / (name + ".mkv");
    if (!std::filesystem::exists(path)) test::makeNoiseClip(path, frames, size, format, arguments);
    return path;
  }
  static std::shared_ptr<Evaluator> over(const std::string& path, int threads = 2) {
    return std::make_shared<Evaluator>(std::make_shared<FrameFeed>(test::openFootage(path), std::size_t(1) << 27, 1), threads);
  }
  static Picture pictureOf(Evaluator& evaluator, const Chain& chain, const Moment& moment, PlanSettings settings = {}) {
    auto picture = evaluator.picture(evaluator.plan(chain, settings), moment, {});
    EXPECT_TRUE(picture) << (picture ? "" : picture.error().message);
    return picture ? *picture : Picture();
  }
  TempFolder folder;
};

/// Pixel for pixel at a whole place: its samples as they are, and the footage's as they are beside it.
TEST_F(InsertTest, PixelForPixelChangesNoSample) {
  for (const char* const format : {"yuv444p", "gbrp", "gray", "yuv444p10le"}) {
    const std::string under = clip(std::string("under-") + format, 5, {48, 32}, format), over = clip(std::string("over-") + format, 5, {24, 16}, format);
    const auto evaluator = this->over(under);
    const Chain chain = chainOf({"insert:size=own,at=0.5x0.5,source=" + over});
    const auto below = test::readAll(*test::openFootage(under)), above = test::readAll(*test::openFootage(over));
    for (const std::size_t n : {std::size_t(0), std::size_t(4)}) {
      const Picture made = pictureOf(*evaluator, chain, {static_cast<std::int64_t>(n)});
      for (int p = 0; p < made.format().planes(); ++p)
        for (int y = 0; y < 32; ++y)
          for (int x = 0; x < 48; ++x) {
            const bool covered = x >= 12 && x < 36 && y >= 8 && y < 24;
            ASSERT_EQ(test::sampleAt(made, p, x, y), covered ? test::sampleAt(above[n], p, x - 12, y - 8) : test::sampleAt(below[n], p, x, y))
                << format << " plane " << p << " at " << x << ", " << y;
          }
    }
  }
}

/// Which frame of it is shown at each moment: begun and trimmed anywhere, at rates of its own, past its ends in every way.
TEST_F(InsertTest, ShowsItsFramesAtTheirMoments) {
  const std::string under = clip("under", 40);
  struct Rate {
    const char *name, *arguments;
    double fps;
  };
  for (const Rate& rate : {Rate{"r25", "-vf setpts=N/25/TB -r 25 -c:v ffv1", 25}, Rate{"r50", "-vf setpts=N/50/TB -r 50 -c:v ffv1", 50},
                           Rate{"r10", "-vf setpts=N/10/TB -r 10 -c:v ffv1", 10}}) {
    const std::string numbered = folder / (std::string(rate.name) + ".mkv");
    test::makeNumberedClip(numbered, 12, {48, 32}, rate.arguments);
    const auto footage = test::openFootage(numbered);
    const auto frames = test::readAll(*footage);
    ASSERT_EQ(footage->clock().rate().toDouble(), rate.fps);
    const int count = static_cast<int>(frames.size());
    const auto evaluator = over(under);
    const double underRate = evaluator->feed().footage().clock().rate().toDouble();
    for (const char* const ends : {"transparent", "stand-still", "turn-back", "go-round"})
      for (const double starts : {0.0, 0.2, -0.1})
        for (const int trimmed : {0, 2}) {
          const double from = trimmed / rate.fps, to = trimmed ? (count - 1) / rate.fps : 0;
          const auto seconds = [](double value) { return shortText(value, 9) + "s"; };
          const std::string words = "insert:source=" + numbered + ",past-the-ends=" + ends + ",starts-at=" + seconds(starts) + ",from=" +
                                    seconds(from) + ",to=" + seconds(to);
          const Chain chain = chainOf({words});
          const auto plan = evaluator->plan(chain, {});
          const int length = trimmed ? count - 1 - trimmed : count;
          for (int n = 0; n < 40; n += 3) {
            const double position = (n / underRate - starts) * rate.fps;
            const bool beyond = position < -1e-6 || position > length - 1e-6;
            const std::string is = ends;
            double own = position;
            if (beyond && is == "go-round") own = position - std::floor((position + 1e-6) / length) * length;
            if (beyond && is == "stand-still") own = position < 0 ? 0 : length - 1;
            if (beyond && is == "turn-back") {
              const double period = 2 * (length - 1);
              own = position - std::floor(position / period) * period;
              if (own > length - 1) own = period - own;
            }
            own = std::min(own, static_cast<double>(length - 1));
            const auto made = evaluator->picture(plan, {n}, {});
            ASSERT_TRUE(made);
            const bool nothing = beyond && is == "transparent";
            const Picture bare = pictureOf(*evaluator, {}, {n});
            EXPECT_EQ(static_cast<bool>(test::samePicture(*made, bare)), nothing) << words << " at " << n;
            if (nothing) continue;
            const auto shown = static_cast<std::size_t>(trimmed + static_cast<int>(std::floor(own + 0.5 + 1e-6)));
            EXPECT_EQ(test::numberShown(*made), test::numberShown(frames[shown])) << words << " at " << n;
          }
        }
  }
}

/// Laid over all of the picture, stages after it see that clip and nothing else; and stages in its own chain act on it as
/// they act on footage.
TEST_F(InsertTest, StandsInEveryOrderWithEveryStage) {
  const std::string under = clip("under", 9), over = clip("over", 9);
  const auto evaluator = this->over(under), bare = this->over(over);
  const std::string whole = "insert:source=" + over;
  for (const char* const other :
       {"pace:spans=0.1s@100%+0.2s@-50%", "step-rate:rate=10", "frame-order:order=1:2+4:1+2:3", "loop", "loop:way=round,skip-end=2f,dissolve=0.1s",
        "time-field:back=0.2s", "time-field:shape=noise,back=0.1s,ahead=0.1s,panes=3", "time-field:shape=footage,back=0.2s", "strips:count=5,stagger=1f",
        "strips:shape=tiles,count=2,rows=2", "slit-scan", "echoes:repeats=2,spacing=0.08s,mix=mean", "shutter:moments=4,open=100%", "framing:zoom=150%,turn=9",
        "finish:exposure=0.5,saturation=40%", "insert"}) {
    const Chain after = chainOf({whole, other}), alone = chainOf({other});
    Chain within = chainOf({whole + ",past-the-ends=stand-still"});
    within[0].branch = alone;
    const Chain before = chainOf({other, whole + ",past-the-ends=stand-still"});
    const auto plan = evaluator->plan(after, {}), reference = bare->plan(alone, {}), inside = evaluator->plan(within, {}), under1 = evaluator->plan(before, {});
    EXPECT_EQ(plan.length(), reference.length()) << other;
    for (std::int64_t n = 0; n < reference.length(); n += 2) {
      const auto wanted = bare->picture(reference, {n}, {});
      ASSERT_TRUE(wanted) << other;
      const auto made = evaluator->picture(plan, {n}, {});
      ASSERT_TRUE(made) << other;
      ASSERT_EQ(made->shape().size, wanted->shape().size) << other;
      // What is made of what was made already is rounded once less.
      for (int p = 0; p < 3; ++p)
        for (int y = 0; y < made->shape().size.height; ++y)
          for (int x = 0; x < made->shape().size.width; ++x)
            ASSERT_NEAR(test::sampleAt(*made, p, x, y), test::sampleAt(*wanted, p, x, y), 1) << other << " picture " << n;
      if (n >= 9 || wanted->shape().size != Size{48, 32}) continue;
      const auto branch = evaluator->picture(inside, {n}, {});
      ASSERT_TRUE(branch) << other;
      for (int p = 0; p < 3; ++p)
        for (int y = 0; y < 32; ++y)
          for (int x = 0; x < 48; ++x)
            ASSERT_NEAR(test::sampleAt(*branch, p, x, y), test::sampleAt(*wanted, p, x, y), 1) << other << " in its own chain, picture " << n;
      // Below it, times of the footage are of no consequence to it.
      const auto last = evaluator->picture(under1, {n}, {});
      ASSERT_TRUE(last) << other;
      if (std::string(other).starts_with("framing") || std::string(other).find("tiles") != std::string::npos) continue;
      EXPECT_TRUE(test::samePicture(*last, pictureOf(*bare, {}, {std::min<std::int64_t>(n, 8)}))) << other << " under it, picture " << n;
    }
  }
}

TEST_F(InsertTest, IsTheSameOnOneThreadInPiecesAndFromTheCommandLine) {
  const std::string under = clip("under", 12, {50, 34}, "yuv420p"), over = clip("over", 9, {40, 30}, "yuv420p", "-r 30 -c:v ffv1");
  RenderSettings settings;
  settings.footage = test::openFootage(under);
  settings.project.source.path = under;
  settings.project.chain = chainOf({"insert:scale=70%,turn=11,opacity=80%,key=colour,key-colour=3d9650,holes=3,edges-in=0.5,source=" + over,
                                    "insert/time-field:back=0.2s", "time-field:back=0.2s,end=0.9x0.1"});
  settings.project.output.path = folder / "whole.mkv";
  ASSERT_TRUE(render(settings, {}, {}));
  const auto whole = test::readAll(*test::openFootage(folder / "whole.mkv"));
  settings.threads = 1;
  settings.pictures = Span{5, 8};
  settings.project.output.path = folder / "part.mkv";
  ASSERT_TRUE(render(settings, {}, {}));
  const auto part = test::readAll(*test::openFootage(folder / "part.mkv"));
  for (std::size_t i = 0; i < part.size(); ++i) EXPECT_TRUE(test::samePicture(part[i], whole[5 + i])) << i;
  const auto many = this->over(under, 4);
  for (std::size_t i = 0; i < whole.size(); i += 4)
    EXPECT_TRUE(test::samePicture(pictureOf(*many, settings.project.chain, {static_cast<std::int64_t>(i)}), whole[i])) << i;
}

TEST_F(InsertTest, SaysWhatCannotBeRead) {
  const std::string under = clip("under", 4);
  const auto evaluator = over(under);
  const Chain chain = chainOf({"insert:source=" + (folder / "gone.mkv")});
  const auto made = evaluator->picture(evaluator->plan(chain, {}), {0}, {});
  ASSERT_FALSE(made);
  EXPECT_NE(made.error().message.find("gone.mkv cannot be laid in"), std::string::npos) << made.error().message;
  // None chosen is no fault.
  EXPECT_TRUE(test::samePicture(pictureOf(*evaluator, chainOf({"insert"}), {1}), pictureOf(*evaluator, {}, {1})));
}

TEST_F(InsertTest, WhatIsPaintedIsLeftOut) {
  const std::string under = clip("under", 3), over = clip("over", 3);
  const auto evaluator = this->over(under);
  Chain chain = chainOf({"insert:source=" + over});
  setTo(chain[0], "left-out", Painting{"", filledWithin(PaintedPicture({48, 32}), std::array{Place{0, 0}, Place{20, 0}, Place{20, 32}, Place{0, 32}}, 1, 0)});
  const Picture made = pictureOf(*evaluator, chain, {1}), below = pictureOf(*evaluator, {}, {1}), above = pictureOf(*this->over(over), {}, {1});
  EXPECT_EQ(test::sampleAt(made, 0, 5, 9), test::sampleAt(below, 0, 5, 9));
  EXPECT_EQ(test::sampleAt(made, 0, 40, 9), test::sampleAt(above, 0, 40, 9));
}

}  // namespace
}  // namespace molten
