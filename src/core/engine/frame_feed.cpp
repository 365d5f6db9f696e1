#include "core/engine/frame_feed.h"

#include <algorithm>
#include <array>
#include <iterator>

#include "core/parallel.h"
#include "core/picture/halve.h"
#include "core/thrown.h"

namespace molten {
namespace {

/// Playing forwards and jumping back; filling in and a look elsewhere.
constexpr int places = 2;
/// On the way to a frame that is shown, those nearer than this are kept: the hand may go back a little.
constexpr std::int32_t near = 48;
/// So many frames that need no other are decoded for a picture that is only like the one that is wanted.
constexpr int mostStarts = 3;

}  // namespace

FrameFeed::FrameFeed(std::shared_ptr<const Footage> footage, std::shared_ptr<MemoryBudget> budget, int decoderThreads)
    : footage_(std::move(footage)),
      budget_(std::move(budget)),
      readers_(footage_, decoderThreads, places),
      fillReaders_(footage_, decoderThreads, places),
      passingReader_(footage_, 1, 1) {
  thread_ = std::jthread([this](std::stop_token stop) { work(stop); });
  roomMaker_.emplace(*budget_, [this] {
    const std::scoped_lock lock(mutex_);
    makeRoom();
  });
}

FrameFeed::FrameFeed(std::shared_ptr<const Footage> footage, std::shared_ptr<MemoryBudget> budget, std::shared_ptr<HeldFrames> held)
    : footage_(std::move(footage)),
      budget_(std::move(budget)),
      given_(std::move(held)),
      idle_(true),
      readers_(footage_, 1, 1),
      fillReaders_(footage_, 1, 1),
      passingReader_(footage_, 1, 1) {}

FrameFeed::~FrameFeed() {
  if (given_) return;
  roomMaker_.reset();
  {
    const std::scoped_lock lock(mutex_);
    for (Demand* demand : demands_) demand->abandoned.request_stop();
  }
  thread_.request_stop();
  thread_.join();
  budget_->remove(held_);
}

PictureShape FrameFeed::shapeAt(int scale) const {
  return shapeAtScale(footage_->shape(), scale);
}

std::size_t FrameFeed::frameBytes(int scale) const {
  // The larger of the two: blocks hang further over the edges.
  return FrameLayout(shapeAt(scale), Layout::Blocks).frameBytes();
}

void FrameFeed::setBudget(std::size_t bytes) {
  const std::scoped_lock lock(mutex_);
  budget_->setLimit(bytes);
  makeRoom();
  wake();
}

void FrameFeed::makeRoom() {
  while (!budget_->fits(0) && !order_.empty()) drop(entries_.find(order_.front()));
}

std::uint64_t FrameFeed::decoded() const {
  const std::scoped_lock lock(mutex_);
  return decoded_;
}

std::size_t FrameFeed::framesThatFit(int scale) const {
  if (given_) return std::size_t(1) << 24;
  const std::scoped_lock lock(mutex_);
  const std::size_t others = budget_->used() - std::min(held_, budget_->used());
  const std::size_t room = budget_->limit() - std::min(others, budget_->limit());
  // Two frames stay with the decoder.
  const std::size_t fit = room / frameBytes(scale);
  return std::max<std::size_t>(2, fit > 4 ? fit - 2 : 2);
}

std::int32_t FrameFeed::toBeDecoded(std::span<const std::int32_t> frames, int scale) const {
  if (given_) return 0;
  std::vector<std::int32_t> missing;
  {
    const std::scoped_lock lock(mutex_);
    std::copy_if(frames.begin(), frames.end(), std::back_inserter(missing),
                 [&](std::int32_t frame) { return !entries_.contains({frame, scale}); });
  }
  std::int32_t most = 0;
  for (const std::int32_t frame : missing) most = std::max(most, frame - footage_->startOf(frame) + 1);
  return most;
}

bool FrameFeed::has(std::span<const std::int32_t> frames, int scale) const {
  if (given_) return true;
  const std::scoped_lock lock(mutex_);
  return std::all_of(frames.begin(), frames.end(), [&](auto n) { return entries_.contains({n, scale}); });
}

Result<FrameTable> FrameFeed::fetchUntil(std::optional<std::chrono::steady_clock::time_point> due,
                                         std::span<const std::int32_t> frames, int scale, std::optional<Layout> layout,
                                         std::stop_token stop, Urgency urgency) {
  if (given_) return given_->table(frames, scale, layout);
  if (urgency == Urgency::AtOnce) return roughly(frames, scale, layout);
  Demand demand{0, frames, scale, layout.value_or(Layout::Rows), {}, 0, {}, {}, urgency};
  const std::stop_callback whenStopped(stop, [&] { demand.abandoned.request_stop(); });
  {
    std::unique_lock lock(mutex_);
    demand.number = ++demandNumber_;
    if (!takeFromMemory(demand)) {
      if (due && *due <= std::chrono::steady_clock::now()) return cancelledError();
      if (urgency == Urgency::Shown) beside_.request_stop();
      demands_.push_back(&demand);
      wake();
      const auto over = [&] {
        return demand.failed || demand.firstMissing == demand.frames.size() || demand.abandoned.stop_requested();
      };
      if (due)
        changed_.wait_until(lock, stop, *due, over);
      else
        changed_.wait(lock, stop, over);
      std::erase(demands_, &demand);
      if (demand.failed) return *demand.failed;
      if (demand.firstMissing < demand.frames.size()) return cancelledError();
    }
  }
  if (layout) relay(demand.table, scale, *layout);
  return std::move(demand.table);
}

/// With the lock held: the held frame that is nearest to one, if it is no farther than `within`.
std::optional<std::int32_t> FrameFeed::nearestHeld(std::int32_t frame, std::int32_t within, int scale) const {
  std::optional<std::int32_t> nearest;
  for (auto at = entries_.lower_bound({frame - within, 0}); at != entries_.end() && at->first.frame <= frame + within; ++at)
    if (at->first.scale == scale && (!nearest || std::abs(at->first.frame - frame) < std::abs(*nearest - frame)))
      nearest = at->first.frame;
  return nearest;
}

Result<FrameTable> FrameFeed::roughly(std::span<const std::int32_t> frames, int scale, std::optional<Layout> layout) {
  if (given_) return given_->table(frames, scale, layout);
  const std::scoped_lock one(starting_);
  FrameTable table;
  int started = 0;
  for (const std::int32_t frame : frames) {
    const std::int32_t start = footage_->startOf(frame);
    FrameTable::Held held;
    {
      const std::scoped_lock lock(mutex_);
      const auto within = started < mostStarts ? std::abs(frame - start) : static_cast<std::int32_t>(footage_->clock().frameCount());
      if (const auto nearest = nearestHeld(frame, within, scale)) held = entries_.at({*nearest, scale}).held;
    }
    if (!held) {
      if (!starts_) {
        auto reader = footage_->newReader(1);
        if (!reader) return reader.error();
        starts_ = std::move(*reader);
      }
      auto read = starts_->readStart(frame);
      if (!read) return read.error();
      ++started;
      for (int at = 1; at < scale; at *= 2) *read = halved(*read);
      held = stored(*read, scale, layout.value_or(Layout::Rows));
      const std::scoped_lock lock(mutex_);
      keep({start, scale}, held, false);
    }
    table.put(frame, std::move(held));
  }
  if (!layout) return table;
  // One mostly stands for many: it is laid anew once.
  std::map<const StoredFrame*, FrameTable::Held> laid;
  for (const std::int32_t frame : frames) {
    const StoredFrame* const held = table.find(frame);
    if (held->layout().kind() == *layout) continue;
    FrameTable::Held& other = laid[held];
    if (!other) other = stored(held->picture(), scale, *layout);
    table.put(frame, other);
  }
  return table;
}

/// The one that the clip is filled in at, if that is not much too small; else the smallest that is large enough.
int FrameFeed::scaleFor(Size size) const {
  constexpr int smallest = 8;
  const auto enough = [&](int scale, int share) {
    const Size there = shapeAt(scale).size;
    return there.width * share >= size.width && there.height * share >= size.height;
  };
  if (const int filling = fillScale(); filling > 0 && enough(filling, 2)) return filling;
  int scale = 1;
  while (scale < smallest && enough(scale * 2, 1)) scale *= 2;
  return scale;
}

Result<Picture> FrameFeed::glimpse(std::int32_t frame, Size size, std::stop_token stop) {
  const std::array frames{frame};
  const auto table = fetch(frames, scaleFor(size), {}, std::move(stop), Urgency::Passing);
  if (!table) return table.error();
  return table->begin()->second->picture();
}

/// Frames that lie in memory in another way than is wanted are laid anew, for good.
void FrameFeed::relay(FrameTable& table, int scale, Layout layout) {
  std::vector<std::pair<std::int32_t, FrameTable::Held>> other;
  for (const auto& [frame, held] : table)
    if (held->layout().kind() != layout) other.emplace_back(frame, held);
  if (other.empty()) return;
  parallelRows(static_cast<int>(other.size()), 1, [&](int from, int to) {
    for (int i = from; i < to; ++i) {
      auto& [frame, held] = other[static_cast<std::size_t>(i)];
      held = stored(held->picture(), scale, layout);
    }
  });
  const std::scoped_lock lock(mutex_);
  for (const auto& [frame, held] : other) {
    table.put(frame, held);
    if (const auto at = entries_.find({frame, scale}); at != entries_.end()) {
      drop(at);
      keep({frame, scale}, held, true);
    }
  }
}

void FrameFeed::prefetch(std::vector<std::int32_t> frames, int scale, Layout layout) {
  if (given_) return;
  const std::scoped_lock lock(mutex_);
  expected_ = std::move(frames);
  expectedScale_ = scale;
  expectedLayout_ = layout;
  wake();
}

void FrameFeed::wake() {
  idle_ = false;
  changed_.notify_all();
}

void FrameFeed::waitUntilIdle() {
  std::unique_lock lock(mutex_);
  changed_.wait(lock, [&] { return idle_; });
}

void FrameFeed::fillFrom(int scale) {
  if (given_) return;
  const auto clip = static_cast<std::size_t>(footage_->clock().frameCount());
  const std::scoped_lock lock(mutex_);
  while (scale <= 8 && frameBytes(scale) * clip > budget_->limit() / 2) scale *= 2;
  if (scale > 8) scale = 0;
  if (scale == fillScale_) return;
  fillScale_ = scale;
  fillNext_ = 0;
  wake();
}

void FrameFeed::rest(bool on) {
  const std::scoped_lock lock(mutex_);
  resting_ = on;
  wake();
}

int FrameFeed::fillScale() const {
  const std::scoped_lock lock(mutex_);
  return fillScale_;
}

double FrameFeed::filled() const {
  const std::scoped_lock lock(mutex_);
  return static_cast<double>(fillNext_) / static_cast<double>(footage_->clock().frameCount());
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
    demand.table.put(frame, at->second.held);
  }
  demand.firstMissing = missing;
  return missing == demand.frames.size();
}

bool FrameFeed::expected(Key key) const {
  return key.scale == expectedScale_ && std::find(expected_.begin(), expected_.end(), key.frame) != expected_.end();
}

FrameTable::Held FrameFeed::stored(const Picture& picture, int scale, Layout layout) {
  std::shared_ptr<TileStore> store;
  {
    const std::scoped_lock lock(mutex_);
    auto& known = stores_[{scale, layout}];
    if (!known) known = std::make_shared<TileStore>(FrameLayout(shapeAt(scale), layout));
    store = known;
  }
  auto frame = std::make_shared<StoredFrame>(store);
  frame->keep(picture, {});
  return frame;
}

void FrameFeed::drop(std::map<Key, Entry>::iterator at) {
  const std::size_t bytes = at->second.held->layout().frameBytes();
  budget_->remove(bytes);
  held_ -= bytes;
  order_.erase(at->second.order);
  entries_.erase(at);
}

void FrameFeed::keep(Key key, const FrameTable::Held& held, bool wanted) {
  if (entries_.contains(key)) return;
  const std::size_t bytes = held->layout().frameBytes();
  // Room is made from what was used longest ago. What is expected soon gives way only to what is wanted now.
  for (auto at = order_.begin(); !budget_->fits(bytes) && at != order_.end();) {
    const Key oldest = *at++;
    if (wanted || !expected(oldest)) drop(entries_.find(oldest));
  }
  if (!budget_->fits(bytes)) return;
  budget_->add(bytes);
  held_ += bytes;
  const auto order = order_.insert(order_.end(), key);
  entries_.emplace(key, Entry{held, order});
}

/// In which forms what is decoded for a task stays, if there is room: nothing that is decoded while nobody waits is decoded
/// once more to be filled in. Whoever asks in passing leaves nothing but that.
std::vector<std::pair<int, Layout>> FrameFeed::formsToKeep(const Task& task) const {
  std::vector<std::pair<int, Layout>> forms;
  if (!task.demand || task.demand->urgency != Urgency::Passing) forms.emplace_back(task.scale, task.layout);
  if (task.demand && task.demand->urgency == Urgency::Shown) return forms;
  if (fillScale_ > 0 && (forms.empty() || fillScale_ != task.scale) && budget_->fits(frameBytes(fillScale_) * 4))
    forms.emplace_back(fillScale_, Layout::Rows);
  return forms;
}

/// A frame came from the decoder, or in a larger scale from memory: to everyone who waits for it, and into memory.
void FrameFeed::arrived(std::int32_t frame, const Picture& picture, int ownScale,
                        std::vector<std::pair<int, Layout>> forms) {
  const bool passed = forms.empty();  // nobody keeps it
  const auto waits = [&](const Demand& demand) {
    return std::binary_search(demand.frames.begin(), demand.frames.end(), frame) && !demand.table.has(frame);
  };
  const auto among = [](const auto& some, int scale) {
    return std::any_of(some.begin(), some.end(), [&](auto& form) { return form.first == scale; });
  };
  const auto kept = forms;
  {
    const std::scoped_lock lock(mutex_);
    if (ownScale == 1) ++decoded_;
    for (const Demand* demand : demands_)
      if (!among(forms, demand->scale) && ((demand->urgency != Urgency::Passing && !passed) || waits(*demand)))
        forms.emplace_back(demand->scale, demand->layout);
    std::erase_if(forms, [&](auto& form) { return form.first < ownScale || entries_.contains({frame, form.first}); });
  }
  for (const auto& [s, l] : forms) {
    Picture small = picture;
    for (int at = ownScale; at < s; at *= 2) small = halved(small);
    const auto held = stored(small, s, l);
    const std::scoped_lock lock(mutex_);
    bool wanted = false, lasts = among(kept, s);
    for (Demand* demand : demands_) {
      if (demand->scale != s) continue;
      lasts |= demand->urgency != Urgency::Passing && (!passed || waits(*demand));
      if (!waits(*demand)) continue;
      demand->table.put(frame, held);
      wanted |= demand->urgency != Urgency::Passing;
    }
    if (lasts) keep({frame, s}, held, wanted);
  }
}

std::optional<std::int32_t> FrameFeed::nextExpected() {
  if (resting_) return std::nullopt;
  const std::size_t bytes = frameBytes(expectedScale_);
  const std::size_t others = budget_->used() - std::min(held_, budget_->used());
  std::size_t held = others;
  for (const std::int32_t frame : expected_) {
    held += bytes;
    // Expecting more than fits would push out what comes first.
    if (held + 2 * bytes > budget_->limit()) return std::nullopt;
    if (!entries_.contains({frame, expectedScale_})) return frame;
  }
  return std::nullopt;
}

std::optional<std::int32_t> FrameFeed::nextToFill() {
  if (fillScale_ == 0 || resting_) return std::nullopt;
  const auto count = static_cast<std::int32_t>(footage_->clock().frameCount());
  while (fillNext_ < count && entries_.contains({fillNext_, fillScale_})) ++fillNext_;
  // Nothing else makes room for it.
  if (fillNext_ >= count || !budget_->fits(frameBytes(fillScale_) * 4)) return std::nullopt;
  return fillNext_;
}

/// The newest demand comes first, then what is expected, then the whole clip.
std::optional<FrameFeed::Task> FrameFeed::nextDemanded(Urgency urgency) {
  for (auto it = demands_.rbegin(); it != demands_.rend(); ++it) {
    Demand& demand = **it;
    if (demand.urgency != urgency || demand.failed || demand.abandoned.stop_requested()) continue;
    if (takeFromMemory(demand)) {
      changed_.notify_all();
      continue;
    }
    return Task{demand.frames[demand.firstMissing], demand.scale, demand.layout, &demand, false};
  }
  return std::nullopt;
}

std::optional<FrameFeed::Task> FrameFeed::nextTask() {
  if (auto shown = nextDemanded(Urgency::Shown)) return shown;
  if (const auto frame = nextExpected()) return Task{*frame, expectedScale_, expectedLayout_, nullptr, false};
  for (const Urgency beside : {Urgency::Background, Urgency::Passing})
    if (auto demanded = nextDemanded(beside)) return demanded;
  if (const auto frame = nextToFill()) return Task{*frame, fillScale_, Layout::Rows, nullptr, true};
  return std::nullopt;
}

void FrameFeed::work(std::stop_token stop) {
  std::unique_lock lock(mutex_);
  while (!stop.stop_requested()) {
    const std::optional<Task> task = nextTask();
    if (!task) {
      idle_ = true;
      changed_.notify_all();
      changed_.wait(lock, stop, [&] { return !idle_; });
      continue;
    }
    try {
      decode(*task, stop, lock);
    } catch (...) {
      const Error thrown = thrownError();
      if (!lock.owns_lock()) lock.lock();
      // Nothing is expected any more; who waits is told.
      expected_.clear();
      fillScale_ = 0;
      for (Demand* waiting : demands_) waiting->failed = thrown;
    }
    for (Demand* waiting : demands_) takeFromMemory(*waiting);
    changed_.notify_all();
  }
}

/// With the lock held before and after, not during the work.
void FrameFeed::decode(const Task& task, std::stop_token stop, std::unique_lock<std::mutex>& lock) {
  // A frame held larger than it is wanted needs no decoding.
  const auto large = entries_.lower_bound({task.frame, 1});
  if (large != entries_.end() && large->first.frame == task.frame && large->first.scale < task.scale) {
    const FrameTable::Held held = large->second.held;
    const int heldScale = large->first.scale;
    const auto forms = formsToKeep(task);
    lock.unlock();
    arrived(task.frame, held->picture(), heldScale, forms);
    lock.lock();
    return;
  }
  const bool gives = !task.demand || task.demand->urgency != Urgency::Shown,
             passes = task.filling || (task.demand && task.demand->urgency == Urgency::Passing);
  std::stop_source called;
  const std::stop_callback whenAbandoned(task.demand ? task.demand->abandoned.get_token() : stop,
                                         [&] { called.request_stop(); });
  beside_ = gives ? called : std::stop_source(std::nostopstate);
  const std::vector<std::pair<int, Layout>> forms = formsToKeep(task);
  ReaderPool& readers = !passes ? readers_ : fillScale_ > 0 ? fillReaders_ : passingReader_;
  const std::uint64_t number = task.demand ? task.demand->number : 0;
  // Who waits before the screen waits for no more than it takes.
  const bool shown = task.demand && task.demand->urgency == Urgency::Shown;
  readers.passOver(shown ? near : 0);
  lock.unlock();
  const auto got = readers.read(
      task.frame,
      [&](std::int32_t n, const Picture& picture) {
        arrived(n, picture, 1, shown && n < task.frame - near ? std::vector<std::pair<int, Layout>>() : forms);
      },
      called.get_token());
  lock.lock();
  beside_ = std::stop_source(std::nostopstate);
  const bool alive =
      task.demand && std::any_of(demands_.begin(), demands_.end(), [&](auto* d) { return d->number == number; });
  if (got && alive && !task.demand->table.has(task.frame)) {
    // A damaged frame: another one stands in for it.
    lock.unlock();
    arrived(task.frame, *got, 1, forms);
    lock.lock();
  } else if (!got && !got.error().cancelled) {
    if (alive) task.demand->failed = got.error();
    if (!task.demand) expected_.clear();
    if (task.filling) fillNext_ = static_cast<std::int32_t>(footage_->clock().frameCount());
  }
  const bool calledOff = !got && got.error().cancelled;
  // What did not stay, though nobody waited for it: no use to try again.
  if (!task.demand && !calledOff && !entries_.contains({task.frame, task.scale})) {
    std::erase(expected_, task.frame);
    if (task.filling && fillNext_ == task.frame) ++fillNext_;
  }
}

}  // namespace molten
