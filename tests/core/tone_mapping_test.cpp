// Footage of high dynamic range on an ordinary screen, against the standards' formulas.
#include <cmath>

#include "core/picture/convert.h"
#include "core/picture/tone_mapping.h"
#include "support/clips.h"

namespace molten {
namespace {

double pqSignal(double light) {
  const double y = std::pow(light / 10'000, 2610.0 / 16384);
  return std::pow((3424.0 / 4096 + 2413.0 / 128 * y) / (1 + 2392.0 / 128 * y), 2523.0 / 32);
}

double hlgSignal(double scene) {
  return scene <= 1.0 / 12 ? std::sqrt(3 * scene) : 0.17883277 * std::log(12 * scene - 0.28466892) + 0.55991073;
}

int srgb(double light) {
  return static_cast<int>(std::lround(255 * (light <= 0.0031308 ? 12.92 * light : 1.055 * std::pow(light, 1 / 2.4) - 0.055)));
}

ColourTags tags(AVColorTransferCharacteristic transfer) {
  ColourTags colour;
  colour.transfer = transfer;
  colour.primaries = AVCOL_PRI_BT2020;
  colour.matrix = AVCOL_SPC_BT2020_NCL;
  colour.range = AVCOL_RANGE_JPEG;
  return colour;
}

/// What the screen shows of gray with this signal: green's byte, red and blue being the same.
int shown(AVColorTransferCharacteristic transfer, double signal) {
  Picture picture({{ColourModel::Rgb, 16, 0, 0, false, false}, {16, 16}, Rational(1), tags(transfer)});
  const auto value = static_cast<std::uint16_t>(std::lround(signal * 65535));
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < 16; ++y) std::fill_n(reinterpret_cast<std::uint16_t*>(picture.writableRow(p, y)), 16, value);
  Converter converter;
  const auto image = toScreen(converter, picture, {16, 16});
  EXPECT_TRUE(image);
  const std::uint32_t pixel = image->pixels[100];
  EXPECT_NEAR(static_cast<int>(pixel & 255), static_cast<int>(pixel >> 8 & 255), 1);
  EXPECT_NEAR(static_cast<int>(pixel >> 16 & 255), static_cast<int>(pixel >> 8 & 255), 1);
  EXPECT_EQ(pixel >> 24, 255u);
  return static_cast<int>(pixel >> 8 & 255);
}

TEST(ToneMapping, WhatAScreenCanShowIsAsBrightAsItWasMeant) {
  for (const double light : {0.0, 1.0, 10.0, 50.0, 100.0, 150.0}) {
    EXPECT_NEAR(shown(AVCOL_TRC_SMPTE2084, pqSignal(light)), srgb(light / 203), 2) << light;
    // The system's curve of a screen of 1000 cd/m²: light = 1000·scene^1.2.
    EXPECT_NEAR(shown(AVCOL_TRC_ARIB_STD_B67, hlgSignal(std::pow(light / 1000, 1 / 1.2))), srgb(light / 203), 2) << light;
  }
}

TEST(ToneMapping, WhatIsBrighterIsToldApartUpToItsPeak) {
  int before = srgb(0.75);
  for (const double light : {203.0, 300.0, 500.0, 800.0, 1000.0}) {
    const int now = shown(AVCOL_TRC_SMPTE2084, pqSignal(light));
    EXPECT_GT(now, before) << light;
    before = now;
  }
  EXPECT_EQ(before, 255);
  EXPECT_EQ(shown(AVCOL_TRC_SMPTE2084, pqSignal(4000)), 255);
  EXPECT_EQ(shown(AVCOL_TRC_ARIB_STD_B67, 1), 255);
}

TEST(ToneMapping, TheCurveRisesWithoutABend) {
  float last = 0, slope = 1;
  for (int i = 1; i <= 4000; ++i) {
    const float light = static_cast<float>(i) / 800, now = toneMapped(light);
    const float step = (now - last) * 800;
    EXPECT_LE(step, slope + 0.01f) << light;
    EXPECT_GE(step, -0.001f) << light;
    slope = step, last = now;
  }
}

TEST(ToneMapping, OtherFootageIsLeftAlone) {
  EXPECT_FALSE(ToneMapping::of({}));
  EXPECT_FALSE(ToneMapping::of(tags(AVCOL_TRC_BT709)));
  EXPECT_EQ(shown(AVCOL_TRC_BT709, 0.5), 128);
}

}  // namespace
}  // namespace molten
