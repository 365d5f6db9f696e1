// What enters a stage and what leaves it: how bright they are, and when they are there without another picture.
#include "core/engine/stage_sides.h"

#include <cmath>
#include <random>

#include "support/clips.h"
#include "support/stages.h"

namespace molten {
namespace {

/// Slow and obvious, of a picture without chroma that is shared: in doubles, a pixel after the other.
struct Counted {
  std::array<double, Brightness::steps> shares{};
  double burntOut = 0, black = 0;
};
Counted counted(const Picture& picture) {
  const Size size = picture.shape().size;
  const double top = std::pow(2, picture.format().bits) - 1, one = 1.0 / (size.width * size.height);
  Counted all;
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      // In the order G B R.
      const double g = test::sampleAt(picture, 0, x, y) / top, b = test::sampleAt(picture, 1, x, y) / top,
                   r = test::sampleAt(picture, 2, x, y) / top;
      const double luma = 0.2126 * r + 0.7152 * g + 0.0722 * b;
      all.shares[static_cast<std::size_t>(std::min(63.0, std::floor(luma * 64)))] += one;
      if (std::max({r, g, b}) > 254.5 / 255) all.burntOut += one;
      if (std::max({r, g, b}) < 0.5 / 255) all.black += one;
    }
  return all;
}

TEST(BrightnessTest, IsThatOfEveryPixel) {
  std::mt19937 random(31);
  for (const Size size : {Size{1, 1}, Size{37, 19}, Size{300, 131}})
    for (const int bits : {8, 10, 16}) {
      PictureShape shape;
      shape.format = {ColourModel::Rgb, bits, 0, 0, false, false};
      shape.size = size;
      Picture picture = test::randomPicture(shape, random);
      // Some of it all white, some all black.
      for (int p = 0; p < 3; ++p)
        for (int y = 0; y < size.height; y += 5)
          std::fill_n(picture.writableRow(p, y), picture.rowBytes(p) / 3, y % 2 ? std::uint8_t(255) : std::uint8_t(0));
      const Counted expected = counted(picture);
      const Brightness found = brightnessOf(picture);
      double sum = 0;
      // A pixel that lies on the border of two steps may be counted in either.
      const double slack = bits == 8 ? 0.02 + 2.0 / (size.width * size.height) : 1e-3 + 1.0 / (size.width * size.height);
      for (std::size_t i = 0; i < found.shares.size(); ++i) {
        EXPECT_NEAR(static_cast<double>(found.shares[i]), expected.shares[i], slack) << i;
        sum += static_cast<double>(found.shares[i]);
      }
      EXPECT_NEAR(sum, 1, 1e-5);
      EXPECT_NEAR(found.burntOut, expected.burntOut, 1e-9) << bits;
      EXPECT_NEAR(found.black, expected.black, 1e-9) << bits;
      ThreadLimit(1).run([&] { EXPECT_EQ(brightnessOf(picture), found) << "on one thread"; });
    }
}

/// The white of video that is not full range is burnt out, and what lies above it as well; below it nothing is.
TEST(BrightnessTest, WhiteIsWhereTheRangeEnds) {
  PictureShape shape;
  shape.format = {ColourModel::Yuv, 8, 1, 1, false, false};
  shape.size = {20, 12};
  const auto of = [&](int luma) {
    Picture picture(shape);
    for (int p = 0; p < 3; ++p)
      for (int y = 0; y < picture.planeHeight(p); ++y)
        std::fill_n(picture.writableRow(p, y), picture.rowBytes(p), static_cast<std::uint8_t>(p ? 128 : luma));
    return brightnessOf(picture);
  };
  EXPECT_EQ(of(235).burntOut, 1);
  EXPECT_EQ(of(255).burntOut, 1);
  EXPECT_EQ(of(234).burntOut, 0);
  EXPECT_EQ(of(16).black, 1);
  EXPECT_EQ(of(1).black, 1);
  EXPECT_EQ(of(17).black, 0);
  EXPECT_EQ(of(126).shares[32], 1.0f) << "a middle gray";
}

class SidesTest : public ::testing::Test {
 protected:
  SidesTest() {
    test::makeNoiseClip(folder / "noise.mkv", 40, {96, 64}, "yuv420p");
    feed = std::make_shared<FrameFeed>(test::openFootage(folder / "noise.mkv"), std::size_t(1) << 26, 2);
    evaluator = std::make_unique<Evaluator>(feed, 2);
    maker = std::make_unique<SidesMaker>(*evaluator);
  }
  Picture pictureOf(const Chain& chain, const Moment& moment) {
    return *evaluator->picture(evaluator->plan(chain, settings), moment, {});
  }
  std::optional<StageSides> sides(const Chain& chain, const SidesOf& asked, bool atHand) {
    const Picture whole = pictureOf(chain, asked.leaving);
    return *maker->of(chain, asked, settings, whole, atHand, {});
  }

  test::TempFolder folder;
  std::shared_ptr<FrameFeed> feed;
  std::unique_ptr<Evaluator> evaluator;
  std::unique_ptr<SidesMaker> maker;
  const PlanSettings settings{1, InBetween::Whole, 30};
  const Stage field = *parseStage("time-field:back=0.4s", 30), brighter = *parseStage("finish:exposure=1", 30),
              gray = *parseStage("finish:saturation=0%", 30);
};

TEST_F(SidesTest, AreThePicturesBeforeTheStageAndAfterIt) {
  const Moment at = Moment::ofPictures(20);
  const auto last = sides({field, brighter}, {1, at, at, {48, 48}, true}, false);
  ASSERT_TRUE(last);
  EXPECT_EQ(last->before, brightnessOf(pictureOf({field}, at)));
  EXPECT_EQ(last->after, brightnessOf(pictureOf({field, brighter}, at)));
  EXPECT_GT(last->after->burntOut, last->before->burntOut + 0.05);
  EXPECT_EQ(last->entering.size, (Size{48, 32})) << "in its own shape";
  // With another one behind it: still what leaves the stage itself. One that is off does not count.
  Stage off = gray;
  off.on = false;
  for (const Chain& chain : {Chain{field, brighter, gray}, Chain{field, brighter, off}}) {
    const auto middle = sides(chain, {1, at, at, {0, 0}, true}, false);
    EXPECT_EQ(middle->before, last->before);
    EXPECT_EQ(middle->after, last->after);
    EXPECT_TRUE(middle->entering.pixels.empty());
  }
}

/// While a hand moves the last stage nothing has to be made; what enters it has been, but only for this moment and chain.
TEST_F(SidesTest, WhatIsAtHandNeedsNoPicture) {
  const Moment at = Moment::ofPictures(20), other = Moment::ofPictures(21);
  const SidesOf asked{1, at, at, {48, 48}, true};
  EXPECT_FALSE(sides({field, brighter}, asked, true)) << "nothing was made yet";
  ASSERT_TRUE(sides({field, brighter}, asked, false));
  const auto moved = sides({field, gray}, asked, true);
  ASSERT_TRUE(moved);
  EXPECT_EQ(moved->after, brightnessOf(pictureOf({field, gray}, at)));
  // Made half as large meanwhile: what entered is known all the same, what leaves is that picture's.
  const PlanSettings half{2, InBetween::Whole, 30};
  const Picture small = *evaluator->picture(evaluator->plan({field, gray}, half), at, {});
  const auto smaller = *maker->of({field, gray}, asked, half, small, true, {});
  ASSERT_TRUE(smaller);
  EXPECT_EQ(smaller->before, moved->before);
  EXPECT_EQ(smaller->after, brightnessOf(small));
  EXPECT_FALSE(sides({field, brighter}, {1, other, other, {48, 48}, true}, true));
  EXPECT_FALSE(sides({*parseStage("time-field:back=0.2s", 30), brighter}, asked, true));
  EXPECT_FALSE(sides({field, brighter, gray}, asked, true)) << "what leaves it would have to be made";
  EXPECT_TRUE(sides({field, brighter, gray}, {1, at, at, {48, 48}, false}, true));
}

}  // namespace
}  // namespace molten
