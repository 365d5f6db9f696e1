// Assembling one 1080p 4:2:0 picture from cached frames, beside copying whole frames out of a ring as large.
// One thread each, unless a name says otherwise.
#include <benchmark/benchmark.h>

#include <cmath>
#include <cstring>
#include <random>

#include "core/engine/evaluator.h"
#include "core/project/project.h"

namespace {

using namespace molten;

constexpr int ring = 121;  ///< ±1 s at 60 frames a second

PictureShape shape1080() {
  PictureShape shape;
  shape.format = {ColourModel::Yuv, 8, 1, 1, false, false};
  shape.size = {1920, 1080};
  return shape;
}

Picture noisyPicture(int seed) {
  Picture picture(shape1080());
  std::mt19937 random(static_cast<unsigned>(seed));
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < picture.planeHeight(p); ++y)
      std::memset(picture.writableRow(p, y), static_cast<int>(random()), picture.rowBytes(p));
  return picture;
}

const FrameTable& frames(Layout layout) {
  static FrameTable tables[2];
  FrameTable& table = tables[static_cast<int>(layout)];
  if (table.size() > 0) return table;
  const auto store = std::make_shared<TileStore>(FrameLayout(shape1080(), layout));
  for (int n = 0; n < ring; ++n) {
    auto frame = std::make_shared<StoredFrame>(store);
    frame->keep(noisyPicture(n), {});
    table.put(n, frame);
  }
  return table;
}

/// Fields that no stage has yet, for measuring: 0…1 over the picture, ±1 s.
class BenchMap : public TimeMap {
 public:
  using Field = double (*)(double, double);
  explicit BenchMap(Field field) : TimeMap({shape1080().size, 1, 60, ring}), field_(field) {}
  void displacements(const PlaneSites& sites, int row, std::span<double> out) const override {
    const double y = sites.y0 + row * sites.stepY;
    for (std::size_t i = 0; i < out.size(); ++i)
      out[i] = 60 * (2 * field_(sites.x0 + static_cast<double>(i) * sites.stepX, y) - 1);
  }
  Reach reach() const override { return {-60, 60}; }
  PastTheEnds pastTheEnds() const override { return PastTheEnds::Wrap; }

 private:
  Field field_;
};

class BenchKind : public StageKind {
 public:
  explicit BenchKind(BenchMap::Field field) : field_(field) {}
  const StageDescription& description() const override {
    static const StageDescription none;
    return none;
  }
  std::unique_ptr<TimeMap> timeMap(const StageValues&, const VideoDescription&) const override {
    return std::make_unique<BenchMap>(field_);
  }
  std::string summary(const StageValues&, const VideoDescription&) const override { return {}; }
  std::vector<StageNote> notes(const StageValues&, const VideoDescription&, Rational) const override {
    return {};
  }

 private:
  BenchMap::Field field_;
};

double radial(double x, double y) {
  return std::hypot(x - 960, y - 540) / 1102;
}

/// Smooth gradient noise, a feature every 480 pixels (a quarter of the width), stretched to its whole range.
double noise(double x, double y) {
  const auto slope = [](int ix, int iy) {
    const auto mixed = static_cast<std::uint32_t>(ix) * 374761393u + static_cast<std::uint32_t>(iy) * 668265263u;
    return ((mixed ^ mixed >> 13) * 1274126177u >> 8) * 6.283185307 / 16777216;
  };
  x /= 480, y /= 480;
  const int ix = static_cast<int>(std::floor(x)), iy = static_cast<int>(std::floor(y));
  const double fx = x - ix, fy = y - iy;
  const auto corner = [&](int cx, int cy) {
    const double angle = slope(ix + cx, iy + cy);
    return std::cos(angle) * (fx - cx) + std::sin(angle) * (fy - cy);
  };
  const auto smooth = [](double t) { return t * t * t * (t * (6 * t - 15) + 10); };
  const double sx = smooth(fx), sy = smooth(fy);
  const double top = corner(0, 0) * (1 - sx) + corner(1, 0) * sx, bottom = corner(0, 1) * (1 - sx) + corner(1, 1) * sx;
  return std::clamp(0.5 + 0.75 * (top * (1 - sy) + bottom * sy), 0.0, 1.0);
}

const BenchKind roundKind(radial), noisyKind(noise);

void copyWholeFrames(benchmark::State& state) {
  static const std::vector<Picture> pictures = [] {
    std::vector<Picture> made;
    for (int n = 0; n < ring; ++n) made.push_back(noisyPicture(n));
    return made;
  }();
  Picture out(shape1080());
  std::size_t n = 0;
  for (auto _ : state) {
    const Picture& from = pictures[n = (n + 47) % ring];
    for (int p = 0; p < 3; ++p)
      for (int y = 0; y < out.planeHeight(p); ++y) std::memcpy(out.writableRow(p, y), from.row(p, y), out.rowBytes(p));
    benchmark::DoNotOptimize(out.row(0, 0));
  }
}
BENCHMARK(copyWholeFrames)->Unit(benchmark::kMillisecond);

void assemble(benchmark::State& state, const Chain& chain) {
  const ChainPlan plan(chain, shape1080(), FrameClock::constant(60, ring), shape1080().size, 1);
  const FrameTable& table = frames(plan.layout().kind());
  Picture out(plan.shape());
  std::int64_t n = 0;
  plan.program({0, 0});
  for (auto _ : state) {
    const Moment moment{n = (n + 47) % ring, 0};
    const auto program = plan.program(moment);
    const FrameLookup lookup = plan.lookUp(*program, moment, table);
    for (int p = 0; p < 3; ++p) program->assemble(lookup, out, p, 0, plan.layout().tilesDown());
    benchmark::DoNotOptimize(out.row(0, 0));
  }
  state.SetLabel(plan.layout().kind() == Layout::Rows ? "rows" : "blocks");
}

void assembleStage(benchmark::State& state, const char* stage) {
  assemble(state, {*parseStage(stage, 60)});
}
BENCHMARK_CAPTURE(assembleStage, vertical, "time-field:back=1s,ahead=1s,past-the-ends=wrap")
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(assembleStage, horizontal, "time-field:back=1s,ahead=1s,start=0x0.5,end=1x0.5,past-the-ends=wrap")
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(assembleStage, slanted, "time-field:back=1s,ahead=1s,start=0x0,end=1x1,past-the-ends=wrap")
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(assembleStage, slantedBlend,
                  "time-field:back=1s,ahead=1s,start=0x0,end=1x1,past-the-ends=wrap,in-between=blend")
    ->Unit(benchmark::kMillisecond);

void assembleRound(benchmark::State& state) {
  assemble(state, {newStage(roundKind)});
}
BENCHMARK(assembleRound)->Unit(benchmark::kMillisecond);
void assembleNoise(benchmark::State& state) {
  assemble(state, {newStage(noisyKind)});
}
BENCHMARK(assembleNoise)->Unit(benchmark::kMillisecond);

/// What a frame costs on its way from the decoder into memory.
void storeFrame(benchmark::State& state, Layout layout) {
  const auto store = std::make_shared<TileStore>(FrameLayout(shape1080(), layout));
  const Picture picture = noisyPicture(1);
  std::vector<std::unique_ptr<StoredFrame>> kept(30);
  std::size_t i = 0;
  for (auto _ : state) {
    auto& frame = kept[i++ % kept.size()];
    frame = std::make_unique<StoredFrame>(store);
    frame->keep(picture, {});
  }
}
BENCHMARK_CAPTURE(storeFrame, rows, Layout::Rows)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(storeFrame, blocks, Layout::Blocks)->Unit(benchmark::kMillisecond);

/// What a moved handle costs before anything is assembled; on all cores.
void compileField(benchmark::State& state) {
  double x = 0;
  for (auto _ : state) {
    Stage stage = *parseStage("time-field:back=1s,ahead=1s,end=1x1", 60);
    stage.values[0] = Place{x += 0.0001, 0};
    const ChainPlan plan({stage}, shape1080(), FrameClock::constant(60, ring), shape1080().size, 1);
    benchmark::DoNotOptimize(plan.program({60, 0}));
  }
}
BENCHMARK(compileField)->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace

BENCHMARK_MAIN();
