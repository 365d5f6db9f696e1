// The Time Field against a slow reading of its definition, pixel by pixel.
#include <cmath>
#include <random>

#include "core/engine/evaluator.h"
#include "core/project/project.h"
#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

using test::TempFolder;

/// The frame or frames that a site reads, by the words of its description alone. Constant rate.
struct Reference {
  const Stage& stage;
  VideoDescription video;
  bool mixed = false;

  double value(const char* id) const { return valueOf<double>(stage, id); }

  double displacement(double x, double y) const {
    const Place start = valueOf<Place>(stage, "start"), end = valueOf<Place>(stage, "end");
    const double a = video.pixelAspect.toDouble(), w = video.size.width, h = video.size.height;
    const double sx = start.x * w, sy = start.y * h, dx = end.x * w - sx, dy = end.y * h - sy;
    double f = 0;
    const double length = a * a * dx * dx + dy * dy;
    if (length > 0) f = ((x - sx) * (a * a * dx) + (y - sy) * dy) / length;
    float single = static_cast<float>(std::min(1.0, std::max(0.0, f)));
    if (valueOf<bool>(stage, "flip")) single = 1.0f - single;
    const double back = value("back"), ahead = value("ahead");
    return (-back + static_cast<double>(single) * (back + ahead)) * video.rate.toDouble();
  }

  PastTheEnds past() const { return static_cast<PastTheEnds>(valueOf<std::size_t>(stage, "past-the-ends")); }

  unsigned sample(const std::vector<Picture>& frames, double n, int plane, int x, int y, double siteX,
                  double siteY) const {
    double position = n + displacement(siteX, siteY);
    if (std::abs(position - std::round(position)) < 1e-6) position = std::round(position);
    const auto at = [&](std::int64_t i) -> unsigned {
      const auto frame = foldFrame(i, static_cast<std::int64_t>(frames.size()), past());
      return frame == noFrame ? blackSample(frames[0].shape(), plane)
                              : test::sampleAt(frames[static_cast<std::size_t>(frame)], plane, x, y);
    };
    if (!mixed) return at(static_cast<std::int64_t>(std::floor(position + 0.5 + 1e-6)));
    const double below = std::floor(position);
    const auto weight = static_cast<std::uint64_t>(std::floor((position - below) * 65536 + 0.5));
    const auto i = static_cast<std::int64_t>(below);
    return static_cast<unsigned>((at(i) * (65536 - weight) + at(i + 1) * weight + 32768) / 65536);
  }
};

Stage randomStage(std::mt19937& random, PastTheEnds past) {
  Stage stage = newStage(*findStageKind("time-field"));
  const auto within = [&](double low, double high) { return std::uniform_real_distribution<>(low, high)(random); };
  setTo(stage, "start", Place{within(-0.2, 1.2), within(-0.2, 1.2)});
  setTo(stage, "end", Place{within(-0.2, 1.2), within(-0.2, 1.2)});
  setTo(stage, "flip", random() % 2 == 0);
  setTo(stage, "back", random() % 3 == 0 ? 0.0 : within(0, 0.6));
  setTo(stage, "ahead", random() % 3 == 0 ? 0.0 : within(0, 0.6));
  setTo(stage, "past-the-ends", static_cast<std::size_t>(past));
  return stage;
}

std::unique_ptr<Evaluator> evaluatorFor(const std::shared_ptr<const Footage>& footage, int threads = 2,
                                        std::size_t budget = std::size_t(1) << 28) {
  return std::make_unique<Evaluator>(std::make_shared<FrameFeed>(footage, budget, 1), threads);
}

struct Case {
  const char* name;
  Size size;
  const char* format;
  const char* arguments;
  int frames;
};

class TimeFieldOn : public ::testing::TestWithParam<Case> {};

TEST_P(TimeFieldOn, EverySampleIsTheFormulas) {
  const Case& c = GetParam();
  const TempFolder folder;
  test::makeNoiseClip(folder / "a.mkv", c.frames, c.size, c.format, c.arguments);
  const auto footage = test::openFootage(folder / "a.mkv");
  const auto frames = test::readAll(*footage);
  const auto evaluator = evaluatorFor(footage);
  std::mt19937 random(5);
  for (int round = 0; round < 32; ++round) {
    const auto past = static_cast<PastTheEnds>(round % 4);
    const bool mixed = round / 4 % 2 == 1;
    // Transparent and mixed, colour is not darkened where alpha already says how much is there.
    if (mixed && past == PastTheEnds::Transparent) continue;
    // Pictures with alpha are mixed by what is there of each: a test of its own.
    if (mixed && footage->shape().format.alpha) continue;
    const Chain chain{randomStage(random, past)};
    const Reference reference{
        chain[0],
        {footage->shape().size, footage->shape().pixelAspect, footage->clock().rate(), footage->clock().length()},
        mixed};
    const PicturePlan plan = evaluator->plan(chain, {1, mixed ? InBetween::Mixed : InBetween::Whole});
    for (const int n : {0, c.frames / 2, c.frames - 1}) {
      const auto picture = evaluator->picture(plan, {n, 0}, {});
      ASSERT_TRUE(picture);
      for (int p = 0; p < footage->shape().format.planes(); ++p) {
        const bool chroma = footage->shape().format.isChromaPlane(p);
        const int across = chroma ? 1 << footage->shape().format.shiftX : 1,
                  down = chroma ? 1 << footage->shape().format.shiftY : 1;
        for (int y = 0; y < picture->planeHeight(p); ++y)
          for (int x = 0; x < picture->planeWidth(p); ++x) {
            // Chroma without a tag stands on the left column and between the rows.
            const double siteX = x * across + 0.5, siteY = y * down + down / 2.0;
            ASSERT_EQ(test::sampleAt(*picture, p, x, y), reference.sample(frames, n, p, x, y, siteX, siteY))
                << stageText(chain[0]) << " frame " << n << " plane " << p << " at " << x << ", " << y;
          }
      }
    }
  }
}

INSTANTIATE_TEST_SUITE_P(
    Footage, TimeFieldOn,
    ::testing::Values(Case{"Plain", {48, 36}, "yuv420p", "", 20}, Case{"OddSize", {47, 33}, "yuv420p", "", 15},
                      Case{"OneFrame", {32, 24}, "yuv420p", "", 1}, Case{"TwoFrames", {32, 24}, "yuv420p", "", 2},
                      Case{"TenBit", {40, 30}, "yuv422p10le", "", 12}, Case{"SixteenBit", {31, 30}, "gray16le", "", 12},
                      Case{"WidePixels", {36, 40}, "yuv444p", "-c:v ffv1 -vf setsar=2/1", 12},
                      Case{"WithAlpha", {40, 30}, "yuva420p", "", 12}, Case{"Rgb", {40, 30}, "gbrp10le", "", 9}),
    [](const auto& kind) { return std::string(kind.param.name); });

TEST(TimeField, ReadsVaryingRatesByTheirStamps) {
  const TempFolder folder;
  test::makeNoiseClip(folder / "a.mkv", 40, {40, 30}, "yuv420p",
                      "-vf \"select='mod(n,3)+eq(n,0)'\" -vsync vfr -c:v ffv1");
  const auto footage = test::openFootage(folder / "a.mkv");
  ASSERT_TRUE(footage->clock().varying());
  const auto frames = test::readAll(*footage);
  const auto& stamps = footage->clock().stamps();
  const auto evaluator = evaluatorFor(footage);
  std::mt19937 random(6);
  for (int round = 0; round < 12; ++round) {
    const Chain chain{randomStage(random, PastTheEnds::StandStill)};
    const Reference reference{chain[0], {footage->shape().size, 1, footage->clock().rate(), footage->clock().length()}};
    const PicturePlan plan = evaluator->plan(chain, {});
    for (const int n : {0, 7, 20, static_cast<int>(footage->clock().length()) - 1}) {
      const auto picture = evaluator->picture(plan, {n, 0}, {});
      ASSERT_TRUE(picture);
      for (int y = 0; y < 30; ++y)
        for (int x = 0; x < 40; ++x) {
          const double t = n + reference.displacement(x + 0.5, y + 0.5);
          std::size_t last = 0;
          for (std::size_t i = 0; i < stamps.size(); ++i)
            if (stamps[i] <= t + 1e-6) last = i;
          ASSERT_EQ(test::sampleAt(*picture, 0, x, y), test::sampleAt(frames[last], 0, x, y))
              << stageText(chain[0]) << " frame " << n;
        }
    }
  }
}

TEST(TimeField, WhatIsClearWeighsNothingInAMix) {
  const TempFolder folder;
  test::makeNoiseClip(folder / "a.mkv", 12, {48, 36}, "yuva444p");
  const auto footage = test::openFootage(folder / "a.mkv");
  ASSERT_TRUE(footage->shape().format.alpha);
  const auto frames = test::readAll(*footage);
  const auto evaluator = evaluatorFor(footage), poor = evaluatorFor(footage, 2, footage->shape().bytes() * 5);
  const Chain chain{*parseStage("time-field:back=0.3s,start=0x0,end=1x0.6", footage->clock().rate())};
  const Reference reference{chain[0], {footage->shape().size, 1, footage->clock().rate(), 12}, true};
  const PicturePlan plan = evaluator->plan(chain, {1, InBetween::Mixed});
  const auto picture = evaluator->picture(plan, {10, 0}, {});
  ASSERT_TRUE(picture);
  EXPECT_TRUE(test::samePicture(*poor->picture(plan, {10, 0}, {}), *picture));
  for (int y = 0; y < 36; ++y)
    for (int x = 0; x < 48; ++x) {
      const double position = 10 + reference.displacement(x + 0.5, y + 0.5);
      const auto below = static_cast<std::size_t>(std::floor(position)), above = std::min<std::size_t>(below + 1, 11);
      const double w = position - std::floor(position);
      const auto at = [&](std::size_t n, int plane) {
        return static_cast<double>(test::sampleAt(frames[n], plane, x, y));
      };
      const double alpha = (1 - w) * at(below, 3) + w * at(above, 3);
      ASSERT_NEAR(test::sampleAt(*picture, 3, x, y), alpha, 0.51);
      if (alpha < 8) continue;
      // Out of range in R, G or B nothing is cut off on the way: planes may be mixed one by one here.
      for (int p = 0; p < 3; ++p)
        ASSERT_NEAR(test::sampleAt(*picture, p, x, y),
                    ((1 - w) * at(below, 3) * at(below, p) + w * at(above, 3) * at(above, p)) / alpha, 0.51);
    }
}

TEST(TimeField, ClearIsTransparent) {
  const TempFolder folder;
  test::makeNoiseClip(folder / "a.mkv", 12, {32, 24}, "yuv420p");
  const auto footage = test::openFootage(folder / "a.mkv");
  const auto evaluator = evaluatorFor(footage);
  const Chain chain{*parseStage("time-field:back=0.2s,past-the-ends=transparent", footage->clock().rate())};
  const auto picture = evaluator->picture(evaluator->plan(chain, {}), {0, 0}, {});
  ASSERT_TRUE(picture && picture->format().alpha);
  // The start of the line, at the top, reads six frames before the first one; the end, at the bottom, the first.
  EXPECT_EQ(test::sampleAt(*picture, 3, 5, 0), 0u);
  EXPECT_EQ(test::sampleAt(*picture, 0, 5, 0), 16u);
  EXPECT_EQ(test::sampleAt(*picture, 3, 5, 23), 255u);
}

TEST(Chains, FieldsInARowCompose) {
  const TempFolder folder;
  test::makeNoiseClip(folder / "a.mkv", 16, {24, 20}, "gray");
  const auto footage = test::openFootage(folder / "a.mkv");
  const auto frames = test::readAll(*footage);
  const auto evaluator = evaluatorFor(footage);
  std::mt19937 random(9);
  for (int round = 0; round < 24; ++round) {
    const Chain chain{randomStage(random, static_cast<PastTheEnds>(round % 3)),
                      randomStage(random, static_cast<PastTheEnds>(round / 3 % 3))};
    const VideoDescription video{footage->shape().size, 1, footage->clock().rate(), 16};
    const Reference first{chain[0], video}, second{chain[1], video};
    const PicturePlan plan = evaluator->plan(chain, {});
    for (const int n : {0, 5, 15}) {
      const auto picture = evaluator->picture(plan, {n, 0}, {});
      ASSERT_TRUE(picture);
      for (int y = 0; y < 20; ++y)
        for (int x = 0; x < 24; ++x) {
          // The second stage chooses a moment of the first one's output; that one chooses a frame.
          const double middle = *foldPosition(n + second.displacement(x + 0.5, y + 0.5), 16, second.past());
          ASSERT_EQ(test::sampleAt(*picture, 0, x, y), first.sample(frames, middle, 0, x, y, x + 0.5, y + 0.5));
        }
    }
  }
}

/// The fast ways and the plain one, every budget and any number of threads: the same pictures.
TEST(Engine, EveryWayGivesTheSamePicture) {
  const TempFolder folder;
  test::makeNoiseClip(folder / "a.mkv", 24, {90, 70}, "yuv420p");
  const auto footage = test::openFootage(folder / "a.mkv");
  const auto many = evaluatorFor(footage, 4), one = evaluatorFor(footage, 1),
             poor = evaluatorFor(footage, 2, footage->shape().bytes() * 5);
  std::mt19937 random(12);
  for (int round = 0; round < 24; ++round) {
    Chain chain{randomStage(random, static_cast<PastTheEnds>(round % 4))};
    if (round % 3 == 0) chain.push_back(randomStage(random, static_cast<PastTheEnds>(round / 2 % 4)));
    const PlanSettings settings{1, static_cast<InBetween>(round % 8 / 3)};
    const PicturePlan fast = many->plan(chain, settings);
    const PicturePlan plain = one->plan(chain, settings);
    for (const Moment moment : {Moment{0, 0}, Moment{11, 0}, Moment{23, 0}, Moment{7, Rational(2, 5)}}) {
      const auto expected = one->picture(plain, moment, {});
      ASSERT_TRUE(expected);
      EXPECT_TRUE(test::samePicture(*many->picture(fast, moment, {}), *expected));
      EXPECT_TRUE(test::samePicture(*poor->picture(fast, moment, {}), *expected))
          << stageText(chain[0]) << (chain.size() > 1 ? " " + stageText(chain[1]) : "") << ", in-between "
          << static_cast<int>(settings.between) << " at " << moment.pictures();
      EXPECT_LE(poor->feed().budget()->used(), poor->feed().budget()->limit());
    }
  }
}

}  // namespace
}  // namespace molten
