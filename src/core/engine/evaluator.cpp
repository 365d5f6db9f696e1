#include "core/engine/evaluator.h"

#include <algorithm>

namespace molten {

ChainPlan Evaluator::plan(const Chain& chain, int scale) {
  const Footage& footage = feed_->footage();
  std::optional<ChainPlan> made;
  threads_.run([&] { made.emplace(chain, feed_->shapeAt(scale), footage.clock(), footage.shape().size, scale); });
  return std::move(*made);
}

void Evaluator::assemble(const ChainPlan& plan, const OutputMoment& moment, const FrameTable& table, Picture& out,
                         Accumulators* sums) {
  constexpr int rowsAtATime = 32;
  threads_.run([&] {
    for (int p = 0; p < out.format().planes(); ++p)
      parallelRows(out.planeHeight(p), rowsAtATime,
                   [&](int from, int to) { plan.assemble(moment, table, out, p, from, to, sums); });
  });
}

Result<Picture> Evaluator::picture(const ChainPlan& plan, const OutputMoment& moment, std::stop_token stop) {
  const std::vector<std::int32_t> frames = plan.framesFor(moment);
  const std::size_t lot = feed_->framesThatFit(plan.scale());
  if (frames.size() <= lot) {
    auto table = feed_->fetch(frames, plan.scale(), stop);
    if (!table) return table.error();
    if (plan.passesThrough()) return *table->find(frames[0]);
    Picture out(plan.shape());
    assemble(plan, moment, *table, out, nullptr);
    return out;
  }
  Picture out(plan.shape());
  Accumulators sums;
  plan.beginSums(sums);
  for (std::size_t from = 0; from < frames.size(); from += lot) {
    const std::span<const std::int32_t> some(frames.data() + from, std::min(lot, frames.size() - from));
    auto table = feed_->fetch(some, plan.scale(), stop);
    if (!table) return table.error();
    assemble(plan, moment, *table, out, &sums);
  }
  return out;
}

}  // namespace molten
