#include "core/engine/evaluator.h"

#include <algorithm>

#include "core/engine/alpha_mix.h"
#include "core/engine/field_material.h"
#include "core/engine/flow_mix.h"

namespace molten {
namespace {

/// work(plane, from, to) for all rows of tiles of all planes.
void onTiles(const ChainPlan& plan, const std::function<void(int, int, int)>& work) {
  const int down = plan.layout().tilesDown(), planes = plan.shape().format.planes();
  parallelRows(down * planes, 1, [&](int from, int to) {
    for (int i = from; i < to; ++i) work(i / down, i % down, i % down + 1);
  });
}

/// In a chain of several stages that read between frames, Flow is left to none of them: they mix.
bool flows(const ChainPlan& plan, const GatherProgram& program) {
  return plan.usesFlow() && program.sources() == 2;
}

void mixAlongFlow(const ChainPlan& plan, const GatherProgram& program, const Moment& moment, const FrameTable& table,
                  Picture& out) {
  const FlowMix mix(program, plan.layout(), plan.shape(), table,
                    [&](std::int32_t number) { return plan.frameMeant(number, moment); });
  onTiles(plan, [&](int plane, int from, int to) { mix.assemble(out, plane, from, to); });
}

/// Of footage with alpha: each source whole first, then all of them by what is there of each.
template <class MakeRows>
void mixSources(const ChainPlan& plan, const GatherProgram& program, Picture& out, MakeRows makeRows) {
  std::vector<Picture> sources;
  std::vector<std::vector<float>> weights;
  for (int s = 0; s < program.sources(); ++s) {
    Picture& source = sources.emplace_back(plan.shape());
    onTiles(plan, [&](int plane, int from, int to) { makeRows(s, source, plane, from, to); });
    weights.push_back(program.sourceWeights(s));
  }
  mixWithAlpha(sources, weights, out);
}

}  // namespace

Picture assembled(const ChainPlan& plan, const Moment& moment, const FrameTable& table) {
  const auto program = plan.program(moment);
  Picture out(plan.shape());
  if (flows(plan, *program)) {
    mixAlongFlow(plan, *program, moment, table, out);
    return out;
  }
  const FrameLookup lookup = plan.lookUp(*program, moment, table);
  if (plan.mixesAlpha()) {
    mixSources(plan, *program, out, [&](int source, Picture& to, int plane, int a, int b) {
      program->assembleSource(source, lookup, to, plane, a, b);
    });
    return out;
  }
  onTiles(plan, [&](int plane, int from, int to) { program->assemble(lookup, out, plane, from, to); });
  return out;
}

Evaluator::Evaluator(std::shared_ptr<FrameFeed> feed, int threads)
    : feed_(std::move(feed)),
      flows_(feed_->budget()),
      threads_(threads),
      material_(std::make_shared<FieldMaterial>(feed_->footagePointer(), threads)) {}

Evaluator::~Evaluator() = default;

ChainPlan Evaluator::plan(const Chain& chain, int scale, const ChainPlan* before) {
  const Footage& footage = feed_->footage();
  std::optional<ChainPlan> made;
  const auto material = std::make_shared<SmallerMaterial>(material_, scale);
  threads_.run(
      [&] { made.emplace(chain, feed_->shapeAt(scale), footage.clock(), footage.shape().size, scale, material); });
  if (before) made->adopt(*before);
  return std::move(*made);
}

Result<Picture> Evaluator::picture(const ChainPlan& plan, const Moment& moment, std::stop_token stop) {
  std::shared_ptr<const GatherProgram> program;
  threads_.run([&] { program = plan.program(moment); });
  if (stop.stop_requested()) return cancelledError();
  if (const auto trouble = material_->troubleWith(plan.stages())) return *trouble;
  const std::vector<std::int32_t> frames = plan.framesOf(*program, moment);
  if (frames.size() > feed_->framesThatFit(plan.scale()))
    return flows(plan, *program) ? flowInLots(plan, *program, moment, frames, stop)
                                 : inLots(plan, *program, moment, frames, stop);
  auto table = feed_->fetch(frames, plan.scale(), plan.layout().kind(), stop);
  if (!table) return table.error();
  if (plan.passesThrough() && !frames.empty()) return table->find(frames[0])->picture();
  Picture out;
  bool whole = true;
  threads_.run([&] {
    whole = !flows(plan, *program) || flows_.complete(*table, plan.scale(), stop);
    if (whole) out = assembled(plan, moment, *table);
  });
  if (!whole) return cancelledError();
  return out;
}

Result<Picture> Evaluator::inLots(const ChainPlan& plan, const GatherProgram& program, const Moment& moment,
                                  std::span<const std::int32_t> frames, std::stop_token stop) {
  const std::size_t lot = feed_->framesThatFit(plan.scale());
  LotSamples samples;
  program.beginLots(samples);
  for (std::size_t from = 0; from < frames.size(); from += lot) {
    auto table = feed_->fetch(frames.subspan(from, std::min(lot, frames.size() - from)), plan.scale(),
                              plan.layout().kind(), stop);
    if (!table) return table.error();
    const FrameLookup lookup = plan.lookUp(program, moment, *table);
    threads_.run(
        [&] { onTiles(plan, [&](int plane, int a, int b) { program.assembleLot(lookup, samples, plane, a, b); }); });
  }
  Picture out(plan.shape());
  threads_.run([&] {
    if (plan.mixesAlpha())
      mixSources(plan, program, out, [&](int source, Picture& to, int plane, int a, int b) {
        program.finishSource(source, samples, to, plane, a, b);
      });
    else
      onTiles(plan, [&](int plane, int a, int b) { program.finishLots(samples, out, plane, a, b); });
  });
  return out;
}

/// Lots overlap by a frame, so that every two neighbours are in one of them. Time that wraps goes from the last frame
/// to the first.
Result<Picture> Evaluator::flowInLots(const ChainPlan& plan, const GatherProgram& program, const Moment& moment,
                                      std::span<const std::int32_t> frames, std::stop_token stop) {
  const std::size_t lot = feed_->framesThatFit(plan.scale());
  Picture out(plan.shape());
  const auto mixLot = [&](std::span<const std::int32_t> some) -> Status {
    auto table = feed_->fetch(some, plan.scale(), plan.layout().kind(), stop);
    if (!table) return table.error();
    bool whole = true;
    threads_.run([&] {
      whole = flows_.complete(*table, plan.scale(), stop);
      if (whole) mixAlongFlow(plan, program, moment, *table, out);
    });
    return whole ? Status() : Status(cancelledError());
  };
  for (std::size_t from = 0; from == 0 || from + 1 < frames.size(); from += lot - 1)
    if (auto done = mixLot(frames.subspan(from, std::min(lot, frames.size() - from))); !done) return done.error();
  const std::int32_t ends[] = {frames.front(), frames.back()};
  if (auto done = mixLot(ends); !done) return done.error();
  return out;
}

}  // namespace molten
