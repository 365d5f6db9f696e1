#pragma once
// The bytes that the engine may hold: decoded frames, flows, prepared pictures, all together.

#include <atomic>
#include <cstddef>
#include <memory>
#include <utility>

namespace molten {

/// Counts; nobody is refused. Those who hold what can be had again (the frame feed) make room for those who cannot
/// wait. Thread-safe. In bytes.
class MemoryBudget {
 public:
  explicit MemoryBudget(std::size_t limit) : limit_(limit) {}

  std::size_t limit() const { return limit_; }
  void setLimit(std::size_t bytes) { limit_ = bytes; }
  std::size_t used() const { return used_; }
  bool fits(std::size_t more) const { return used_ + more <= limit_; }
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

 private:
  std::atomic<std::size_t> limit_, used_ = 0;
};

}  // namespace molten
