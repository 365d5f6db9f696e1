// Frames in tiles: nothing is lost, nothing is shared, what goes goes back.
#include "core/picture/frame_layout.h"

#include <random>
#include <set>

#include "core/engine/tile_store.h"
#include "core/picture/halve.h"
#include "support/clips.h"

namespace molten {
namespace {

PictureShape shapeOf(Size size, ColourModel model, int bits, int shiftX, int shiftY, bool alpha) {
  PictureShape shape;
  shape.format = {model, bits, shiftX, shiftY, alpha, bits == 32};
  shape.size = size;
  return shape;
}

const PictureShape shapes[] = {
    shapeOf({1, 1}, ColourModel::Yuv, 8, 1, 1, false),     shapeOf({131, 67}, ColourModel::Yuv, 8, 1, 1, true),
    shapeOf({300, 70}, ColourModel::Yuv, 10, 1, 0, false), shapeOf({129, 129}, ColourModel::Rgb, 8, 0, 0, true),
    shapeOf({64, 200}, ColourModel::Yuv, 8, 2, 2, false),  shapeOf({257, 33}, ColourModel::Gray, 16, 0, 0, true),
    shapeOf({90, 91}, ColourModel::Rgb, 32, 0, 0, false),
};

TEST(FrameLayout, PicturesComeBackAsTheyWere) {
  std::mt19937 random(3);
  for (const PictureShape& shape : shapes)
    for (const Layout kind : {Layout::Rows, Layout::Blocks}) {
      const Picture picture = test::randomPicture(shape, random);
      const auto store = std::make_shared<TileStore>(FrameLayout(shape, kind));
      StoredFrame frame(store);
      EXPECT_EQ(frame.keep(picture, {}), store->layout().tiles());
      EXPECT_EQ(frame.bytes(), store->layout().frameBytes());
      EXPECT_TRUE(test::samePicture(frame.picture(), picture));
    }
}

TEST(FrameLayout, BlocksAreOneLineOfTheCacheEach) {
  const FrameLayout layout(shapeOf({1920, 1080}, ColourModel::Yuv, 8, 1, 1, false), Layout::Blocks);
  EXPECT_EQ(layout.plane(0).rowBytes, 128u * 8);
  EXPECT_EQ(layout.plane(1).width, 64);
  EXPECT_EQ(layout.tileBytes() % 64, 0u);
  for (int p = 0; p < 3; ++p) EXPECT_EQ(layout.plane(p).offset % 64, 0u);
}

TEST(TileStore, TilesAreNobodyElsesAndComeAndGo) {
  const auto store =
      std::make_shared<TileStore>(FrameLayout(shapeOf({1920, 1080}, ColourModel::Yuv, 8, 1, 1, false), Layout::Blocks));
  const auto tiles = static_cast<std::size_t>(store->layout().tiles());
  std::mt19937 random(5);
  std::vector<std::vector<std::uint8_t*>> frames;
  std::set<std::uint8_t*> taken;
  for (int round = 0; round < 300; ++round) {
    if (frames.size() < 12 && random() % 2 == 0) {
      std::vector<std::uint8_t*> frame(tiles);
      std::vector<bool> wanted(tiles);
      for (std::size_t t = 0; t < tiles; ++t) wanted[t] = random() % 3 == 0;
      store->take(frame, wanted);
      for (std::size_t t = 0; t < tiles; ++t) {
        ASSERT_EQ(frame[t] != nullptr, wanted[t]);
        if (!frame[t]) continue;
        ASSERT_TRUE(taken.insert(frame[t]).second);
        ASSERT_EQ(reinterpret_cast<std::uintptr_t>(frame[t]) % 64, 0u);
        // All of it is ours.
        frame[t][0] = frame[t][store->layout().tileBytes() - 1] = static_cast<std::uint8_t>(t);
      }
      frames.push_back(std::move(frame));
    } else if (!frames.empty()) {
      const std::size_t i = random() % frames.size();
      for (std::size_t t = 0; t < tiles; ++t) {
        if (!frames[i][t]) continue;
        ASSERT_EQ(frames[i][t][0], static_cast<std::uint8_t>(t));
        taken.erase(frames[i][t]);
      }
      store->giveBack(frames[i]);
      for (const auto* tile : frames[i]) ASSERT_EQ(tile, nullptr);
      frames.erase(frames.begin() + static_cast<std::ptrdiff_t>(i));
    }
  }
  for (auto& frame : frames) store->giveBack(frame);
}

TEST(Halved, EverySampleIsTheMeanOfItsFour) {
  std::mt19937 random(8);
  for (const PictureShape& shape : shapes) {
    if (shape.format.floating) continue;
    const Picture picture = test::randomPicture(shape, random), small = halved(picture);
    for (int p = 0; p < shape.format.planes(); ++p)
      for (int y = 0; y < small.planeHeight(p); ++y)
        for (int x = 0; x < small.planeWidth(p); ++x) {
          const auto at = [&](int dx, int dy) {
            return test::sampleAt(picture, p, std::min(2 * x + dx, picture.planeWidth(p) - 1),
                                  std::min(2 * y + dy, picture.planeHeight(p) - 1));
          };
          ASSERT_EQ(test::sampleAt(small, p, x, y), (at(0, 0) + at(1, 0) + at(0, 1) + at(1, 1) + 2) / 4);
        }
  }
}

}  // namespace
}  // namespace molten
