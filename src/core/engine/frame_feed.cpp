#include "core/engine/frame_feed.h"

#include <algorithm>

namespace molten {

FrameFeed::FrameFeed(std::shared_ptr<const Footage> footage, std::size_t budgetBytes, int decoderThreads)
    : footage_(std::move(footage)), decoderThreads_(decoderThreads), budget_(budgetBytes) {
  thread_ = std::jthread([this](std::stop_token stop) { work(stop); });
}

FrameFeed::~FrameFeed() {
  {
    const std::scoped_lock lock(mutex_);
    for (Demand* demand : demands_) demand->abandoned.request_stop();
  }
  thread_.request_stop();
}

PictureShape FrameFeed::shapeAt(int scale) const {
  PictureShape shape = footage_->shape();
  shape.size = {(shape.size.width + scale - 1) / scale, (shape.size.height + scale - 1) / scale};
  return shape;
}

void FrameFeed::setBudget(std::size_t bytes) {
  const std::scoped_lock lock(mutex_);
  budget_ = bytes;
  while (used_ > budget_ && !order_.empty()) {
    const auto at = entries_.find(order_.front());
    used_ -= at->second.bytes;
    entries_.erase(at);
    order_.pop_front();
  }
}

std::size_t FrameFeed::budget() const {
  const std::scoped_lock lock(mutex_);
  return budget_;
}

std::size_t FrameFeed::used() const {
  const std::scoped_lock lock(mutex_);
  return used_;
}

std::uint64_t FrameFeed::decoded() const {
  const std::scoped_lock lock(mutex_);
  return decoded_;
}

std::size_t FrameFeed::framesThatFit(int scale) const {
  const std::size_t frame = shapeAt(scale).bytes();
  // Two frames stay with the decoder.
  return std::max<std::size_t>(2, budget() / frame > 4 ? budget() / frame - 2 : 2);
}

Result<FrameTable> FrameFeed::fetch(std::span<const std::int32_t> frames, int scale, std::stop_token stop) {
  Demand demand{0, frames, scale, {}, 0, {}, {}};
  const std::stop_callback whenStopped(stop, [&] { demand.abandoned.request_stop(); });
  std::unique_lock lock(mutex_);
  demand.number = ++demandNumber_;
  if (takeFromMemory(demand)) return std::move(demand.table);
  demands_.push_back(&demand);
  changed_.notify_all();
  changed_.wait(lock, stop, [&] {
    return demand.failed || demand.firstMissing == demand.frames.size() || demand.abandoned.stop_requested();
  });
  std::erase(demands_, &demand);
  if (demand.failed) return *demand.failed;
  if (demand.firstMissing < demand.frames.size()) return cancelledError();
  return std::move(demand.table);
}

void FrameFeed::expect(std::vector<std::int32_t> frames, int scale) {
  const std::scoped_lock lock(mutex_);
  expected_ = std::move(frames);
  expectedScale_ = scale;
  changed_.notify_all();
}

/// Fills a demand's table from what is held. True if nothing is missing.
bool FrameFeed::takeFromMemory(Demand& demand) {
  std::size_t missing = demand.frames.size();
  for (std::size_t i = demand.frames.size(); i-- > demand.firstMissing;) {
    const std::int32_t frame = demand.frames[i];
    if (demand.table.has(frame)) continue;
    const auto at = entries_.find({frame, demand.scale});
    if (at == entries_.end()) {
      missing = i;
      continue;
    }
    order_.splice(order_.end(), order_, at->second.order);
    demand.table.put(frame, at->second.picture);
  }
  demand.firstMissing = missing;
  return missing == demand.frames.size();
}

bool FrameFeed::expected(Key key) const {
  return key.scale == expectedScale_ && std::find(expected_.begin(), expected_.end(), key.frame) != expected_.end();
}

Result<Picture> FrameFeed::scaled(const Picture& picture, int scale) {
  return scale == 1 ? Result<Picture>(picture) : scaler_.convert(picture, shapeAt(scale), Scaling::Area);
}

void FrameFeed::store(Key key, const Picture& picture, bool wanted) {
  if (entries_.contains(key)) return;
  const std::size_t bytes = picture.shape().bytes();
  // Room is made from what was used longest ago. What is expected soon gives way only to what is wanted now.
  for (auto at = order_.begin(); used_ + bytes > budget_ && at != order_.end();) {
    if (!wanted && expected(*at)) {
      ++at;
      continue;
    }
    const auto entry = entries_.find(*at);
    used_ -= entry->second.bytes;
    entries_.erase(entry);
    at = order_.erase(at);
  }
  if (used_ + bytes > budget_) return;
  used_ += bytes;
  const auto order = order_.insert(order_.end(), key);
  entries_.emplace(key, Entry{picture, bytes, order});
}

/// A frame came from the decoder: to everyone who waits for it, and into memory.
void FrameFeed::arrived(std::int32_t frame, const Picture& picture, int scale) {
  std::vector<int> scales{scale};
  {
    const std::scoped_lock lock(mutex_);
    ++decoded_;
    for (const Demand* demand : demands_)
      if (std::find(scales.begin(), scales.end(), demand->scale) == scales.end()) scales.push_back(demand->scale);
  }
  for (const int s : scales) {
    const auto small = scaled(picture, s);
    if (!small) continue;
    const std::scoped_lock lock(mutex_);
    bool wanted = false;
    for (Demand* demand : demands_) {
      if (demand->scale != s || !std::binary_search(demand->frames.begin(), demand->frames.end(), frame)) continue;
      demand->table.put(frame, *small);
      wanted = true;
    }
    store({frame, s}, *small, wanted);
  }
}

std::optional<std::int32_t> FrameFeed::nextExpected() {
  const std::size_t bytes = shapeAt(expectedScale_).bytes();
  std::size_t held = 0;
  for (const std::int32_t frame : expected_) {
    held += bytes;
    // Expecting more than fits would push out what comes first.
    if (held + 2 * bytes > budget_) return std::nullopt;
    if (!entries_.contains({frame, expectedScale_})) return frame;
  }
  return std::nullopt;
}

void FrameFeed::work(std::stop_token stop) {
  std::unique_lock lock(mutex_);
  while (!stop.stop_requested()) {
    Demand* demand = nullptr;
    std::optional<std::int32_t> frame;
    for (auto it = demands_.rbegin(); it != demands_.rend() && !frame; ++it) {
      if ((*it)->failed || (*it)->abandoned.stop_requested()) continue;
      if (takeFromMemory(**it)) {
        changed_.notify_all();
        continue;
      }
      demand = *it;
      frame = demand->frames[demand->firstMissing];
    }
    if (!frame) frame = nextExpected();
    if (!frame) {
      changed_.wait(lock, stop, [&] {
        return std::any_of(demands_.begin(), demands_.end(),
                           [](const Demand* d) {
                             return !d->failed && d->firstMissing < d->frames.size() && !d->abandoned.stop_requested();
                           }) ||
               nextExpected().has_value();
      });
      continue;
    }
    const int scale = demand ? demand->scale : expectedScale_;
    // A frame held larger than it is wanted needs no decoding.
    if (const auto large = entries_.find({*frame, 1}); scale > 1 && large != entries_.end()) {
      const Picture picture = large->second.picture;
      lock.unlock();
      arrived(*frame, picture, scale);
      lock.lock();
      continue;
    }
    const std::stop_token called = demand ? demand->abandoned.get_token() : stop;
    const std::uint64_t number = demand ? demand->number : 0;
    lock.unlock();
    Result<Picture> got = Error{};
    if (!reader_) {
      auto reader = footage_->newReader(decoderThreads_);
      if (reader)
        reader_ = std::move(*reader);
      else
        got = reader.error();
    }
    if (reader_)
      got = reader_->read(
          *frame, [&](std::int32_t n, const Picture& picture) { arrived(n, picture, scale); }, called);
    lock.lock();
    const bool alive =
        std::any_of(demands_.begin(), demands_.end(), [&](const Demand* d) { return d->number == number; });
    if (got && alive && !demand->table.has(*frame)) {
      // A damaged frame: another one stands in for it.
      lock.unlock();
      arrived(*frame, *got, scale);
      lock.lock();
    } else if (!got && !got.error().cancelled) {
      if (alive)
        demand->failed = got.error();
      else
        expected_.clear();
    } else if (got && !demand && !entries_.contains({*frame, scale})) {
      // It was expected, but does not stay: no use to try again.
      std::erase(expected_, *frame);
    }
    for (Demand* waiting : demands_) takeFromMemory(*waiting);
    changed_.notify_all();
  }
}

}  // namespace molten
