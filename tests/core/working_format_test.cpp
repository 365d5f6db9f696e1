// The format in which stages mix: there and back to the bit, and right on the way.
#include "core/picture/accumulator.h"
#include "core/picture/kept_light.h"
#include "core/picture/working_format.h"

#include <cmath>
#include <random>

#include "core/picture/convert.h"
#include "core/picture/working_kernels.h"
#include "support/clips.h"

namespace molten {
namespace {

struct Kind {
  ColourModel model;
  int bits, shiftX, shiftY;
  bool alpha;
};

TEST(WorkingFormat, UntouchedPicturesComeBackToTheBit) {
  std::mt19937 random(14);
  const Kind kinds[] = {
      {ColourModel::Yuv, 8, 1, 1, false},  {ColourModel::Yuv, 10, 1, 0, true}, {ColourModel::Yuv, 16, 0, 0, false},
      {ColourModel::Yuv, 8, 2, 2, false},  {ColourModel::Yuv, 12, 1, 1, true}, {ColourModel::Rgb, 8, 0, 0, true},
      {ColourModel::Rgb, 16, 0, 0, false}, {ColourModel::Gray, 8, 0, 0, true}, {ColourModel::Yuv, 8, 0, 1, false}};
  for (const Kind& kind : kinds)
    for (const Size size : {Size{61, 37}, Size{1, 1}, Size{64, 48}, Size{2, 35}})
      for (const auto site : {AVCHROMA_LOC_UNSPECIFIED, AVCHROMA_LOC_CENTER, AVCHROMA_LOC_TOPLEFT, AVCHROMA_LOC_BOTTOM})
        for (const auto range : {AVCOL_RANGE_MPEG, AVCOL_RANGE_JPEG})
          for (const Light light : {Light::Display, Light::Linear})
            for (const auto transfer : {AVCOL_TRC_BT709, AVCOL_TRC_IEC61966_2_1}) {
              PictureShape shape;
              shape.format = {kind.model, kind.bits, kind.shiftX, kind.shiftY, kind.alpha, false};
              shape.size = size;
              shape.colour = {range, AVCOL_SPC_BT709, AVCOL_PRI_BT709, transfer, site};
              const Picture picture = test::randomPicture(shape, random);
              const WorkingFormat format(shape, light);
              Picture back(shape);
              WorkingTile tile;
              for (int top = 0; top < size.height; top += 16)
                for (int left = 0; left < size.width; left += 24) {
                  format.take(picture, {left, top, std::min(left + 24, size.width), std::min(top + 16, size.height)},
                              tile);
                  format.give(tile, back);
                }
              ASSERT_TRUE(test::samePicture(back, picture))
                  << formatText(shape.format) << ' ' << size.width << " x " << size.height << " site " << site
                  << " light " << static_cast<int>(light) << " transfer " << transfer;
            }
}

TEST(KeptLight, IsThePictureToTheBitHoweverItIsRead) {
  std::mt19937 random(16);
  PictureShape other;
  other.size = {8, 8};
  other.format = {ColourModel::Yuv, 10, 1, 1, false, false};
  EXPECT_FALSE(KeptLight::of(other)) << "16 bits would be too few";
  other.format = {ColourModel::Yuv, 8, 1, 1, true, false};
  EXPECT_FALSE(KeptLight::of(other));
  for (const Kind& kind : {Kind{ColourModel::Yuv, 8, 1, 1, false}, Kind{ColourModel::Yuv, 8, 2, 2, false},
                           Kind{ColourModel::Yuv, 8, 0, 0, false}, Kind{ColourModel::Rgb, 8, 0, 0, false},
                           Kind{ColourModel::Gray, 8, 0, 0, false}})
    for (const Size size : {Size{61, 37}, Size{1, 1}, Size{1100, 70}, Size{2, 35}})
      for (const auto transfer : {AVCOL_TRC_BT709, AVCOL_TRC_IEC61966_2_1, AVCOL_TRC_GAMMA28})
        for (const auto space : {AVCOL_SPC_BT709, AVCOL_SPC_BT2020_NCL}) {
          PictureShape shape;
          shape.format = {kind.model, kind.bits, kind.shiftX, kind.shiftY, kind.alpha, false};
          shape.size = size;
          shape.colour = {AVCOL_RANGE_MPEG, space, AVCOL_PRI_BT709, transfer, AVCHROMA_LOC_LEFT};
          const Picture picture = test::randomPicture(shape, random);
          const auto form = KeptLight::of(shape);
          ASSERT_TRUE(form);
          const Picture kept = form->keep(picture);
          const WorkingFormat format(shape, Light::Linear);
          Picture back(shape);
          WorkingTile tile, rows, direct;
          tile.lay({0, 0, size.width, size.height});
          for (int first = 0; first < tile.height; first += WorkingFormat::rowsAtOnce) {
            form->takeRows(kept, tile, first, rows);
            form->takeRows(picture, tile, first, direct);
            for (int c = 0; c < 3; ++c)
              for (int r = 0; r < rows.height; ++r) {
                std::copy_n(rows.row(c, r), tile.width, tile.row(c, first + r));
                const int y = first + r - WorkingTile::margin;
                if (y < 0 || y >= size.height) continue;
                for (int x = WorkingTile::margin; x < WorkingTile::margin + size.width; ++x)
                  ASSERT_EQ(rows.row(c, r)[x], direct.row(c, r)[x]) << x << ' ' << y;
              }
          }
          format.give(tile, back);
          ASSERT_TRUE(test::samePicture(back, picture)) << formatText(shape.format) << ' ' << size.width << " x "
                                                        << size.height << " transfer " << transfer << " matrix " << space;
        }
}

/// All at once, some at a time, and the pictures themselves one by one: the same to the bit.
TEST(KeptLight, IsMixedAsThePicturesThemselvesAre) {
  std::mt19937 random(17);
  for (const BlendMode blend : {BlendMode::Sum, BlendMode::BelowWhite, BlendMode::Brightest, BlendMode::Darkest,
                                BlendMode::Mean, BlendMode::Over, BlendMode::Under})
    for (const Size size : {Size{61, 37}, Size{1, 1}, Size{1100, 34}}) {
      PictureShape shape;
      shape.format = {ColourModel::Yuv, 8, 1, 1, false, false};
      shape.size = size;
      shape.colour = {AVCOL_RANGE_MPEG, AVCOL_SPC_BT709, AVCOL_PRI_BT709, AVCOL_TRC_BT709, AVCHROMA_LOC_LEFT};
      const std::vector<float> weights{0.5f, 0, 1, 0.25f, 0.8f};
      const auto form = KeptLight::of(shape);
      ASSERT_TRUE(form);
      std::vector<Picture> pictures, kept;
      for (std::size_t k = 0; k < weights.size(); ++k) {
        pictures.push_back(test::randomPicture(shape, random));
        kept.push_back(form->keep(pictures.back()));
      }
      const auto mixed = [&](const std::vector<Picture>& some, std::size_t lot) {
        Accumulator sum(shape, shape, {blend, Light::Linear}, weights);
        for (std::size_t first = 0; first < some.size(); first += lot)
          sum.add(first, std::span(some).subspan(first, std::min(lot, some.size() - first)));
        return sum.finish();
      };
      const Picture plain = mixed(pictures, 1);
      ASSERT_TRUE(test::samePicture(mixed(kept, weights.size()), plain)) << static_cast<int>(blend) << ' ' << size.width;
      ASSERT_TRUE(test::samePicture(mixed(kept, 2), plain)) << static_cast<int>(blend) << ' ' << size.width;
    }
}

/// Against the definition in double, 4:4:4, where no chroma has to be spread.
TEST(WorkingFormat, ColoursAreTheMatrixsAndTheCurves) {
  std::mt19937 random(15);
  PictureShape shape;
  shape.format = {ColourModel::Yuv, 8, 0, 0, false, false};
  shape.size = {32, 8};
  shape.colour = {AVCOL_RANGE_MPEG, AVCOL_SPC_BT2020_NCL, AVCOL_PRI_BT2020, AVCOL_TRC_BT709, AVCHROMA_LOC_LEFT};
  const Picture picture = test::randomPicture(shape, random);
  WorkingTile display, linear;
  WorkingFormat(shape, Light::Display).take(picture, {0, 0, 32, 8}, display);
  WorkingFormat(shape, Light::Linear).take(picture, {0, 0, 32, 8}, linear);
  for (int y = 0; y < 8; ++y)
    for (int x = 0; x < 32; ++x) {
      const double luma = (test::sampleAt(picture, 0, x, y) - 16.0) / 219,
                   cb = (test::sampleAt(picture, 1, x, y) - 128.0) / 224,
                   cr = (test::sampleAt(picture, 2, x, y) - 128.0) / 224;
      const double red = 0.2627, blue = 0.0593, r = luma + 2 * (1 - red) * cr, b = luma + 2 * (1 - blue) * cb,
                   g = (luma - red * r - blue * b) / (1 - red - blue);
      const double expected[] = {r, g, b};
      for (int c = 0; c < 3; ++c) {
        const int row = y + WorkingTile::margin, column = x + WorkingTile::margin;
        EXPECT_NEAR(display.row(c, row)[column], expected[c], 2e-6);
        EXPECT_NEAR(linear.row(c, row)[column], std::copysign(std::pow(std::abs(expected[c]), 2.4), expected[c]), 1e-5);
      }
    }
}

TEST(WorkingFormat, SrgbIsTheStandardsCurve) {
  std::vector<float> values;
  for (int i = -100; i <= 1100; ++i) values.push_back(static_cast<float>(i) / 1000);
  auto linear = values;
  srgbToLinear(linear.data(), linear.size());
  for (std::size_t i = 0; i < values.size(); ++i) {
    const double v = std::abs(static_cast<double>(values[i]));
    const double expected = v <= 0.04045 ? v / 12.92 : std::pow((v + 0.055) / 1.055, 2.4);
    EXPECT_NEAR(linear[i], std::copysign(expected, values[i]), 2e-6);
  }
  linearToSrgb(linear.data(), linear.size());
  for (std::size_t i = 0; i < values.size(); ++i) EXPECT_NEAR(linear[i], values[i], 2e-6);
}

/// The brightest and the darkest in whole numbers: what floats give, within a fifth of a sample; and what is alone stays as
/// it is.
TEST(ShortMix, IsAsFloatsAre) {
  std::mt19937 random(12);
  for (const auto site : {AVCHROMA_LOC_LEFT, AVCHROMA_LOC_CENTER, AVCHROMA_LOC_TOPLEFT})
    for (const auto& [shiftX, shiftY] : {std::pair(1, 1), {1, 0}, {0, 0}})
      for (const bool full : {false, true})
        for (const bool brightest : {true, false}) {
          PictureShape shape;
          shape.format = {ColourModel::Yuv, 8, shiftX, shiftY, false, false};
          shape.size = {75, 41};
          shape.colour.chromaSite = site;
          shape.colour.range = full ? AVCOL_RANGE_JPEG : AVCOL_RANGE_MPEG;
          std::vector<Picture> pictures;
          for (int i = 0; i < 3; ++i) pictures.push_back(test::randomPicture(shape, random));
          const std::vector<float> weights{1, 0.7f, 0.25f};
          const auto mix = ShortMix::of(shape, brightest);
          ASSERT_TRUE(mix);
          const WorkingFormat format(shape, Light::Display);
          WorkingTile laid, made, taken;
          ShortMix::Tile shorts;
          laid.lay({64, 32, 75, 41}), made.lay(laid.box);
          mix->begin(laid, shorts);
          // In two lots.
          mix->add({pictures.data(), 1}, {weights.data(), 1}, laid, shorts);
          mix->add({pictures.data() + 1, 2}, {weights.data() + 1, 2}, laid, shorts);
          ShortMix::settle(shorts, made);
          std::array<std::vector<double>, 3> wanted;
          for (std::size_t k = 0; k < pictures.size(); ++k) {
            format.take(pictures[k], laid.box, taken);
            for (std::size_t c = 0; c < 3; ++c) {
              wanted[c].resize(taken.channels[c].size(), brightest ? -1e9 : 1e9);
              for (std::size_t i = 0; i < wanted[c].size(); ++i) {
                const double v = static_cast<double>(taken.channels[c][i]), w = static_cast<double>(weights[k]);
                wanted[c][i] = brightest ? std::max(wanted[c][i], w * v) : std::min(wanted[c][i], 1 - w * (1 - v));
              }
            }
          }
          for (std::size_t c = 0; c < 3; ++c)
            for (std::size_t i = 0; i < wanted[c].size(); ++i)
              ASSERT_NEAR(static_cast<double>(made.channels[c][i]), wanted[c][i], 0.2 / 219)
                  << "channel " << c << " at " << i << ", site " << site << ", shifts " << shiftX << shiftY;
          Accumulator alone(shape, shape, {brightest ? BlendMode::Brightest : BlendMode::Darkest}, {1, 0});
          alone.add(0, {pictures.data(), 2});
          EXPECT_TRUE(test::samePicture(alone.finish(), pictures[0]));
        }
}

}  // namespace
}  // namespace molten
