// Layouts, turning, and colours on the screen.
#include <random>

#include "core/field/plane_sites.h"
#include "core/picture/convert.h"
#include "support/clips.h"

extern "C" {
#include <libavutil/pixdesc.h>
}

namespace molten {
namespace {

PictureShape shapeOf(ColourModel model, int bits, Size size, int shiftX = 0, int shiftY = 0, bool alpha = false) {
  PictureShape shape;
  shape.format = {model, bits, shiftX, shiftY, alpha, false};
  shape.size = size;
  return shape;
}

Picture noise(const PictureShape& shape, unsigned seed = 1) {
  std::mt19937 random(seed);
  Picture picture(shape);
  for (int p = 0; p < shape.format.planes(); ++p)
    for (int y = 0; y < picture.planeHeight(p); ++y)
      for (int x = 0; x < picture.planeWidth(p); ++x) {
        const auto value = random() & ((1u << shape.format.bits) - 1);
        if (shape.format.bytesPerSample() == 2)
          reinterpret_cast<std::uint16_t*>(picture.writableRow(p, y))[x] = static_cast<std::uint16_t>(value);
        else
          picture.writableRow(p, y)[x] = static_cast<std::uint8_t>(value);
      }
  return picture;
}

/// One flat colour on the screen, as 0xRRGGBB.
std::uint32_t screenColour(const PictureShape& shape, std::initializer_list<unsigned> planes) {
  Picture picture(shape);
  int p = 0;
  for (const unsigned value : planes) {
    for (int y = 0; y < picture.planeHeight(p); ++y)
      fillSamples(picture.writableRow(p, y), picture.planeWidth(p), shape.format, value);
    ++p;
  }
  Converter converter;
  auto image = toScreen(converter, picture, shape.size);
  EXPECT_TRUE(image);
  return image->pixels[static_cast<std::size_t>(shape.size.width * shape.size.height / 2)] & 0xffffff;
}

void expectNear(std::uint32_t colour, int r, int g, int b, int tolerance = 2) {
  EXPECT_NEAR(static_cast<int>(colour >> 16 & 255), r, tolerance);
  EXPECT_NEAR(static_cast<int>(colour >> 8 & 255), g, tolerance);
  EXPECT_NEAR(static_cast<int>(colour & 255), b, tolerance);
}

TEST(Layouts, EveryLibavFormatHasAnExactPlanarOne) {
  const AVPixFmtDescriptor* d = nullptr;
  int named = 0;
  while ((d = av_pix_fmt_desc_next(d))) {
    if (d->flags & (AV_PIX_FMT_FLAG_HWACCEL)) continue;
    const PictureFormat format = exactFormat(av_pix_fmt_desc_get_id(d));
    EXPECT_GE(format.planes(), 1) << d->name;
    EXPECT_GE(format.floating ? 32 : format.bits, std::min(16, d->comp[0].depth)) << d->name;
    if (const auto id = avFormat(format)) {
      EXPECT_EQ(exactFormat(*id), format) << d->name;
      ++named;
    }
  }
  EXPECT_GT(named, 100);
}

TEST(Turning, FourQuarterTurnsAreNone) {
  for (const auto& shape : {shapeOf(ColourModel::Yuv, 8, {31, 17}, 1, 1), shapeOf(ColourModel::Rgb, 16, {5, 9}),
                            shapeOf(ColourModel::Gray, 8, {1, 7})}) {
    const Picture picture = noise(shape);
    EXPECT_TRUE(test::samePicture(turned(turned(turned(turned(picture, 90), 90), 90), 90), picture));
    EXPECT_TRUE(test::samePicture(turned(turned(picture, 180), 180), picture));
    EXPECT_TRUE(test::samePicture(turned(turned(picture, 90), 270), picture));
    EXPECT_EQ(turned(picture, 90).shape().size, (Size{shape.size.height, shape.size.width}));
  }
  EXPECT_FALSE(turnable({ColourModel::Yuv, 8, 2, 0, false, false}, 90));
}

TEST(Screen, ColoursFollowMatrixAndRange) {
  // Red in BT.601 limited range, BT.709 limited range, and full range; white and black.
  PictureShape shape = shapeOf(ColourModel::Yuv, 8, {64, 64}, 1, 1);
  shape.colour.matrix = AVCOL_SPC_SMPTE170M;
  expectNear(screenColour(shape, {81, 90, 240}), 255, 0, 0);
  shape.colour.matrix = AVCOL_SPC_BT709;
  expectNear(screenColour(shape, {63, 102, 240}), 255, 0, 0);
  expectNear(screenColour(shape, {235, 128, 128}), 255, 255, 255);
  expectNear(screenColour(shape, {16, 128, 128}), 0, 0, 0);
  shape.colour.range = AVCOL_RANGE_JPEG;
  expectNear(screenColour(shape, {255, 128, 128}), 255, 255, 255);
  expectNear(screenColour(shape, {16, 128, 128}), 16, 16, 16);
  // Without a tag small pictures are BT.601, large ones BT.709.
  EXPECT_EQ(meantMatrix(shapeOf(ColourModel::Yuv, 8, {640, 480}, 1, 1)), AVCOL_SPC_SMPTE170M);
  EXPECT_EQ(meantMatrix(shapeOf(ColourModel::Yuv, 8, {1280, 720}, 1, 1)), AVCOL_SPC_BT709);
}

TEST(Screen, DeepGrayAndRgbAreShownRight) {
  PictureShape gray = shapeOf(ColourModel::Gray, 16, {32, 32});
  gray.colour.range = AVCOL_RANGE_JPEG;
  expectNear(screenColour(gray, {32896}), 128, 128, 128);
  PictureShape rgb = shapeOf(ColourModel::Rgb, 10, {32, 32});
  expectNear(screenColour(rgb, {512, 256, 1023}), 255, 128, 64);
}

TEST(Screen, ClearPixelsAreMultipliedByTheirAlpha) {
  PictureShape shape = shapeOf(ColourModel::Rgb, 8, {8, 8}, 0, 0, true);
  Picture picture(shape);
  for (int p = 0; p < 4; ++p)
    for (int y = 0; y < 8; ++y) fillSamples(picture.writableRow(p, y), 8, shape.format, p == 3 ? 128 : 200);
  Converter converter;
  const auto image = toScreen(converter, picture, {8, 8});
  ASSERT_TRUE(image);
  EXPECT_EQ(image->pixels[9], 0x80646464u);
}

TEST(Conversion, OfTheLayoutAloneIsExact) {
  Converter converter;
  // Gray with alpha becomes RGB with alpha, the gray three times.
  const Picture gray = noise(shapeOf(ColourModel::Gray, 8, {21, 13}, 0, 0, true));
  PictureShape rgba = gray.shape();
  rgba.format.model = ColourModel::Rgb;
  const auto converted = converter.convert(gray, rgba);
  ASSERT_TRUE(converted);
  for (int y = 0; y < 13; ++y)
    for (int x = 0; x < 21; ++x)
      for (int p = 0; p < 4; ++p)
        ASSERT_EQ(test::sampleAt(*converted, p, x, y), test::sampleAt(gray, p == 3 ? 1 : 0, x, y));
}

TEST(Sites, ChromaStandsWhereItsTagSays) {
  PictureShape shape = shapeOf(ColourModel::Yuv, 8, {16, 16}, 1, 1);
  PlaneSites sites = planeSites(shape, 1, 1);
  EXPECT_EQ(sites.x0, 0.5);  // left by default, between the rows
  EXPECT_EQ(sites.y0, 1.0);
  shape.colour.chromaSite = AVCHROMA_LOC_CENTER;
  EXPECT_EQ(planeSites(shape, 1, 1).x0, 1.0);
  shape.colour.chromaSite = AVCHROMA_LOC_TOPLEFT;
  sites = planeSites(shape, 2, 2);
  EXPECT_EQ(sites.y0, 1.0);  // 0.5 at half the size
  EXPECT_EQ(sites.stepX, 4);
  EXPECT_EQ(planeSites(shape, 0, 1).x0, 0.5);
}

}  // namespace
}  // namespace molten
