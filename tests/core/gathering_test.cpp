// What a plan hands over for a picture, and what frames are cut into on their way to it: against what is obvious.
#include "core/engine/flow_opinions.h"
#include "core/engine/plane_patch.h"
#include "support/random_chains.h"

namespace molten::test {
namespace {

std::shared_ptr<const StoredFrame> stored(const Picture& picture, Layout kind) {
  auto frame = std::make_shared<StoredFrame>(std::make_shared<TileStore>(FrameLayout(picture.shape(), kind)));
  frame->keep(picture, {});
  return frame;
}

template <class Sample>
void comparePatch(const Picture& picture, Layout kind, std::mt19937& random) {
  const auto frame = stored(picture, kind);
  const int planes = picture.format().planes();
  PlanePatch<Sample> patch;  // keeps its memory from one box to the next
  for (int i = 0; i < 40; ++i) {
    const int plane = i % planes, width = picture.planeWidth(plane), height = picture.planeHeight(plane);
    const auto within = [&](int least, int most) { return std::uniform_int_distribution<>(least, most)(random); };
    PlaneBox box;
    box.add(within(0, width - 1), within(0, height - 1));
    box.add(within(0, width - 1), within(0, height - 1));
    const int margin = within(0, 20);
    patch.cut(*frame, plane, box, margin);
    // Beyond the plane is its edge.
    const auto sample = [&](int x, int y) {
      const auto* row = reinterpret_cast<const Sample*>(picture.row(plane, std::clamp(y, 0, height - 1)));
      return row[std::clamp(x, 0, width - 1)];
    };
    for (int y = box.top - margin; y < box.bottom + margin; ++y)
      for (int x = box.left - margin; x < box.right + margin; ++x)
        ASSERT_EQ(patch.exact(x, y), sample(x, y)) << x << ", " << y << " of plane " << plane;
    if (margin < 2) continue;
    const float x = static_cast<float>(box.left) + 0.25f, y = static_cast<float>(box.top) + 0.5f;
    const auto mix = [](float a, float b, float f) { return a + (b - a) * f; };
    const auto row = [&](int down) {
      return mix(static_cast<float>(sample(box.left, box.top + down)),
                 static_cast<float>(sample(box.left + 1, box.top + down)), 0.25f);
    };
    EXPECT_NEAR(patch.at(x, y), mix(row(0), row(1), 0.5f), 0.02 * (1 + row(0)));
  }
}

TEST(PlanePatch, IsTheFramesSamplesInEveryLayout) {
  std::mt19937 random(4);
  for (const Layout kind : {Layout::Rows, Layout::Blocks}) {
    PictureShape shape;
    shape.size = {157, 93};
    shape.format = exactFormat(AV_PIX_FMT_YUV420P);
    comparePatch<std::uint8_t>(randomPicture(shape, random), kind, random);
    shape.format = exactFormat(AV_PIX_FMT_YUV422P10LE);
    comparePatch<std::uint16_t>(randomPicture(shape, random), kind, random);
    shape.size = {1, 1};
    comparePatch<std::uint16_t>(randomPicture(shape, random), kind, random);
  }
}

/// A bright square that goes right by six pixels a frame over a ground that stands still.
class Moved : public ::testing::Test {
 protected:
  static Picture square(int left) {
    PictureShape shape;
    shape.size = {192, 128};
    shape.format = exactFormat(AV_PIX_FMT_GRAY8);
    Picture picture(shape);
    for (int y = 0; y < 128; ++y)
      for (int x = 0; x < 192; ++x) {
        const bool inside = x >= left && x < left + 64 && y >= 32 && y < 96;
        picture.writableRow(0, y)[x] =
            static_cast<std::uint8_t>(inside ? 150 + 60 * std::sin((x - left) * 0.5) * std::sin(y * 0.4)
                                             : 50 + 40 * std::sin(x * 0.7) * std::sin(y * 0.5));
      }
    return picture;
  }
  Picture first = square(40), second = square(46);
  std::shared_ptr<const FlowField> flow = FlowFinder().find(SmallLuma(first), SmallLuma(second), 1);
  PlaneSites sites = planeSites(first.shape(), 0, 1);
};

TEST_F(Moved, OpinionsSayHowFarAndTrustWhatAgrees) {
  ASSERT_FALSE(flow->isCut());
  const FlowOpinions inside = opinionsAt(*flow, 75, 64, 0.5f);
  EXPECT_NEAR(inside.u.x, 6, 1);
  EXPECT_NEAR(inside.v.x, -6, 1);
  EXPECT_NEAR(inside.u.y, 0, 0.7);
  EXPECT_TRUE(opinionsAt(*flow, 180, 12, 0.5f).still());
  const FlowTrust trust(192);
  EXPECT_EQ(trust.of(0), 1);
  EXPECT_EQ(trust.of(100), 0);
  EXPECT_TRUE(trust.whole(1) && !trust.whole(2));
  EXPECT_GT(trust.of(1.5f), trust.of(2.5f));
}

TEST_F(Moved, TheGridIsStraightBetweenItsCells) {
  OpinionGrid grid;
  const FlowTrust trust(192);
  PlaneBox box;
  box.add(30, 20), box.add(130, 100);
  grid.make(*flow, sites, box, trust, [](int, int) { return 0.5f; });
  EXPECT_FALSE(grid.still());
  EXPECT_GE(grid.margin(), 6);
  // Worked out by hand from the four cells around each sample.
  const float cell = flow->cellSize();
  const auto cellAt = [&](float i, float j) { return opinionsAt(*flow, (i + 0.5f) * cell, (j + 0.5f) * cell, 0.5f); };
  for (int y = box.top; y < box.bottom; y += 7) {
    grid.goTo(y);
    const float gy = (static_cast<float>(y) + 0.5f) / cell - 0.5f, j = std::floor(gy);
    for (int x = box.left; x < box.right; x += 3) {
      float along;
      const OpinionGrid::Segment& segment = grid.at(x, along);
      const FlowOpinions here = opinionsBetween(segment.begin, segment.end, along);
      const float gx = (static_cast<float>(x) + 0.5f) / cell - 0.5f, i = std::floor(gx);
      const FlowOpinions left = opinionsBetween(cellAt(i, j), cellAt(i, j + 1), gy - j),
                         right = opinionsBetween(cellAt(i + 1, j), cellAt(i + 1, j + 1), gy - j);
      const FlowOpinions own = opinionsBetween(left, right, gx - i);
      EXPECT_NEAR(along, gx - i, 1e-4);
      EXPECT_NEAR(here.u.x, own.u.x, 1e-3);
      EXPECT_NEAR(here.v.y, own.v.y, 1e-3);
      EXPECT_NEAR(here.uOff, own.uOff, 1e-3);
      EXPECT_EQ(segment.still, segment.begin.still() && segment.end.still());
    }
  }
  // Where nothing moves there is no need to look.
  PlaneBox corner;
  corner.add(170, 4), corner.add(188, 20);
  grid.make(*flow, sites, corner, trust, [](int, int) { return 0.5f; });
  EXPECT_TRUE(grid.still());
  EXPECT_EQ(grid.margin(), 0);
}

/// Of random chains over a clip: the frames are those that the program's numbers mean, and what a table lacks comes
/// later.
TEST(Gatherings, NameTheFramesThatTheirProgramsRead) {
  TempFolder folder;
  makeNoiseClip(folder / "noise.mkv", 24, {48, 32}, "yuv420p");
  const auto footage = openFootage(folder / "noise.mkv");
  Evaluator evaluator(std::make_shared<FrameFeed>(footage, std::make_shared<MemoryBudget>(64 << 20), 2), 2);
  int alone = 0;
  for (const char* words : {"time-field:back=5f,ahead=2f", "pace:spans=1s@50%", "strips:count=5,stagger=2f",
                            "time-field:shape=radial,back=4f,past-the-ends=transparent", "step-rate:rate=6"}) {
    const PicturePlan plan = evaluator.plan({*parseStage(words, 25)}, {});
    if (plan.mixing()) continue;
    for (std::int64_t n = 0; n < plan.length(); n += 5) {
      const Gathering gathering = plan.gather().gathering({n});
      std::set<std::int32_t> named;
      for (const std::int32_t number : gathering.program().frames())
        if (const auto frame = gathering.meaning()(number); frame != noFrame) named.insert(frame);
      EXPECT_EQ(gathering.frames(), std::vector<std::int32_t>(named.begin(), named.end())) << words;
      for (const std::int32_t frame : gathering.frames())
        EXPECT_TRUE(frame >= 0 && frame < 24) << words << ": " << frame;
      const FrameLookup lookup = gathering.lookUp({});
      for (const std::int32_t number : gathering.program().frames()) {
        if (gathering.meaning()(number) == noFrame) continue;
        EXPECT_EQ(lookup.at(number), FrameLookup::later);
      }
      if (!gathering.onlyFrame()) continue;
      // It is that frame, sample for sample.
      ++alone;
      EXPECT_EQ(gathering.frames(), std::vector{*gathering.onlyFrame()});
      const auto picture = evaluator.picture(plan, {n}, {});
      ASSERT_TRUE(picture);
      EXPECT_TRUE(samePicture(*picture, readAll(*footage)[static_cast<std::size_t>(*gathering.onlyFrame())]));
    }
  }
  EXPECT_GT(alone, 3);
}

/// Through whole pictures that are moved: as one goes down by hand.
TEST(Reading, TheSourceOfAPositionIsFoundStageByStage) {
  const VideoDescription video{{64, 36}, 1, 25, 100};
  const Chain chain{*parseStage("pace:spans=2s@50%+1s@-100%,past-the-ends=turn-back", 25),
                    *parseStage("step-rate:rate=5", 25), *parseStage("time-field:back=3f", 25)};
  const ChainReading reading(chain, video);
  for (double at = 0; at < 75; at += 0.25) {
    const double stepped = std::floor(at / 5 + 1e-9) * 5;
    const double seconds = stepped / 25, source = seconds < 2 ? seconds / 2 : 1 - (seconds - 2);
    EXPECT_NEAR(reading.sourceOf(3, at), source * 25, 1e-6) << at;
    EXPECT_NEAR(reading.sourceOf(2, at), reading.sourceOf(3, at), 1e-9);
    EXPECT_EQ(reading.sourceOf(0, at), at);
    EXPECT_NEAR(reading.at(at).now, reading.sourceOf(3, at), 1e-9);
  }
}

}  // namespace
}  // namespace molten::test
