#pragma once
// Decoded frames of one piece of footage, in memory under a budget, fetched by a thread of their own.

#include <chrono>
#include <condition_variable>
#include <cstdint>
#include <list>
#include <map>
#include <memory>
#include <mutex>
#include <optional>
#include <span>
#include <stop_token>
#include <thread>
#include <vector>

#include "core/engine/frame_table.h"
#include "core/engine/reader_pool.h"
#include "core/memory_budget.h"

namespace molten {

/// What is shown, and what is looked at beside it: that waits for the other, and gives way to it in the middle of its work.
/// Passing: likewise, and not worth keeping. AtOnce: what is near at hand, instead of what would have to be waited for.
enum class Urgency { Shown, AtOnce, Background, Passing };

/// Frames that are in memory as they come, whoever puts them there. Thread-safe.
class HeldFrames {
 public:
  virtual ~HeldFrames() = default;
  /// One for each of the numbers; `layout`: none: as they lie. Fails if they are not held at this scale.
  virtual Result<FrameTable> table(std::span<const std::int32_t> frames, int scale, std::optional<Layout> layout) = 0;
};

/// Thread-safe. The newest request is served first. A frame is kept at the scales at which it was asked for; scale s
/// is s times smaller each way. Requests, what is prefetched, the clip's small version and the memory that they share are
/// one queue under one lock: hence its thirty-eight methods.
class FrameFeed {
 public:
  /// Makes room whenever a part of the budget is taken.
  FrameFeed(std::shared_ptr<const Footage> footage, std::shared_ptr<MemoryBudget> budget, int decoderThreads);
  /// With a budget of its own.
  FrameFeed(std::shared_ptr<const Footage> footage, std::size_t budgetBytes, int decoderThreads)
      : FrameFeed(std::move(footage), std::make_shared<MemoryBudget>(budgetBytes), decoderThreads) {}
  /// Of frames that need not be decoded: whatever is asked for is there, or is not.
  FrameFeed(std::shared_ptr<const Footage> footage, std::shared_ptr<MemoryBudget> budget, std::shared_ptr<HeldFrames> held);
  ~FrameFeed();

  const Footage& footage() const { return *footage_; }
  const std::shared_ptr<const Footage>& footagePointer() const { return footage_; }
  /// The shape of frames at a scale.
  PictureShape shapeAt(int scale) const;

  /// All the named frames (rising, without repeats). Blocks until they are there, fails if one cannot be had or the
  /// request is called off. The caller keeps the number of frames within framesThatFit(). `layout`: none: as they lie.
  Result<FrameTable> fetch(std::span<const std::int32_t> frames, int scale, std::optional<Layout> layout,
                           std::stop_token stop, Urgency urgency = Urgency::Shown) {
    return fetchUntil(std::nullopt, frames, scale, layout, std::move(stop), urgency);
  }
  /// The same, called off by itself when they are not there in time.
  Result<FrameTable> fetchUntil(std::optional<std::chrono::steady_clock::time_point> due, std::span<const std::int32_t> frames,
                                int scale, std::optional<Layout> layout, std::stop_token stop, Urgency urgency = Urgency::Shown);
  /// The same at once, with Urgency::AtOnce: in place of each frame that is not there the nearest one that is, or that needs
  /// no other to be decoded.
  Result<FrameTable> roughly(std::span<const std::int32_t> frames, int scale, std::optional<Layout> layout);
  /// A frame that is looked at beside what is shown, for a small picture of `size` or a little smaller: as it is at hand
  /// where the clip is filled in.
  Result<Picture> glimpse(std::int32_t frame, Size size, std::stop_token stop);
  /// True if fetch() would have nothing to wait for.
  bool has(std::span<const std::int32_t> frames, int scale) const;
  /// How many frames have to be decoded, at most, for one of those that are not there.
  std::int32_t toBeDecoded(std::span<const std::int32_t> frames, int scale) const;
  /// Frames that will be asked for soon, in that order; replaces what was expected before. Decoded when nothing is
  /// waited for and the budget has room.
  void prefetch(std::vector<std::int32_t> frames, int scale, Layout layout);
  /// When nothing is waited for or expected, the whole clip is decoded once, at `scale` or as much smaller as lets it
  /// fit half of the budget, so that any frame can be shown at once. Nothing is done for a clip that does not fit.
  void fillFrom(int scale);
  /// Nothing is decoded but what is waited for, until that is over.
  void rest(bool on);
  /// The scale at which the clip is being, or has been, filled in; 0: none.
  int fillScale() const;
  /// How much of the clip has been gone through for that: 0…1.
  double filled() const;

  void setBudget(std::size_t bytes);
  /// What all that hold pictures share.
  const std::shared_ptr<MemoryBudget>& budget() const { return budget_; }
  /// How many frames of a scale one request may name.
  std::size_t framesThatFit(int scale) const;
  /// Returns when nothing is waited for, expected or to be filled in, or no more fits. For measuring.
  void waitUntilIdle();
  /// Frames decoded so far, for measuring.
  std::uint64_t decoded() const;

 private:
  struct Key {
    std::int32_t frame;
    std::int32_t scale;
    friend auto operator<=>(const Key&, const Key&) = default;
  };
  struct Entry {
    FrameTable::Held held;
    std::list<Key>::iterator order;
  };
  struct Demand {
    std::uint64_t number;  ///< tells demands apart for good; their addresses are used again
    std::span<const std::int32_t> frames;
    int scale;
    Layout layout;
    FrameTable table;
    std::size_t firstMissing = 0;
    std::optional<Error> failed;
    std::stop_source abandoned;
    Urgency urgency;
  };
  /// One frame to be had, and who wants it.
  struct Task {
    std::int32_t frame;
    int scale;
    Layout layout;
    Demand* demand = nullptr;
    bool filling = false;
  };

  void work(std::stop_token stop);
  std::optional<Task> nextTask();
  std::optional<Task> nextDemanded(Urgency urgency);
  std::optional<std::int32_t> nextExpected();
  std::optional<std::int32_t> nextToFill();
  void decode(const Task& task, std::stop_token stop, std::unique_lock<std::mutex>& lock);
  bool takeFromMemory(Demand& demand);
  /// `forms`: that it is to be kept in, whoever waits for it.
  void arrived(std::int32_t frame, const Picture& picture, int ownScale, std::vector<std::pair<int, Layout>> forms);
  std::vector<std::pair<int, Layout>> formsToKeep(const Task& task) const;
  int scaleFor(Size size) const;
  std::optional<std::int32_t> nearestHeld(std::int32_t frame, std::int32_t within, int scale) const;
  FrameTable::Held stored(const Picture& picture, int scale, Layout layout);
  void keep(Key key, const FrameTable::Held& held, bool wanted);
  void drop(std::map<Key, Entry>::iterator at);
  bool expected(Key key) const;
  /// Something to do, perhaps.
  void wake();
  void makeRoom();
  std::size_t frameBytes(int scale) const;
  void relay(FrameTable& table, int scale, Layout layout);

  std::shared_ptr<const Footage> footage_;
  std::shared_ptr<MemoryBudget> budget_;
  const std::shared_ptr<HeldFrames> given_;  ///< nullptr: frames are decoded
  mutable std::mutex mutex_;
  std::condition_variable_any changed_;
  std::size_t held_ = 0;  ///< bytes of the entries
  std::uint64_t decoded_ = 0, demandNumber_ = 0;
  std::map<Key, Entry> entries_;
  std::list<Key> order_;  ///< least recently used first
  std::map<std::pair<int, Layout>, std::shared_ptr<TileStore>> stores_;
  std::vector<Demand*> demands_;
  std::stop_source beside_{std::nostopstate};  ///< calls off what is decoded for something that is not shown
  std::vector<std::int32_t> expected_;
  int expectedScale_ = 1;
  Layout expectedLayout_ = Layout::Rows;
  bool idle_ = false, resting_ = false;
  int fillScale_ = 0;
  std::int32_t fillNext_ = 0;
  ReaderPool readers_, fillReaders_;
  ReaderPool passingReader_;  ///< of what is wanted in passing where nothing is filled in: it leaves the processor to others
  std::mutex starting_;  ///< of what follows
  std::unique_ptr<FrameReader> starts_;  ///< reads frames that need no other
  std::optional<MemoryBudget::RoomMaker> roomMaker_;
  std::jthread thread_;  // last: it stops before the rest goes
};

}  // namespace molten
