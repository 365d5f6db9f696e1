// Assembling one 1080p 4:2:0 picture from cached frames, beside copying whole frames out of a ring of 120.
#include <benchmark/benchmark.h>

#include <cstring>
#include <random>

#include "core/engine/chain_plan.h"
#include "core/project/project.h"

namespace {

using namespace molten;

constexpr int ring = 121;

PictureShape shape1080() {
  PictureShape shape;
  shape.format = {ColourModel::Yuv, 8, 1, 1, false, false};
  shape.size = {1920, 1080};
  return shape;
}

const FrameTable& frames() {
  static const FrameTable table = [] {
    FrameTable made;
    std::mt19937 random(1);
    for (int n = 0; n < ring; ++n) {
      Picture picture(shape1080());
      for (int p = 0; p < 3; ++p)
        for (int y = 0; y < picture.planeHeight(p); ++y)
          std::memset(picture.writableRow(p, y), static_cast<int>(random()), picture.rowBytes(p));
      made.put(n, picture);
    }
    return made;
  }();
  return table;
}

void copyWholeFrames(benchmark::State& state) {
  Picture out(shape1080());
  std::int32_t n = 0;
  for (auto _ : state) {
    const Picture& from = *frames().find(n = (n + 47) % ring);
    for (int p = 0; p < 3; ++p)
      for (int y = 0; y < out.planeHeight(p); ++y) std::memcpy(out.writableRow(p, y), from.row(p, y), out.rowBytes(p));
    benchmark::DoNotOptimize(out.row(0, 0));
  }
}
BENCHMARK(copyWholeFrames)->Unit(benchmark::kMillisecond);

void assembleField(benchmark::State& state, const char* stage) {
  const Chain chain{*parseStage(stage, 60)};
  const ChainPlan plan(chain, shape1080(), FrameClock::constant(60, ring), shape1080().size, 1);
  Picture out(plan.shape());
  for (auto _ : state) {
    for (int p = 0; p < 3; ++p) plan.assemble({60, 0}, frames(), out, p, 0, out.planeHeight(p), nullptr);
    benchmark::DoNotOptimize(out.row(0, 0));
  }
}
BENCHMARK_CAPTURE(assembleField, vertical, "time-field:back=1s,ahead=1s")->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(assembleField, horizontal, "time-field:back=1s,ahead=1s,start=0x0.5,end=1x0.5")
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(assembleField, slanted, "time-field:back=1s,ahead=1s,start=0x0,end=1x1")
    ->Unit(benchmark::kMillisecond);
BENCHMARK_CAPTURE(assembleField, slantedBlend, "time-field:back=1s,ahead=1s,start=0x0,end=1x1,in-between=blend")
    ->Unit(benchmark::kMillisecond);

/// What a moved handle costs before anything is assembled.
void compileField(benchmark::State& state) {
  double x = 0;
  for (auto _ : state) {
    Stage stage = *parseStage("time-field:back=1s,ahead=1s,end=1x1", 60);
    stage.values[0] = Place{x += 0.0001, 0};
    const ChainPlan plan({stage}, shape1080(), FrameClock::constant(60, ring), shape1080().size, 1);
    benchmark::DoNotOptimize(plan.length());
  }
}
BENCHMARK(compileField)->Unit(benchmark::kMillisecond)->UseRealTime();

}  // namespace

BENCHMARK_MAIN();
