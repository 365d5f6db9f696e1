#pragma once
// Frames for pictures that are made one after another: of each frame only the tiles that are still to be read are held.

#include <atomic>
#include <condition_variable>
#include <deque>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <stop_token>
#include <thread>
#include <vector>

#include "core/engine/chain_plan.h"
#include "core/memory_budget.h"
#include "core/engine/reader_pool.h"

namespace molten {

/// Decodes on a thread of its own, a few pictures ahead. Where the reach does not fit the budget, the footage is read
/// at several places at once: a frame is decoded again when the next part of the reach comes to it, and held each time
/// only for the pictures of that part.
class ForwardFeed {
 public:
  /// The moments of `count` pictures by their number.
  using Moments = std::function<Moment(std::int64_t)>;

  /// `plan` must outlive this. Requires fits().
  ForwardFeed(std::shared_ptr<const Footage> footage, const ChainPlan& plan, Moments moments, std::int64_t count,
              std::shared_ptr<MemoryBudget> budget, int decoderThreads);
  ~ForwardFeed();

  /// False if what a single picture reads is more than a budget holds: then pictures must be made in lots.
  static bool fits(const ChainPlan& plan, const Moments& moments, std::int64_t count, const MemoryBudget& budget);

  /// What picture k reads, k rising one by one from 0. Blocks until it is there.
  Result<FrameTable> take(std::int64_t k, std::stop_token stop);
  /// Picture k is made; its table is no longer used.
  void done(std::int64_t k);

  /// How many places of the footage are read at once.
  int places() const { return places_; }
  /// Frames decoded so far.
  std::uint64_t decoded() const { return decoded_; }

 private:
  struct Use {
    std::int32_t frame;
    int tile;
  };
  using Reads = std::vector<FrameSet>;
  struct Held {
    std::shared_ptr<StoredFrame> frame;
    std::vector<std::int64_t> until;        ///< the last picture that each tile is held for
    SmallLuma luma;                         ///< what motion is looked for in; empty if the plan needs none
    std::shared_ptr<const FlowField> flow;  ///< to the frame after it
    MemoryBudget::Lease lease;              ///< of these two
  };

  void work(std::stop_token stop);
  const Reads& readsOf(std::int64_t k);
  void planWindow();
  void planRestlessWindow();
  std::optional<Error> prepare(std::int64_t k, std::stop_token stop);
  void findFlows(std::int64_t k, std::stop_token stop);
  void arrived(std::int32_t frame, const Picture& picture, std::int64_t k);
  void dropUntil(std::int64_t k);
  FrameTable tableOf(std::int64_t k);

  std::shared_ptr<const Footage> footage_;
  const ChainPlan& plan_;
  Moments moments_;
  const std::int64_t count_;
  std::shared_ptr<MemoryBudget> budget_;
  std::size_t room_ = 0;  ///< that others left of it when the work began, in bytes
  std::int64_t window_ = 0;  ///< pictures for which a decoded frame is held at most
  int places_ = 1;
  std::optional<ReaderPool> readers_;
  std::shared_ptr<TileStore> store_;
  FlowFinder finder_;

  // Of the decoding thread alone:
  std::map<std::int32_t, Held> frames_;
  std::map<std::int64_t, std::vector<Use>> lastUses_;  ///< what goes when a picture is made, if it is not held longer
  std::deque<Reads> reads_;                            ///< of pictures firstReads_…
  std::int64_t firstReads_ = 0;
  std::atomic<std::uint64_t> decoded_ = 0;

  std::mutex mutex_;
  std::condition_variable_any changed_;
  std::map<std::int64_t, FrameTable> ready_;
  std::int64_t done_ = -1;  ///< the last picture that is made
  std::optional<Error> failed_;
  std::jthread thread_;  // last: it stops before the rest goes
};

}  // namespace molten
