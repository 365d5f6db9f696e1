#pragma once
// Decoded frames of one piece of footage, in memory under a budget, fetched by a thread of their own.

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
#include <unordered_map>
#include <vector>

#include "core/media/footage.h"
#include "core/picture/convert.h"

namespace molten {

/// Frames held for one use: as long as this lives, so do they.
class FrameTable {
 public:
  void put(std::int32_t frame, Picture picture) { pictures_.insert_or_assign(frame, std::move(picture)); }
  /// The picture, or nullptr if it is not in this table.
  const Picture* find(std::int32_t frame) const {
    const auto at = pictures_.find(frame);
    return at == pictures_.end() ? nullptr : &at->second;
  }
  bool has(std::int32_t frame) const { return pictures_.contains(frame); }
  std::size_t size() const { return pictures_.size(); }

 private:
  std::unordered_map<std::int32_t, Picture> pictures_;
};

/// Thread-safe. The newest request is served first. A frame is kept at the scales at which it was asked for; scale s
/// is s times smaller each way.
class FrameFeed {
 public:
  FrameFeed(std::shared_ptr<const Footage> footage, std::size_t budgetBytes, int decoderThreads);
  ~FrameFeed();

  const Footage& footage() const { return *footage_; }
  /// The shape of frames at a scale.
  PictureShape shapeAt(int scale) const;

  /// All the named frames (rising, without repeats). Blocks until they are there, fails if one cannot be had or the
  /// request is called off. The caller keeps the number of frames within framesThatFit().
  Result<FrameTable> fetch(std::span<const std::int32_t> frames, int scale, std::stop_token stop);
  /// Frames that will be asked for soon, in that order; replaces what was expected before. Decoded when nothing is
  /// waited for and the budget has room.
  void expect(std::vector<std::int32_t> frames, int scale);

  void setBudget(std::size_t bytes);
  std::size_t budget() const;
  std::size_t used() const;
  /// How many frames of a scale one request may name.
  std::size_t framesThatFit(int scale) const;
  /// Frames decoded so far, for measuring.
  std::uint64_t decoded() const;

 private:
  struct Key {
    std::int32_t frame;
    std::int32_t scale;
    friend auto operator<=>(const Key&, const Key&) = default;
  };
  struct Entry {
    Picture picture;
    std::size_t bytes;
    std::list<Key>::iterator order;
  };
  struct Demand {
    std::uint64_t number;  ///< tells demands apart for good; their addresses are used again
    std::span<const std::int32_t> frames;
    int scale;
    FrameTable table;
    std::size_t firstMissing = 0;
    std::optional<Error> failed;
    std::stop_source abandoned;
  };

  void work(std::stop_token stop);
  bool takeFromMemory(Demand& demand);
  void arrived(std::int32_t frame, const Picture& picture, int scale);
  void store(Key key, const Picture& picture, bool wanted);
  bool expected(Key key) const;
  Result<Picture> scaled(const Picture& picture, int scale);
  std::optional<std::int32_t> nextExpected();

  std::shared_ptr<const Footage> footage_;
  const int decoderThreads_;
  mutable std::mutex mutex_;
  std::condition_variable_any changed_;
  std::size_t budget_, used_ = 0;
  std::uint64_t decoded_ = 0, demandNumber_ = 0;
  std::map<Key, Entry> entries_;
  std::list<Key> order_;  ///< least recently used first
  std::vector<Demand*> demands_;
  std::vector<std::int32_t> expected_;
  int expectedScale_ = 1;
  std::unique_ptr<FrameReader> reader_;
  Converter scaler_;
  std::jthread thread_;  // last: it stops before the rest goes
};

}  // namespace molten
