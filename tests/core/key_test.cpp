// The key, against what was drawn: how true its matte is, how clean its edges, how steady it stands.
#include <gtest/gtest.h>

#include <cmath>

#include "core/parallel.h"
#include "core/picture/lay.h"
#include "core/picture/picture_key.h"
#include "demo/scene.h"
#include "support/clips.h"

namespace molten {
namespace {

using test::TempFolder;

/// The clip's cloth as it would be picked on the Picture.
KeyRecipe greenKey() {
  KeyRecipe key;
  key.colour = {0x3d / 255.0f, 0x96 / 255.0f, 0x50 / 255.0f};
  return key;
}

/// What was drawn, a pixel's four places together: how much is covered, and its light times that.
struct Drawn {
  std::vector<float> cover;
  std::vector<demo::Light> light;
};
Drawn drawn(int frame, Size size) {
  const auto figure = demo::inspectorAlone(static_cast<float>(frame) / 30);
  Drawn all;
  all.cover.resize(static_cast<std::size_t>(size.width * size.height)), all.light.resize(all.cover.size());
  parallelRows(size.height, 8, [&](int from, int to) {
    for (int y = from; y < to; ++y)
      for (int x = 0; x < size.width; ++x)
        for (const float dy : {0.25f, 0.75f})
          for (const float dx : {0.25f, 0.75f}) {
            const auto [own, covered] = figure((static_cast<float>(x) + dx) / static_cast<float>(size.height), (static_cast<float>(y) + dy) / static_cast<float>(size.height));
            const auto i = static_cast<std::size_t>(y * size.width + x);
            all.cover[i] += covered / 4;
            all.light[i] = all.light[i] + own * (covered / 4);
          }
  });
  return all;
}

double shownOf(double light) {
  return light <= 0.0031308 ? 12.92 * std::max(0.0, light) : 1.055 * std::pow(light, 1 / 2.4) - 0.055;
}

PictureShape floats(Size size) {
  PictureShape shape;
  shape.format = {ColourModel::Rgb, 32, 0, 0, false, true};
  shape.size = size;
  shape.colour.transfer = AVCOL_TRC_LINEAR;
  return shape;
}

struct Found {
  double off = 0;    ///< mean difference of the matte
  double green = 0;  ///< in the edges, more than what was drawn has: mean, of white
  double mean = 0, meant = 0;
};

/// Over an even gray, in linear light.
Found found(const Picture& picture, int frame, const KeyRecipe& key) {
  const Size size = picture.shape().size;
  const Drawn truth = drawn(frame, size);
  const PictureKey keyed(picture, key, 1);
  Found all;
  for (std::size_t i = 0; i < truth.cover.size(); ++i) {
    all.off += std::abs(static_cast<double>(keyed.matte()[i]) - static_cast<double>(truth.cover[i]));
    all.mean += static_cast<double>(keyed.matte()[i]), all.meant += static_cast<double>(truth.cover[i]);
  }
  constexpr float ground = 0.2f;
  Picture gray(floats(size));
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < size.height; ++y) std::fill_n(reinterpret_cast<float*>(gray.writableRow(p, y)), size.width, ground);
  Laying laying;
  laying.right = size.width, laying.bottom = size.height;
  laying.key = key;
  laying.light = Light::Linear;
  const Picture made = laidOver(gray, picture, laying, 1, gray.shape());
  int edges = 0;
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const auto i = static_cast<std::size_t>(y * size.width + x);
      if (truth.cover[i] < 0.05f || truth.cover[i] > 0.95f) continue;
      const auto value = [&](int p) { return shownOf(static_cast<double>(reinterpret_cast<const float*>(made.row(p, y))[x])); };
      const demo::Light under{ground, ground, ground}, wanted = truth.light[i] + under * (1 - truth.cover[i]);
      const double has = value(0) - (value(1) + value(2)) / 2;
      const double meant = shownOf(static_cast<double>(wanted.g)) - (shownOf(static_cast<double>(wanted.r)) + shownOf(static_cast<double>(wanted.b))) / 2;
      all.green += std::max(0.0, has - std::max(0.0, meant));
      ++edges;
    }
  const auto count = static_cast<double>(truth.cover.size());
  all.off /= count, all.mean /= count, all.meant /= count;
  all.green /= std::max(1, edges);
  return all;
}

void expectGood(const std::string& path, const char* what) {
  const auto footage = test::openFootage(path);
  const auto reader = footage->newReader(1);
  double before = 0;
  for (const int frame : {40, 41, 130, 131, 180}) {
    const auto picture = (*reader)->read(frame, {}, {});
    ASSERT_TRUE(picture);
    const Found one = found(*picture, frame, greenKey());
    EXPECT_LT(one.off, 0.02) << what << ", frame " << frame;
    EXPECT_LT(one.green, 0.01) << what << ", frame " << frame;
    const double over = one.mean - one.meant;
    if (frame == 41 || frame == 131) {
      EXPECT_LT(std::abs(over - before), 0.0005) << what << " flickers at frame " << frame;
    }
    before = over;
  }
}

TEST(PictureKey, FindsTheFigureThatWasDrawn) {
  expectGood(std::string(MOLTEN_SOURCE) + "/demo/inspector.mp4", "as it ships");
}

TEST(PictureKey, FindsItInANoisyCopyThatIsSqueezed) {
  const TempFolder folder;
  const auto made = test::runCommand("ffmpeg -v error -i " + std::string(MOLTEN_SOURCE) + "/demo/inspector.mp4 -t 6.2 -vf noise=alls=10:allf=t -c:v libx264 -preset veryfast -crf 26 -pix_fmt yuv420p " + (folder / "noisy.mp4"));
  ASSERT_EQ(made.exitCode, 0) << made.err;
  expectGood(folder / "noisy.mp4", "noisy");
}

/// Cloth that is lit four times brighter on one side, with a square before it.
TEST(PictureKey, CutsOutClothThatIsLitUnevenly) {
  const Size size{320, 160};
  Picture picture(floats(size));
  const auto inSquare = [](int x, int y) { return x >= 130 && x < 190 && y >= 40 && y < 120; };
  for (int y = 0; y < size.height; ++y)
    for (int x = 0; x < size.width; ++x) {
      const float lit = 0.4f + 1.2f * static_cast<float>(x) / 319;
      const float cloth[] = {0.3f * lit, 0.08f * lit, 0.05f * lit}, own[] = {0.05f, 0.06f, 0.08f};
      for (int p = 0; p < 3; ++p) reinterpret_cast<float*>(picture.writableRow(p, y))[x] = inSquare(x, y) ? own[p] : cloth[p];
    }
  KeyRecipe key;
  // As bright as in the middle.
  for (std::size_t c = 0; c < 3; ++c) key.colour[c] = std::array{0.05f, 0.3f, 0.08f}[c];
  const PictureKey keyed(picture, key, 1);
  for (int y = 2; y < size.height; y += 3)
    for (int x = 2; x < size.width; x += 3) {
      if (inSquare(x - 2, y) != inSquare(x + 2, y)) continue;
      ASSERT_NEAR(keyed.matte()[static_cast<std::size_t>(y * size.width + x)], inSquare(x, y) ? 1 : 0, 0.02) << x << ", " << y;
    }
}

/// Edges and holes by their names: a square with a hole in it.
TEST(PictureKey, PullsEdgesInAndFillsHoles) {
  const Size size{64, 64};
  Picture picture(floats(size));
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < 64; ++y)
      for (int x = 0; x < 64; ++x) {
        const bool own = x >= 16 && x < 48 && y >= 16 && y < 48 && !(x >= 31 && x < 33 && y >= 31 && y < 33);
        reinterpret_cast<float*>(picture.writableRow(p, y))[x] = own ? 0.5f : 0.0f;
      }
  KeyRecipe key;
  key.byBrightness = true, key.near = 0.1, key.soft = 0.1;
  const auto there = [&](int x, int y) { return PictureKey(picture, key, 1).matte()[static_cast<std::size_t>(y * 64 + x)]; };
  EXPECT_EQ(there(20, 20), 1);
  EXPECT_EQ(there(16, 30), 1);
  EXPECT_EQ(there(32, 32), 0);
  EXPECT_EQ(there(10, 30), 0);
  key.holes = 6;
  EXPECT_EQ(there(32, 32), 1);
  EXPECT_EQ(there(10, 30), 0);
  key.holes = 0, key.edgesIn = 2;
  EXPECT_EQ(there(17, 30), 0);
  EXPECT_EQ(there(18, 30), 1);
  key.edgesIn = 1.5;
  EXPECT_NEAR(there(17, 30), 0.5, 1e-6);
  key.edgesIn = -2;
  EXPECT_EQ(there(14, 30), 1);
  EXPECT_EQ(there(13, 30), 0);
}

}  // namespace
}  // namespace molten
