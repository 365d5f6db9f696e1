// Assembling one 1080p 4:2:0 picture from cached frames, beside copying whole frames out of a ring as large.
// One thread each, unless a name says otherwise.
#include <benchmark/benchmark.h>

#include <cmath>
#include <cstring>
#include <random>

#include "core/engine/evaluator.h"
#include "core/picture/lay.h"
#include "core/picture/resample.h"
#include "core/picture/working_format.h"
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

PlanSource ringOfFrames(InBetween between = InBetween::Whole) {
  PlanSource source{shape1080(), FrameClock::constant(60, ring), {shape1080().size, 1, 60, ring}};
  source.video.between = between;
  return source;
}

void assemble(benchmark::State& state, const Chain& chain, InBetween between = InBetween::Whole) {
  const ChainPlan plan(chain, ringOfFrames(between));
  const FrameTable& table = frames(plan.layout().kind());
  Picture out(plan.shape());
  std::int64_t n = 0;
  plan.gathering({});
  for (auto _ : state) {
    const Moment moment{n = (n + 47) % ring};
    const Gathering gathering = plan.gathering(moment);
    const FrameLookup lookup = gathering.lookUp(table);
    for (int p = 0; p < 3; ++p) gathering.program().assemble(lookup, out, p, 0, plan.layout().tilesDown());
    benchmark::DoNotOptimize(out.row(0, 0));
  }
  state.SetLabel(plan.layout().kind() == Layout::Rows ? "rows" : "blocks");
}

void assembleStage(benchmark::State& state, const char* stage) {
  assemble(state, {*parseStage(stage, 60)});
}
BENCHMARK_CAPTURE(assembleStage, vertical, "time-field:back=1s,ahead=1s,past-the-ends=go-round")
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(assembleStage, horizontal, "time-field:back=1s,ahead=1s,start=0x0.5,end=1x0.5,past-the-ends=go-round")
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(assembleStage, slanted, "time-field:back=1s,ahead=1s,start=0x0,end=1x1,past-the-ends=go-round")
    ->Unit(benchmark::kMillisecond);
void assembleMixed(benchmark::State& state, const char* stage) {
  assemble(state, {*parseStage(stage, 60)}, InBetween::Mixed);
}
BENCHMARK_CAPTURE(assembleMixed, slanted, "time-field:back=1s,ahead=1s,start=0x0,end=1x1,past-the-ends=go-round")
    ->Unit(benchmark::kMillisecond);

BENCHMARK_CAPTURE(assembleStage, radial, "time-field:shape=radial,outer=102%,back=1s,ahead=1s,past-the-ends=go-round")
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(assembleStage, sweep, "time-field:shape=sweep,back=1s,ahead=1s,past-the-ends=go-round")
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(assembleStage, noise,
                  "time-field:shape=noise,cloud-size=45%,finer-layers=1,back=1s,ahead=1s,past-the-ends=go-round")
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(assembleStage, dithered, "time-field:back=1s,ahead=1s,dither=1f,past-the-ends=go-round")
    ->Unit(benchmark::kMillisecond);

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
void compileField(benchmark::State& state, const char* stage) {
  const std::string text = stage;
  double back = 1;
  for (auto _ : state) {
    const Chain chain = {*parseStage(text + ",back=" + std::to_string(back += 0.0001), 60)};
    const ChainPlan plan(chain, ringOfFrames());
    benchmark::DoNotOptimize(plan.gathering({60, 0}));
  }
}
BENCHMARK_CAPTURE(compileField, linear, "time-field:ahead=1s,end=1x1")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(compileField, radial, "time-field:ahead=1s,shape=radial")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(compileField, sweep, "time-field:ahead=1s,shape=sweep")->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(compileField, noise, "time-field:ahead=1s,shape=noise,finer-layers=4")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();
BENCHMARK_CAPTURE(compileField, dithered, "time-field:ahead=1s,dither=1f")
    ->Unit(benchmark::kMillisecond)
    ->UseRealTime();

/// A picture as floats and back: what pixel work costs before it does anything.
void takeAndGive(benchmark::State& state) {
  const ThreadLimit one(1);
  const Picture picture = noisyPicture(1);
  Picture out(shape1080());
  const WorkingFormat format(shape1080(), Light::Display);
  for (auto _ : state)
    overTiles(shape1080().size, [&](const PixelBox& box, WorkingTile& tile) {
      format.take(picture, box, tile);
      format.give(tile, out);
    });
}
BENCHMARK(takeAndGive)->Unit(benchmark::kMillisecond);

/// Framing: enlarged by a fifth, turned by so many degrees, so many positions averaged.
void frame(benchmark::State& state, double degrees, int positions) {
  const ThreadLimit one(1);
  const Picture picture = noisyPicture(1);
  std::vector<Affine> ways;
  for (int i = 0; i < positions; ++i) {
    const double turn = degrees * std::acos(-1.0) / 180, zoom = 1 / (1.2 + 0.01 * i);
    ways.push_back({std::cos(turn) * zoom, -std::sin(turn) * zoom, 200, std::sin(turn) * zoom, std::cos(turn) * zoom, 100});
  }
  for (auto _ : state) benchmark::DoNotOptimize(resampled(picture, ways, Beyond::StandStill, picture.shape()));
}
BENCHMARK_CAPTURE(frame, upright, 0, 1)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(frame, turned, 2, 1)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(frame, uprightBlur8, 0, 8)->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(frame, turnedBlur8, 2, 8)->Unit(benchmark::kMillisecond);

/// A picture laid over another: all of it, or what a key leaves of it (a figure of a tenth of it before an even cloth).
void lay(benchmark::State& state, bool keyed, double scale) {
  const Picture under = noisyPicture(2);
  Picture over(under.shape());
  const int width = over.shape().size.width, height = over.shape().size.height;
  for (int p = 0; p < 3; ++p)
    for (int y = 0; y < over.planeHeight(p); ++y)
      for (int x = 0; x < over.planeWidth(p); ++x) {
        const bool figure = std::abs(x * 2 - over.planeWidth(p)) < over.planeWidth(p) / 5 && y > over.planeHeight(p) / 4;
        over.writableRow(p, y)[x] = static_cast<std::uint8_t>(figure ? (p == 0 ? 60 : 128) : p == 0 ? 120 : p == 1 ? 98 : 82);
      }
  Laying laying;
  laying.right = width, laying.bottom = height;
  laying.way = {1 / scale, 0, 0, 0, 1 / scale, 0};
  if (keyed) laying.key = KeyRecipe{false, {0.24f, 0.59f, 0.31f}};
  for (auto _ : state) benchmark::DoNotOptimize(laidOver(under, over, laying, 1, under.shape()));
}
BENCHMARK_CAPTURE(lay, whole, false, 1.0)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(lay, larger, false, 1.2)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(lay, keyed, true, 1.0)->Unit(benchmark::kMillisecond)->UseRealTime();
BENCHMARK_CAPTURE(lay, keyedLarger, true, 1.2)->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace

BENCHMARK_MAIN();
