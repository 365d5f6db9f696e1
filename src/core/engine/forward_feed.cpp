#include "core/engine/forward_feed.h"
#include "core/thrown.h"

#include <algorithm>
#include <cmath>
#include <limits>
#include <set>

namespace molten {
namespace {

/// Pictures whose frames are made ready before they are asked for.
constexpr std::int64_t lead = 3;
constexpr int mostPlaces = 32;
/// What a decoder holds on to for itself.
constexpr double framesOfDecoder = 8;
/// Pictures beyond its window for which a tile is held on, if it is being read: cheaper than to decode it again.
constexpr std::int64_t grace = 24;
/// The part of the budget that the estimate may fill: it is of the middle of the work, and ends differ.
constexpr double estimateShare = 0.9;

/// Bytes that tiles are held for, in steady work, if every frame is held for `window` pictures from when it is decoded,
/// and decoded again where it is read later than that.
double heldBytes(const std::vector<FrameSet>& reads, double framesAPicture, double window, std::size_t tileBytes) {
  std::int32_t newest = 0;
  for (const FrameSet& tile : reads)
    if (!tile.empty()) newest = std::max(newest, tile.newest());
  double pictures = 0;
  for (const FrameSet& tile : reads)
    for (const FrameInterval& interval : tile) {
      const double first = (newest - interval.last) / framesAPicture, last = (newest - interval.first) / framesAPicture;
      for (double pass = 0; pass <= last; pass += window)
        if (first < pass + window) pictures += std::min(last, pass + window) - pass + 1;
    }
  return pictures * framesAPicture * static_cast<double>(tileBytes);
}

/// From picture k to the one after it; from the last one but one, to the last.
double stepOf(const ForwardFeed::Moments& moments, std::int64_t k, std::int64_t count) {
  if (count < 2) return 1;
  const Moment a = moments(std::min(k, count - 2)), b = moments(std::min(k, count - 2) + 1);
  return std::max(1e-3, std::abs(b.pictures() - a.pictures()));
}

}  // namespace

bool ForwardFeed::fits(const ChainPlan& plan, const Moments& moments, std::int64_t count, const MemoryBudget& budget) {
  double tiles = 0;
  for (const FrameSet& reads : plan.tileReads(moments(count / 2))) reads.each([&](auto) { tiles += 1; });
  // After these reads: a field that is made of footage has taken its part of the budget for them.
  return tiles * static_cast<double>(plan.layout().tileBytes()) <= estimateShare * static_cast<double>(budget.room());
}

ForwardFeed::ForwardFeed(std::shared_ptr<const Footage> footage, const ChainPlan& plan, Moments moments,
                         std::int64_t count, std::shared_ptr<MemoryBudget> budget, int decoderThreads)
    : footage_(std::move(footage)),
      plan_(plan),
      moments_(std::move(moments)),
      count_(count),
      budget_(std::move(budget)),
      store_(std::make_shared<TileStore>(plan.layout())) {
  room_ = budget_->room();
  planWindow();
  // Several places keep the processor busy with a thread each, and need less memory so.
  readers_.emplace(footage_, places_ == 1 ? decoderThreads : 1, places_);
  thread_ = std::jthread([this](std::stop_token stop) { work(stop); });
}

ForwardFeed::~ForwardFeed() {
  thread_.request_stop();
  thread_.join();
  for (const auto& [frame, held] : frames_) budget_->remove(held.frame->bytes());
}

/// As few places as the budget allows; where none do, as many as hold least.
void ForwardFeed::planWindow() {
  if (plan_.movesPictures()) return planRestlessWindow();
  struct Sample {
    Reads reads;
    double step, span;
  };
  std::vector<Sample> samples;
  double longest = 0;
  for (int i = 0; i <= 8; ++i) {
    const std::int64_t k = (count_ - 1) * i / 8;
    Sample sample{plan_.tileReads(moments_(k)), stepOf(moments_, k, count_), 0};
    std::int32_t oldest = std::numeric_limits<std::int32_t>::max(), newest = 0;
    for (const FrameSet& tile : sample.reads)
      if (!tile.empty()) oldest = std::min(oldest, tile.oldest()), newest = std::max(newest, tile.newest());
    sample.span = std::max(0, newest - oldest) / sample.step + 1;
    longest = std::max(longest, sample.span);
    samples.push_back(std::move(sample));
  }
  const auto frame = static_cast<double>(plan_.layout().frameBytes());
  double best = std::numeric_limits<double>::max();
  for (int places = 1; places <= mostPlaces; ++places) {
    const auto window = static_cast<std::int64_t>(std::ceil(longest / places)) + 1;
    double most = 0;
    for (const Sample& sample : samples)
      most =
          std::max(most, heldBytes(sample.reads, sample.step, static_cast<double>(window), plan_.layout().tileBytes()) +
                             places * frame * (framesOfDecoder + (lead + 1) * std::min(1.0, sample.step)));
    if (most >= best) continue;
    best = most;
    places_ = places;
    window_ = window;
    if (most <= estimateShare * static_cast<double>(room_)) break;
  }
  if (places_ == 1) window_ = static_cast<std::int64_t>(2 * longest) + 8;
}

/// Where pictures move in time, the footage may be read backwards, or one frame for long: a frame is held as far ahead
/// as the budget allows, since to decode it again takes all frames from the key frame before it.
void ForwardFeed::planRestlessWindow() {
  constexpr std::int64_t farthest = 512, least = 8;
  const double room =
      estimateShare * static_cast<double>(room_) / static_cast<double>(plan_.layout().frameBytes()) -
      framesOfDecoder;
  window_ = farthest;
  for (int i = 0; i <= 8; ++i) {
    const std::int64_t k = (count_ - 1) * i / 8;
    std::set<std::int32_t> frames;
    std::int64_t window = 0;
    for (; window < window_ && k + window < count_; ++window) {
      const auto more = plan_.framesFor(moments_(k + window));
      frames.insert(more.begin(), more.end());
      if (static_cast<double>(frames.size()) > room && window >= least) break;
    }
    if (k + window < count_) window_ = window;
  }
}

const ForwardFeed::Reads& ForwardFeed::readsOf(std::int64_t k) {
  while (firstReads_ + static_cast<std::int64_t>(reads_.size()) <= k)
    reads_.push_back(plan_.tileReads(moments_(firstReads_ + static_cast<std::int64_t>(reads_.size()))));
  return reads_[static_cast<std::size_t>(k - firstReads_)];
}

/// While picture k is prepared: keeps the tiles that it and the pictures of its window read.
void ForwardFeed::arrived(std::int32_t frame, const Picture& picture, std::int64_t k) {
  ++decoded_;
  const auto tiles = static_cast<std::size_t>(plan_.layout().tiles());
  const std::int64_t end = std::min(count_, k + window_), most = std::min(count_, end + grace);
  std::vector<std::int64_t> last(tiles, -1);
  bool any = false;
  for (std::int64_t use = k; use < most; ++use) {
    const Reads& reads = readsOf(use);
    for (std::size_t t = 0; t < tiles; ++t)
      if (reads[t].has(frame) && (use < end || last[t] == use - 1)) last[t] = use, any = true;
  }
  if (!any) return;
  Held& held = frames_[frame];
  if (!held.frame) {
    held.frame = std::make_shared<StoredFrame>(store_);
    held.until.assign(tiles, -1);
    if (plan_.usesFlow()) {
      held.luma = SmallLuma(picture);
      held.lease = {budget_, held.luma.bytes()};
    }
  }
  std::vector<bool> wanted(tiles);
  for (std::size_t t = 0; t < tiles; ++t) {
    wanted[t] = last[t] >= 0;
    if (last[t] <= held.until[t]) continue;
    held.until[t] = last[t];
    lastUses_[last[t]].push_back({frame, static_cast<int>(t)});
  }
  budget_->add(static_cast<std::size_t>(held.frame->keep(picture, wanted)) * plan_.layout().tileBytes());
}

void ForwardFeed::dropUntil(std::int64_t k) {
  while (!lastUses_.empty() && lastUses_.begin()->first <= k) {
    const auto [picture, uses] = std::move(*lastUses_.begin());
    lastUses_.erase(lastUses_.begin());
    for (const Use& use : uses) {
      const auto at = frames_.find(use.frame);
      std::int64_t& until = at->second.until[static_cast<std::size_t>(use.tile)];
      if (until > picture) continue;
      until = -1;
      at->second.frame->drop(use.tile);
      budget_->remove(plan_.layout().tileBytes());
      if (at->second.frame->bytes() == 0) frames_.erase(at);
    }
  }
  while (firstReads_ < k && !reads_.empty()) {
    reads_.pop_front();
    ++firstReads_;
  }
}

std::optional<Error> ForwardFeed::prepare(std::int64_t k, std::stop_token stop) {
  const Reads reads = readsOf(k);
  const auto holds = [&](std::int32_t frame, std::size_t tile) {
    const auto held = frames_.find(frame);
    return held != frames_.end() && held->second.until[tile] >= k;
  };
  std::vector<std::int32_t> missing;
  for (std::size_t t = 0; t < reads.size(); ++t)
    reads[t].each([&](std::int32_t frame) {
      if (!holds(frame, t)) missing.push_back(frame);
    });
  std::sort(missing.begin(), missing.end());
  missing.erase(std::unique(missing.begin(), missing.end()), missing.end());
  const auto complete = [&](std::int32_t frame) {
    for (std::size_t t = 0; t < reads.size(); ++t)
      if (reads[t].has(frame) && !holds(frame, t)) return false;
    return true;
  };
  for (const std::int32_t frame : missing) {
    // It may have come along with one before it.
    if (complete(frame)) continue;
    const auto got = readers_->read(
        frame, [&](std::int32_t n, const Picture& picture) { arrived(n, picture, k); }, stop);
    if (!got) return got.error();
    // A damaged frame: another one stands in for it.
    if (!complete(frame)) arrived(frame, *got, k);
  }
  return std::nullopt;
}

/// Between all neighbours among the frames that picture k reads.
void ForwardFeed::findFlows(std::int64_t k, std::stop_token stop) {
  for (const FrameSet& reads : readsOf(k))
    for (const FrameInterval& interval : reads)
      for (auto f = interval.first; f < interval.last; ++f) {
        Held &first = frames_.at(f), &second = frames_.at(f + 1);
        if (first.flow) continue;
        if (stop.stop_requested()) return;
        first.flow = finder_.find(first.luma, second.luma, plan_.scale());
        first.lease = {budget_, first.luma.bytes() + first.flow->bytes()};
      }
}

FrameTable ForwardFeed::tableOf(std::int64_t k) {
  FrameTable table;
  for (const FrameSet& reads : readsOf(k))
    reads.each([&](std::int32_t frame) {
      if (table.has(frame)) return;
      const Held& held = frames_.at(frame);
      table.put(frame, held.frame);
      if (held.flow) table.putFlow(frame, held.flow);
    });
  return table;
}

void ForwardFeed::work(std::stop_token stop) {
  for (std::int64_t k = 0; k < count_ && !stop.stop_requested(); ++k) {
    std::int64_t made;
    {
      std::unique_lock lock(mutex_);
      if (!changed_.wait(lock, stop, [&] { return k <= done_ + lead; })) return;
      made = done_;
    }
    std::optional<Error> failed;
    FrameTable table;
    try {
      dropUntil(made);
      failed = prepare(k, stop);
      if (!failed && plan_.usesFlow()) findFlows(k, stop);
      if (!failed) table = tableOf(k);
    } catch (...) {
      failed = thrownError();
    }
    const std::scoped_lock lock(mutex_);
    if (failed)
      failed_ = std::move(failed);
    else
      ready_.emplace(k, std::move(table));
    changed_.notify_all();
    if (failed_) return;
  }
}

Result<FrameTable> ForwardFeed::take(std::int64_t k, std::stop_token stop) {
  std::unique_lock lock(mutex_);
  changed_.wait(lock, stop, [&] { return ready_.contains(k) || failed_; });
  if (!ready_.contains(k)) return failed_ ? *failed_ : cancelledError();
  FrameTable table = std::move(ready_.at(k));
  ready_.erase(k);
  return table;
}

void ForwardFeed::done(std::int64_t k) {
  const std::scoped_lock lock(mutex_);
  done_ = k;
  changed_.notify_all();
}

}  // namespace molten
