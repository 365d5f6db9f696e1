// Pictures between frames: what moves is moved, what stands still stands still, what is another scene is not mixed.
#include <cmath>
#include <random>

#include "core/engine/evaluator.h"
#include "core/engine/flow_mix.h"
#include "core/project/project.h"
#include "support/clips.h"

namespace molten {
namespace {

using test::TempFolder;

/// A field of smooth blobs: something to hold on to everywhere. 0…1.
double texture(double x, double y, int seed) {
  double value = 0;
  for (int i = 1; i <= 4; ++i)
    value += std::sin(x * 0.05 * i + seed * 1.7 * i) * std::cos(y * 0.043 * i + seed + i) / i;
  return 0.5 + value / 5;
}

PictureShape shapeOf(Size size, int bits) {
  PictureShape shape;
  shape.format = {ColourModel::Yuv, bits, 1, 1, false, false};
  shape.size = size;
  return shape;
}

Picture drawn(const PictureShape& shape, const std::function<double(double, double)>& value) {
  Picture picture(shape);
  const double most = (1 << shape.format.bits) - 1;
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < picture.planeHeight(p); ++y)
      for (int x = 0; x < picture.planeWidth(p); ++x) {
        const double v = p == 0 ? value(x + 0.5, y + 0.5) : value(2 * x + 0.5, 2 * y + 1);
        const auto sample = static_cast<unsigned>(std::lround(most * std::clamp(0.1 + 0.8 * v, 0.0, 1.0)));
        if (shape.format.bits > 8)
          reinterpret_cast<std::uint16_t*>(picture.writableRow(p, y))[x] = static_cast<std::uint16_t>(sample);
        else
          picture.writableRow(p, y)[x] = static_cast<std::uint8_t>(sample);
      }
  return picture;
}

/// The picture the part t between two pictures.
Picture betweenOf(const Picture& a, const Picture& b, double t, Layout kind, InBetween way) {
  const PictureShape& shape = a.shape();
  const FrameLayout layout(shape, kind);
  const auto store = std::make_shared<TileStore>(layout);
  FrameTable table;
  for (const int n : {0, 1}) {
    auto frame = std::make_shared<StoredFrame>(store);
    frame->keep(n == 0 ? a : b, {});
    table.put(n, frame);
  }
  const auto budget = std::make_shared<MemoryBudget>(std::size_t(1) << 30);
  FlowCache cache(budget);
  EXPECT_TRUE(cache.complete(table, 1, {}));
  const GatherProgram program(layout, shape, Picking::Pairs, 1, [&](int plane, int, RowPicks& picks) {
    picks.lanes.resize(1);
    const auto width = static_cast<std::size_t>(shape.format.planeWidth(plane, shape.size.width));
    picks.lanes[0].frame.assign(width, 0);
    picks.lanes[0].weight.assign(width, static_cast<std::uint32_t>(t * wholeWeight));
  });
  Picture out(shape);
  if (way == InBetween::Mixed) {
    const FrameLookup lookup{0, {table.find(0)->tiles(), table.find(1)->tiles()}};
    for (int p = 0; p < 3; ++p) program.assemble(lookup, out, p, 0, layout.tilesDown());
    return out;
  }
  const FlowMix mix(program, layout, shape, table, [](std::int32_t n) { return n; });
  for (int p = 0; p < 3; ++p) mix.assemble(out, p, 0, layout.tilesDown());
  return out;
}

/// Mean difference of luma in 1/255, away from the edges.
double difference(const Picture& a, const Picture& b) {
  double sum = 0;
  int count = 0;
  for (int y = 24; y < a.planeHeight(0) - 24; ++y)
    for (int x = 24; x < a.planeWidth(0) - 24; ++x, ++count)
      sum += std::abs(static_cast<double>(test::sampleAt(a, 0, x, y)) - test::sampleAt(b, 0, x, y));
  return sum / count / ((1 << a.format().bits) - 1) * 255;
}

TEST(Flow, WhatMovesIsMovedThePartOfTheWay) {
  for (const int bits : {8, 10})
    for (const Layout kind : {Layout::Rows, Layout::Blocks}) {
      const PictureShape shape = shapeOf({640, 320}, bits);
      const auto at = [&](double shift) {
        return drawn(shape, [shift](double x, double y) { return texture(x - shift, y + shift / 3, 1); });
      };
      const Picture a = at(0), b = at(14);
      for (const double t : {0.25, 0.5, 0.75}) {
        const Picture ideal = at(14 * t);
        const double flow = difference(betweenOf(a, b, t, kind, InBetween::Flow), ideal),
                     blend = difference(betweenOf(a, b, t, kind, InBetween::Mixed), ideal);
        EXPECT_LT(flow, 1.0) << "at " << t;
        EXPECT_LT(flow, blend / 6) << "at " << t;
      }
    }
}

TEST(Flow, StillBackgroundsAreTheirFramesToTheBit) {
  const PictureShape shape = shapeOf({640, 360}, 8);
  // A square crosses a background with grain of its own that does not move.
  const auto at = [&](double shift) {
    return drawn(shape, [shift](double x, double y) {
      if (x > 100 + shift && x < 180 + shift && y > 120 && y < 220) return texture(x - shift, y, 3);
      const auto grain = static_cast<unsigned>(x) * 2654435761u ^ static_cast<unsigned>(y) * 40503u;
      return texture(x * 0.6, y * 0.6, 5) * 0.8 + (grain >> 8 & 255) / 2550.0;
    });
  };
  const Picture a = at(0), b = at(12), between = betweenOf(a, b, 0.5, Layout::Blocks, InBetween::Flow);
  int moved = 0;
  for (int y = 0; y < 360; ++y)
    for (int x = 300; x < 640; ++x) moved += test::sampleAt(between, 0, x, y) != test::sampleAt(a, 0, x, y);
  EXPECT_EQ(moved, 0);
  EXPECT_LT(difference(between, at(6)), 1.5);
}

TEST(Flow, AnotherSceneIsNotMixed) {
  const PictureShape shape = shapeOf({320, 240}, 8);
  std::mt19937 random(3);
  const Picture a = drawn(shape, [](double x, double y) { return texture(x, y, 1); }), b = [&] {
    std::vector<double> tones(300);
    for (double& tone : tones) tone = random() % 256 / 255.0;
    return drawn(shape, [&](double x, double y) {
      return tones[static_cast<std::size_t>(static_cast<int>(y / 16) * 20 + static_cast<int>(x / 16))];
    });
  }();
  EXPECT_TRUE(test::samePicture(betweenOf(a, b, 0.3, Layout::Blocks, InBetween::Flow), a));
  EXPECT_TRUE(test::samePicture(betweenOf(a, b, 0.7, Layout::Rows, InBetween::Flow), b));
}

/// Motion is looked for in pictures of any shape: the search itself can read only some.
TEST(Flow, FlatNarrowAndTinyPicturesAreMade) {
  std::mt19937 random(10);
  for (const Size size : {Size{640, 16}, Size{100, 20}, Size{1, 1}, Size{3, 2}, Size{16, 200}, Size{90, 33},
                          Size{1920, 100}, Size{64, 8}, Size{8, 64}, Size{49, 49}}) {
    const PictureShape shape = shapeOf(size, 8);
    const Picture a = test::randomPicture(shape, random);
    EXPECT_TRUE(test::samePicture(betweenOf(a, a, 0.5, Layout::Blocks, InBetween::Flow), a))
        << size.width << " x " << size.height;
    EXPECT_TRUE(betweenOf(a, test::randomPicture(shape, random), 0.5, Layout::Rows, InBetween::Flow));
  }
}

TEST(Flow, OnAFrameItIsTheFrame) {
  std::mt19937 random(9);
  const PictureShape shape = shapeOf({180, 120}, 8);
  const Picture a = test::randomPicture(shape, random), b = test::randomPicture(shape, random);
  EXPECT_TRUE(test::samePicture(betweenOf(a, b, 0, Layout::Rows, InBetween::Flow), a));
}

/// Whole, in lots, on one thread or many: the same pictures.
TEST(Flow, EveryWayGivesTheSamePicture) {
  const TempFolder folder;
  test::makeNumberedClip(folder / "a.mkv", 24, {260, 150}, "-c:v ffv1");
  const auto footage = test::openFootage(folder / "a.mkv");
  const std::size_t frame = footage->shape().bytes();
  Evaluator many(std::make_shared<FrameFeed>(footage, frame * 100, 2), 4),
      one(std::make_shared<FrameFeed>(footage, frame * 100, 1), 1),
      poor(std::make_shared<FrameFeed>(footage, frame * 9, 1), 2);
  for (const char* past : {"stand-still", "turn-back", "go-round", "transparent"}) {
    const Chain chain{
        *parseStage(std::string("time-field:back=0.37s,ahead=0.2s,start=0x0,end=1x0.7,past-the-ends=") + past,
                    footage->clock().rate())};
    const PicturePlan plan = many.plan(chain, {1, InBetween::Flow});
    for (const Moment moment : {Moment{1, 0}, Moment{12, Rational(2, 5)}, Moment{23, 0}}) {
      const auto expected = one.picture(plan, moment, {});
      ASSERT_TRUE(expected);
      EXPECT_TRUE(test::samePicture(*many.picture(plan, moment, {}), *expected)) << past;
      EXPECT_TRUE(test::samePicture(*poor.picture(plan, moment, {}), *expected)) << past << " in lots";
    }
  }
}

}  // namespace
}  // namespace molten
