#pragma once
// Pictures of a chain, from a feed of frames.

#include <memory>
#include <stop_token>

#include "core/engine/chain_plan.h"
#include "core/engine/frame_feed.h"
#include "core/engine/parallel.h"

namespace molten {

class Evaluator {
 public:
  /// Assembles with `threads` threads. The result does not depend on their number.
  Evaluator(std::shared_ptr<FrameFeed> feed, int threads) : feed_(std::move(feed)), threads_(threads) {}

  FrameFeed& feed() { return *feed_; }
  ChainPlan plan(const Chain& chain, int scale);
  /// The picture at a moment. Where its frames do not fit the budget together they are fetched in lots.
  Result<Picture> picture(const ChainPlan& plan, const OutputMoment& moment, std::stop_token stop);

 private:
  std::shared_ptr<FrameFeed> feed_;
  ThreadLimit threads_;
};

/// The picture at a moment from a table that holds all its frames. On the threads of the caller's ThreadLimit.
Picture assembled(const ChainPlan& plan, const OutputMoment& moment, const FrameTable& table);

}  // namespace molten
