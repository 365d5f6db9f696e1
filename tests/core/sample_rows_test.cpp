// Rows of samples and chroma sites, in wide instructions: against what they are, one value after another.
#include "core/picture/sample_rows.h"

#include <gtest/gtest.h>

#include <cmath>
#include <limits>
#include <random>
#include <vector>

#include "core/picture/chroma_sites.h"
#include "core/picture/working_kernels.h"

namespace molten {
namespace {

constexpr float nan = std::numeric_limits<float>::quiet_NaN(), infinity = std::numeric_limits<float>::infinity();

PictureFormat samplesOf(int bits) {
  return {ColourModel::Yuv, bits, 1, 1, false, bits == 32};
}

template <class Sample>
void checkUnpacking(int bits, std::mt19937& random) {
  for (int count = 0; count < 70; ++count)
    for (const int first : {0, 1, 5}) {
      std::vector<Sample> row(static_cast<std::size_t>(first + count));
      for (Sample& sample : row) sample = static_cast<Sample>(random() % (1u << bits));
      const SampleScale scale{static_cast<float>(16u << (bits - 8)), static_cast<float>(219u << (bits - 8))};
      // What lies behind is not touched.
      std::vector<float> out(static_cast<std::size_t>(count + 20), -7);
      unpackRow(samplesOf(bits), reinterpret_cast<const std::uint8_t*>(row.data()), first, count, scale, out.data());
      for (int i = 0; i < count; ++i) {
        const double expected = (static_cast<double>(row[static_cast<std::size_t>(first + i)]) - static_cast<double>(scale.low)) /
                                static_cast<double>(scale.span);
        ASSERT_NEAR(out[static_cast<std::size_t>(i)], expected, 2e-7 * std::max(1.0, std::abs(expected))) << bits << ' ' << count;
      }
      for (std::size_t i = static_cast<std::size_t>(count); i < out.size(); ++i) ASSERT_EQ(out[i], -7);
    }
}

TEST(SampleRows, BecomeFloatsAtEveryDepthAndLength) {
  std::mt19937 random(3);
  checkUnpacking<std::uint8_t>(8, random);
  for (const int bits : {9, 10, 12, 16}) checkUnpacking<std::uint16_t>(bits, random);
  // Black is 0 and white is 1, whatever the depth.
  for (const int bits : {8, 10, 12, 16}) {
    const auto of = [&](unsigned sample, SampleScale scale) {
      const auto wide = static_cast<std::uint16_t>(sample);
      const auto narrow = static_cast<std::uint8_t>(sample);
      float out = -1;
      unpackRow(samplesOf(bits), bits == 8 ? &narrow : reinterpret_cast<const std::uint8_t*>(&wide), 0, 1, scale, &out);
      return out;
    };
    const unsigned top = (1u << bits) - 1, step = 1u << (bits - 8);
    EXPECT_EQ(of(0, {0, static_cast<float>(top)}), 0);
    EXPECT_EQ(of(top, {0, static_cast<float>(top)}), 1);
    EXPECT_EQ(of(16 * step, {static_cast<float>(16 * step), static_cast<float>(219 * step)}), 0);
    EXPECT_NEAR(of(235 * step, {static_cast<float>(16 * step), static_cast<float>(219 * step)}), 1, 1.2e-7);
  }
}

template <class Sample>
void checkPacking(int bits, std::mt19937& random) {
  std::uniform_real_distribution<float> value(-0.3f, 1.3f);
  const float top = static_cast<float>((1u << bits) - 1);
  for (int count = 0; count < 70; ++count)
    for (const int first : {0, 3}) {
      std::vector<float> values(static_cast<std::size_t>(count));
      for (float& v : values) {
        v = value(random);
        if (random() % 9 == 0) v = std::array{nan, infinity, -infinity, 0.0f, 1.0f, 1e30f}[random() % 6];
      }
      const SampleScale scale{static_cast<float>(16u << (bits - 8)), static_cast<float>(219u << (bits - 8))};
      std::vector<Sample> row(static_cast<std::size_t>(first + count + 20), 77);
      packRow(samplesOf(bits), values.data(), count, scale, top, reinterpret_cast<std::uint8_t*>(row.data()), first);
      for (int i = 0; i < count; ++i) {
        const double v = static_cast<double>(values[static_cast<std::size_t>(i)]) * static_cast<double>(scale.span) +
                         static_cast<double>(scale.low);
        const double within = std::isnan(v) ? 0 : std::min(std::max(v, 0.0), static_cast<double>(top));
        const auto found = static_cast<double>(row[static_cast<std::size_t>(first + i)]);
        // Where it lies between two samples either will do.
        ASSERT_NEAR(found, within, 0.5 + within * 2e-7 + 1e-5) << bits << ' ' << count << ' ' << v;
      }
      for (int i = 0; i < first; ++i) ASSERT_EQ(row[static_cast<std::size_t>(i)], 77);
      for (std::size_t i = static_cast<std::size_t>(first + count); i < row.size(); ++i) ASSERT_EQ(row[i], 77);
    }
}

TEST(SampleRows, AreRoundedWithinTheirRange) {
  std::mt19937 random(4);
  checkPacking<std::uint8_t>(8, random);
  for (const int bits : {9, 10, 12, 16}) checkPacking<std::uint16_t>(bits, random);
}

TEST(SampleRows, FloatsAreNeitherCutOffNorRounded) {
  const float values[] = {-3.25f, 0, 0.1f, 7.5f, infinity};
  float row[7] = {}, back[5] = {};
  packRow(samplesOf(32), values, 5, {0.5f, 1}, 1, reinterpret_cast<std::uint8_t*>(row), 2);
  for (int i = 0; i < 5; ++i) EXPECT_EQ(row[2 + i], values[i] + 0.5f);
  unpackRow(samplesOf(32), reinterpret_cast<const std::uint8_t*>(row), 2, 5, {0.5f, 1}, back);
  for (int i = 0; i < 5; ++i) EXPECT_EQ(back[i], row[2 + i] - 0.5f);
}

TEST(SampleRows, AreMultiplied) {
  for (std::size_t count = 0; count < 70; ++count) {
    std::vector<float> values(count + 1, 3);
    multiply(values.data(), count, 0.1f);
    for (std::size_t i = 0; i < count; ++i) ASSERT_EQ(values[i], 3 * 0.1f);
    EXPECT_EQ(values[count], 3);
  }
}

constexpr ChromaSite sites[] = {ChromaSite::Own, ChromaSite::First, ChromaSite::Between, ChromaSite::Second, ChromaSite::Group};

/// Where site i lies, in pixels from the middle of its first pixel; and how many pixels it has.
double placeOf(ChromaSite site, int i) {
  switch (site) {
    case ChromaSite::First:
      return 2 * i;
    case ChromaSite::Between:
      return 2 * i + 0.5;
    case ChromaSite::Second:
      return 2 * i + 1;
    default:
      return i;
  }
}

/// Straight between the sites, wherever those lie: the definition.
TEST(ChromaSites, AreSpreadStraightBetweenThem) {
  std::mt19937 random(5);
  std::uniform_real_distribution<float> value(-0.5f, 0.5f);
  for (const ChromaSite site : sites)
    for (int count = 4; count < 90; count += 4) {
      const int pixels = site == ChromaSite::Own ? 1 : site == ChromaSite::Group ? 4 : 2, all = count / pixels;
      std::vector<float> at(static_cast<std::size_t>(all + 3)), out(static_cast<std::size_t>(count + 1), -7);
      for (float& v : at) v = value(random);
      spreadAcross(site, at.data() + 1, count, out.data());
      for (int x = 0; x < count; ++x) {
        double expected = 0;
        if (site == ChromaSite::Group) {
          expected = static_cast<double>(at[static_cast<std::size_t>(1 + x / 4)]);
        } else {
          for (int i = -1; i <= all; ++i) {
            const double apart = std::abs(placeOf(site, i) - x) / pixels;
            if (apart < 1) expected += (1 - apart) * static_cast<double>(at[static_cast<std::size_t>(i + 1)]);
          }
        }
        ASSERT_NEAR(out[static_cast<std::size_t>(x)], expected, 1e-7) << static_cast<int>(site) << ' ' << count << ' ' << x;
      }
      EXPECT_EQ(out.back(), -7);
    }
}

/// Down as across: a row of pixels is its own site's, mixed with the one beside it by its share.
TEST(ChromaSites, RowsLieBetweenTwo) {
  std::mt19937 random(6);
  std::uniform_real_distribution<float> value(-0.5f, 0.5f);
  for (const ChromaSite site : {ChromaSite::First, ChromaSite::Between, ChromaSite::Second})
    for (int y = 4; y < 12; ++y) {
      const OtherRow other = otherRow(site, y);
      double expected[16] = {}, weight = 0;
      for (int j = 0; j < 8; ++j) {
        const double apart = std::abs(placeOf(site, j) - y) / 2;
        if (apart < 1) expected[j] = 1 - apart, weight += 1 - apart;
      }
      EXPECT_NEAR(weight, 1, 1e-12);
      const int own = y / 2;
      EXPECT_NEAR(1 - static_cast<double>(other.share), expected[own], 1e-7) << y;
      EXPECT_NEAR(static_cast<double>(other.share), other.step == 0 ? 0 : expected[own + other.step], 1e-7) << y;
    }
  for (int count = 0; count < 40; ++count) {
    std::vector<float> near(static_cast<std::size_t>(count)), far(near), out(near.size() + 1, -7);
    for (float& v : near) v = value(random);
    for (float& v : far) v = value(random);
    blendRows(near.data(), far.data(), 0.25f, count, out.data());
    for (std::size_t i = 0; i < near.size(); ++i) ASSERT_EQ(out[i], near[i] * 0.75f + far[i] * 0.25f);
    EXPECT_EQ(out[near.size()], -7);
  }
}

/// What was spread is gathered again, along rows and down columns, for any number of them.
TEST(ChromaSites, GatheringUndoesSpreading) {
  std::mt19937 random(7);
  std::uniform_real_distribution<float> value(-0.5f, 0.5f);
  for (const ChromaSite site : sites)
    for (int all = 3; all < 60; ++all) {
      const int pixels = site == ChromaSite::Own ? 1 : site == ChromaSite::Group ? 4 : 2, count = (all + 4) * pixels;
      // Two more at each end, and their neighbours.
      std::vector<float> at(static_cast<std::size_t>(all + 6)), row(static_cast<std::size_t>(count)), back(at.size(), -7);
      for (float& v : at) v = value(random);
      spreadAcross(site, at.data() + 1, count / 4 * 4, row.data());
      if (count % 4 != 0) continue;
      gatherAcross(site, row.data() + 2 * pixels, all, back.data());
      for (int i = 0; i < all; ++i)
        ASSERT_NEAR(back[static_cast<std::size_t>(i)], at[static_cast<std::size_t>(i + 3)], 3e-7) << static_cast<int>(site) << ' ' << i;
      // Down: the same values in columns.
      constexpr int wide = 37;
      std::vector<float> columns(static_cast<std::size_t>(count) * wide), line(wide + 1, -7);
      for (int y = 0; y < count; ++y)
        std::fill_n(columns.begin() + y * wide, wide, row[static_cast<std::size_t>(y)]);
      for (int i = 0; i < all; ++i) {
        gatherDown(site, columns.data() + (2 + i) * pixels * wide, wide, wide, line.data());
        for (int x = 0; x < wide; ++x) ASSERT_EQ(line[static_cast<std::size_t>(x)], back[static_cast<std::size_t>(i)]);
        ASSERT_EQ(line[wide], -7);
      }
    }
}

}  // namespace
}  // namespace molten
