#pragma once
// Which frames are read: a few stretches of them.

#include <cstdint>
#include <vector>

namespace molten {

/// Frames first…last; none if last < first.
struct FrameInterval {
  std::int32_t first = 0, last = -1;
  bool has(std::int32_t frame) const { return frame >= first && frame <= last; }
};

/// Rising stretches that do not touch. Where there would be more than a few, the smallest gaps between them are filled:
/// frames too many, never too few.
class FrameSet {
 public:
  static constexpr std::size_t mostStretches = 8;

  void add(FrameInterval more);
  void add(const FrameSet& more) {
    for (const FrameInterval& stretch : more.stretches_) add(stretch);
  }

  bool has(std::int32_t frame) const {
    for (const FrameInterval& stretch : stretches_)
      if (stretch.has(frame)) return true;
    return false;
  }
  bool empty() const { return stretches_.empty(); }
  /// Requires that it is not empty.
  std::int32_t oldest() const { return stretches_.front().first; }
  std::int32_t newest() const { return stretches_.back().last; }
  auto begin() const { return stretches_.begin(); }
  auto end() const { return stretches_.end(); }
  template <class Visit>
  void each(Visit visit) const {
    for (const FrameInterval& stretch : stretches_)
      for (auto frame = stretch.first; frame <= stretch.last; ++frame) visit(frame);
  }

 private:
  void fillSmallestGap();

  std::vector<FrameInterval> stretches_;
};

}  // namespace molten
