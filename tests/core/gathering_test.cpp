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

/// Both opinions at a place, one by one.
FlowOpinions opinionsAt(const FlowField& flow, float x, float y, float t) {
  const auto orNone = [](Vector w) { return std::abs(w.x) < 0.125f && std::abs(w.y) < 0.125f ? Vector{} : w; };
  const auto off = [](Vector a, Vector b) { return std::hypot(a.x + b.x, a.y + b.y); };
  Vector u = flow.forward(x, y), v = flow.backward(x, y);
  for (int step = 0; step < 2; ++step) {
    u = flow.forward(x - t * u.x, y - t * u.y);
    v = flow.backward(x - (1 - t) * v.x, y - (1 - t) * v.y);
  }
  const Vector uBack = flow.backward(x + (1 - t) * u.x, y + (1 - t) * u.y), vBack = flow.forward(x + t * v.x, y + t * v.y);
  return {orNone(u), orNone(v), off(u, uBack), off(v, vBack)};
}
FlowOpinions opinionsBetween(const FlowOpinions& a, const FlowOpinions& b, float f) {
  const auto mix = [f](float p, float q) { return p + (q - p) * f; };
  return {{mix(a.u.x, b.u.x), mix(a.u.y, b.u.y)}, {mix(a.v.x, b.v.x), mix(a.v.y, b.v.y)}, mix(a.uOff, b.uOff), mix(a.vOff, b.vOff)};
}

TEST_F(Moved, OpinionsSayHowFar) {
  ASSERT_FALSE(flow->isCut());
  const FlowOpinions inside = opinionsAt(*flow, 75, 64, 0.5f);
  EXPECT_NEAR(inside.u.x, 6, 1);
  EXPECT_NEAR(inside.v.x, -6, 1);
  EXPECT_NEAR(inside.u.y, 0, 0.7);
  EXPECT_TRUE(opinionsAt(*flow, 180, 12, 0.5f).still());
  // A row at once: the same, at every part of the way, on the edges and beyond them too.
  std::mt19937 random(3);
  std::uniform_real_distribution<float> place(-40, 240), part(0, 1);
  for (int count : {1, 7, 16, 61}) {
    std::vector<float> xs, parts;
    for (int i = 0; i < count; ++i) xs.push_back(place(random)), parts.push_back(i % 5 == 0 ? 0.0f : part(random));
    std::vector<FlowOpinions> row(xs.size());
    const float y = place(random);
    opinionsOfRow(flow->cells(), xs.data(), y, parts.data(), count, &row[0].u.x);
    for (std::size_t i = 0; i < xs.size(); ++i) {
      const FlowOpinions own = opinionsAt(*flow, xs[i], y, parts[i]);
      EXPECT_NEAR(row[i].u.x, own.u.x, 1e-4);
      EXPECT_NEAR(row[i].u.y, own.u.y, 1e-4);
      EXPECT_NEAR(row[i].v.x, own.v.x, 1e-4);
      EXPECT_NEAR(row[i].v.y, own.v.y, 1e-4);
      EXPECT_NEAR(row[i].uOff, own.uOff, 1e-3);
      EXPECT_NEAR(row[i].vOff, own.vOff, 1e-3);
    }
  }
}

/// Samples along the motion, one by one, in double.
template <class Sample>
void compareRuns(double most, std::mt19937& random) {
  constexpr int width = 90, height = 40, margin = 12;
  std::vector<Sample> samples[2];
  std::uniform_real_distribution<double> value(0, 1);
  for (auto& some : samples)
    for (int i = 0; i < width * height + 8; ++i) some.push_back(static_cast<Sample>(value(random) * most));
  const PatchView<Sample> earlier{samples[0].data(), width, -margin, -margin}, later{samples[1].data(), width, -margin, -margin};
  const auto at = [&](const std::vector<Sample>& some, double x, double y) {
    const double px = x + margin, py = y + margin;
    const int ix = static_cast<int>(px), iy = static_cast<int>(py);
    const auto one = [&](int dx, int dy) { return static_cast<double>(some[static_cast<std::size_t>((iy + dy) * width + ix + dx)]); };
    const double fx = px - ix, fy = py - iy;
    return (one(0, 0) * (1 - fx) + one(1, 0) * fx) * (1 - fy) + (one(0, 1) * (1 - fx) + one(1, 1) * fx) * fy;
  };
  for (int round = 0; round < 60; ++round) {
    const int count = 1 + static_cast<int>(value(random) * 40), x0 = static_cast<int>(value(random) * 20), y = 3 + round % 9;
    // Cells narrower than a sample, as wide, and wider; or motion that is the same all along.
    const float cellsASample = std::array{2.3f, 1.0f, 0.2f, 0.07f}[static_cast<std::size_t>(round) % 4];
    const bool even = round % 8 >= 6;
    std::vector<float> parts, along, cells[6];
    std::vector<std::int32_t> cell;
    for (int i = 0; i < count + flowSpare; ++i) {
      const float place = cellsASample * static_cast<float>(std::min(i, count - 1)) + 0.25f;
      cell.push_back(static_cast<std::int32_t>(place)), along.push_back(place - static_cast<float>(cell.back()));
      parts.push_back(static_cast<float>(value(random)));
    }
    if (even) std::fill(parts.begin(), parts.end(), parts[0]);
    for (int k = 0; k <= cell.back() + 1 + flowSpare; ++k) {
      const bool agree = value(random) < 0.7;
      for (int c = 0; c < 4; ++c) cells[c].push_back(static_cast<float>(value(random) * 16 - 8));
      if (agree) cells[2].back() = -cells[0].back(), cells[3].back() = -cells[1].back();
      for (int c = 4; c < 6; ++c) cells[c].push_back(static_cast<float>(value(random) * 5));
      for (int c = 0; c < 6 && even; ++c) cells[c].back() = cells[c].front();
    }
    FlowRun run{x0, y, count, parts.data()};
    run.cell = cell.data(), run.along = along.data();
    run.same = 0.5f, run.trusted = 1.25f, run.most = static_cast<float>(most);
    for (std::size_t c = 0; c < 6; ++c) run.cells[c] = cells[c].data();
    std::vector<Sample> made(static_cast<std::size_t>(count) + 1, Sample(7));
    mixAlongFlow(run, earlier, later, made.data());
    EXPECT_EQ(made.back(), Sample(7)) << "nothing is written past the run";
    for (int i = 0; i < count; ++i) {
      const auto n = static_cast<std::size_t>(i);
      const double t = static_cast<double>(parts[n]), x = x0 + i;
      const auto o = [&](int c) {
        const auto k = static_cast<std::size_t>(cell[n]);
        const double from = static_cast<double>(cells[c][k]), to = static_cast<double>(cells[c][k + 1]);
        return from + (to - from) * static_cast<double>(along[n]);
      };
      const auto trust = [](double off) { return std::clamp((3 * 1.25 - off) / 2.5, 0.0, 1.0); };
      const double pa = at(samples[0], x - t * o(0), y - t * o(1)), pb = at(samples[1], x + (1 - t) * o(0), y + (1 - t) * o(1));
      double wanted = pa + (pb - pa) * t, believed = trust(o(4));
      if (std::abs(o(0) + o(2)) > 0.5 || std::abs(o(1) + o(3)) > 0.5) {
        const double qa = at(samples[0], x + t * o(2), y + t * o(3)), qb = at(samples[1], x - (1 - t) * o(2), y - (1 - t) * o(3));
        const double pOff = std::abs(pa - pb) * 255 / most + o(4), qOff = std::abs(qa - qb) * 255 / most + o(5);
        const double p = 1 / (1 + pOff * pOff), q = 1 / (1 + qOff * qOff);
        wanted = (wanted * p + (qa + (qb - qa) * t) * q) / (p + q);
        believed = (believed * p + trust(o(5)) * q) / (p + q);
      }
      const double sa = at(samples[0], x, y), sb = at(samples[1], x, y), plain = sa + (sb - sa) * t;
      wanted = plain + (wanted - plain) * believed;
      EXPECT_NEAR(static_cast<double>(made[n]), wanted, std::is_floating_point_v<Sample> ? 1e-4 * most : 0.505 + most * 1e-5)
          << i << " of " << count;
    }
  }
}

TEST(FlowKernels, RunsAreAsOneByOne) {
  std::mt19937 random(8);
  compareRuns<std::uint8_t>(255, random);
  compareRuns<std::uint16_t>(1023, random);
  compareRuns<std::uint16_t>(65535, random);
  compareRuns<float>(1, random);
}

TEST_F(Moved, TheGridIsStraightBetweenItsCells) {
  OpinionGrid grid;
  PlaneBox box;
  box.add(30, 20), box.add(130, 100);
  grid.make(*flow, sites, box, [](int, int) { return 0.5f; });
  EXPECT_FALSE(grid.still());
  EXPECT_GE(grid.margin(), 6);
  // Worked out by hand from the four cells around each sample.
  const float cell = flow->cellSize();
  const auto cellAt = [&](float i, float j) { return opinionsAt(*flow, (i + 0.5f) * cell, (j + 0.5f) * cell, 0.5f); };
  for (int y = box.top; y < box.bottom; y += 7) {
    grid.goTo(y);
    const float gy = (static_cast<float>(y) + 0.5f) / cell - 0.5f, j = std::floor(gy);
    int column = box.left;
    for (const OpinionGrid::Run& run : grid.runs()) {
      EXPECT_EQ(run.from, column) << "runs follow one another";
      column = run.to;
      for (int x = run.from; x < run.to; ++x) {
        const float gx = (static_cast<float>(x) + 0.5f) / cell - 0.5f, i = std::floor(gx);
        const FlowOpinions left = opinionsBetween(cellAt(i, j), cellAt(i, j + 1), gy - j),
                           right = opinionsBetween(cellAt(i + 1, j), cellAt(i + 1, j + 1), gy - j);
        EXPECT_EQ(run.still, left.still() && right.still());
        if (run.still) continue;
        const FlowOpinions own = opinionsBetween(left, right, gx - i);
        FlowRun told;
        grid.tell(x, told);
        const auto here = [&](std::size_t c) {
          const float* const cells = told.cells[c] + *told.cell;
          return cells[0] + (cells[1] - cells[0]) * *told.along;
        };
        EXPECT_NEAR(here(0), own.u.x, 1e-3);
        EXPECT_NEAR(here(3), own.v.y, 1e-3);
        EXPECT_NEAR(here(4), own.uOff, 1e-3);
      }
    }
    EXPECT_EQ(column, box.right);
  }
  // Where nothing moves there is no need to look.
  PlaneBox corner;
  corner.add(170, 4), corner.add(188, 20);
  grid.make(*flow, sites, corner, [](int, int) { return 0.5f; });
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
