#pragma once
// What each whole picture of a stage reads, worked out once.

#include <array>
#include <atomic>
#include <functional>
#include <memory>
#include <mutex>
#include <vector>

#include "core/time/frame_clock.h"

namespace molten {

/// For pictures 0 … length − 1. Worked out a stretch at a time, when first asked for. Safe for several threads.
class MomentTable {
 public:
  using Pick = std::function<FramePick(std::int64_t picture)>;
  MomentTable(std::int64_t length, Pick pick)
      : length_(length), pick_(std::move(pick)), parts_(static_cast<std::size_t>((length + stretch - 1) / stretch)) {}

  const FramePick& at(std::int64_t picture) const {
    std::atomic<Part*>& part = parts_[static_cast<std::size_t>(picture / stretch)].made;
    Part* made = part.load(std::memory_order_acquire);
    if (!made) made = make(picture / stretch);
    return (*made)[static_cast<std::size_t>(picture % stretch)];
  }

 private:
  static constexpr std::int64_t stretch = 1024;
  using Part = std::array<FramePick, stretch>;
  struct Slot {
    std::atomic<Part*> made = nullptr;
    ~Slot() { delete made.load(); }
  };

  Part* make(std::int64_t number) const {
    const std::scoped_lock lock(mutex_);
    std::atomic<Part*>& slot = parts_[static_cast<std::size_t>(number)].made;
    if (Part* const known = slot.load()) return known;
    auto made = std::make_unique<Part>();
    for (std::int64_t i = 0; i < stretch && number * stretch + i < length_; ++i)
      (*made)[static_cast<std::size_t>(i)] = pick_(number * stretch + i);
    slot.store(made.get(), std::memory_order_release);
    return made.release();
  }

  std::int64_t length_;
  Pick pick_;
  mutable std::vector<Slot> parts_;
  mutable std::mutex mutex_;
};

}  // namespace molten
