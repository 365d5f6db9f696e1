#pragma once
// The bytes that the engine may hold: decoded frames, flows, prepared pictures, all together. A process has one; what
// reads footage for a purpose of its own (a field, a seam, pictures of starters) takes a part of it.

#include <atomic>
#include <algorithm>
#include <cstddef>
#include <functional>
#include <map>
#include <memory>
#include <mutex>
#include <utility>

namespace molten {

/// Counts; nobody is refused. Those who hold what can be had again (the frame feed) make room for those who cannot
/// wait. Thread-safe. In bytes.
class MemoryBudget {
 public:
  explicit MemoryBudget(std::size_t limit) : limit_(limit) {}
  MemoryBudget(const MemoryBudget&) = delete;
  MemoryBudget& operator=(const MemoryBudget&) = delete;

  std::size_t limit() const { return limit_; }
  void setLimit(std::size_t bytes) { limit_ = bytes; }
  std::size_t used() const { return used_; }
  bool fits(std::size_t more) const { return used_ + more <= limit_; }
  std::size_t room() const { return limit_ - std::min(used_.load(), limit_.load()); }
  void add(std::size_t bytes) { used_ += bytes; }
  void remove(std::size_t bytes) { used_ -= bytes; }

  /// Bytes counted for as long as it lives.
  class Lease {
   public:
    Lease() = default;
    Lease(std::shared_ptr<MemoryBudget> budget, std::size_t bytes) : budget_(std::move(budget)), bytes_(bytes) {
      budget_->add(bytes_);
    }
    Lease(Lease&& other) noexcept { swap(other); }
    Lease& operator=(Lease&& other) noexcept {
      swap(other);
      return *this;
    }
    ~Lease() {
      if (budget_) budget_->remove(bytes_);
    }

   private:
    void swap(Lease& other) {
      std::swap(budget_, other.budget_);
      std::swap(bytes_, other.bytes_);
    }
    std::shared_ptr<MemoryBudget> budget_;
    std::size_t bytes_ = 0;
  };

  /// A budget of `bytes`, or half of what other parts have left of the whole if that is less. Its limit counts as used
  /// in the whole for as long as it lives, whatever is held under it; whoever said that it can make room there does so
  /// at once.
  static std::shared_ptr<MemoryBudget> part(const std::shared_ptr<MemoryBudget>& whole, std::size_t bytes) {
    const std::scoped_lock lock(whole->mutex_);
    const std::size_t limit = whole->limit();
    auto part = std::make_shared<MemoryBudget>(std::min(bytes, (limit - std::min(whole->parts_, limit)) / 2));
    part->whole_ = whole;
    part->taken_ = part->limit();
    whole->parts_ += part->taken_;
    whole->add(part->taken_);
    for (const auto& [key, makeRoom] : whole->roomMakers_) makeRoom();
    return part;
  }
  ~MemoryBudget() {
    if (!whole_) return;
    const std::scoped_lock lock(whole_->mutex_);
    whole_->parts_ -= taken_;
    whole_->remove(taken_);
  }
  /// While it lives, whoever it was made for makes room when a part is taken; once it is gone, that is not called any more.
  /// The budget outlives it.
  class RoomMaker {
   public:
    RoomMaker() = default;
    RoomMaker(MemoryBudget& budget, std::function<void()> makeRoom) : budget_(&budget) {
      const std::scoped_lock lock(budget.mutex_);
      budget.roomMakers_.emplace(this, std::move(makeRoom));
    }
    RoomMaker(const RoomMaker&) = delete;
    RoomMaker& operator=(const RoomMaker&) = delete;
    ~RoomMaker() {
      if (!budget_) return;
      const std::scoped_lock lock(budget_->mutex_);
      budget_->roomMakers_.erase(this);
    }

   private:
    MemoryBudget* budget_ = nullptr;
  };

 private:
  std::atomic<std::size_t> limit_, used_ = 0;
  std::mutex mutex_;
  std::map<const RoomMaker*, std::function<void()>> roomMakers_;  ///< each lets go of what can be had again until all fits
  std::size_t parts_ = 0;                ///< taken by parts that live
  std::shared_ptr<MemoryBudget> whole_;  ///< that this is a part of
  std::size_t taken_ = 0;                ///< of it
};

}  // namespace molten
