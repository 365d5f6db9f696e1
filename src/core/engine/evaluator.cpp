#include "core/engine/evaluator.h"

#include <algorithm>

namespace molten {
namespace {

/// work(plane, from, to) for all rows of tiles of all planes.
void onTiles(const ChainPlan& plan, const std::function<void(int, int, int)>& work) {
  const int down = plan.layout().tilesDown(), planes = plan.shape().format.planes();
  parallelRows(down * planes, 1, [&](int from, int to) {
    for (int i = from; i < to; ++i) work(i / down, i % down, i % down + 1);
  });
}

}  // namespace

Picture assembled(const ChainPlan& plan, const OutputMoment& moment, const FrameTable& table) {
  const auto program = plan.program(moment);
  const FrameLookup lookup = plan.lookUp(*program, moment, table);
  Picture out(plan.shape());
  onTiles(plan, [&](int plane, int from, int to) { program->assemble(lookup, out, plane, from, to); });
  return out;
}

ChainPlan Evaluator::plan(const Chain& chain, int scale) {
  const Footage& footage = feed_->footage();
  std::optional<ChainPlan> made;
  threads_.run([&] { made.emplace(chain, feed_->shapeAt(scale), footage.clock(), footage.shape().size, scale); });
  return std::move(*made);
}

Result<Picture> Evaluator::picture(const ChainPlan& plan, const OutputMoment& moment, std::stop_token stop) {
  std::shared_ptr<const GatherProgram> program;
  threads_.run([&] { program = plan.program(moment); });
  const std::vector<std::int32_t> frames = plan.framesOf(*program, moment);
  const std::size_t lot = feed_->framesThatFit(plan.scale());
  const Layout layout = plan.layout().kind();
  if (frames.size() <= lot) {
    auto table = feed_->fetch(frames, plan.scale(), layout, stop);
    if (!table) return table.error();
    if (plan.passesThrough()) return table->find(frames[0])->picture();
    Picture out;
    threads_.run([&] { out = assembled(plan, moment, *table); });
    return out;
  }
  LotSamples samples;
  program->beginLots(samples);
  for (std::size_t from = 0; from < frames.size(); from += lot) {
    const std::span<const std::int32_t> some(frames.data() + from, std::min(lot, frames.size() - from));
    auto table = feed_->fetch(some, plan.scale(), layout, stop);
    if (!table) return table.error();
    const FrameLookup lookup = plan.lookUp(*program, moment, *table);
    threads_.run([&] {
      onTiles(plan, [&](int plane, int a, int b) { program->assembleLot(lookup, samples, plane, a, b); });
    });
  }
  Picture out(plan.shape());
  threads_.run(
      [&] { onTiles(plan, [&](int plane, int a, int b) { program->finishLots(samples, out, plane, a, b); }); });
  return out;
}

}  // namespace molten
