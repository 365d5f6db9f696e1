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

  void add(FrameInterval more) {
    if (more.last < more.first) return;
    std::size_t at = 0;
    while (at < stretches_.size() && std::int64_t(stretches_[at].last) + 1 < more.first) ++at;
    std::size_t end = at;
    for (; end < stretches_.size() && stretches_[end].first <= std::int64_t(more.last) + 1; ++end) {
      if (stretches_[end].first < more.first) more.first = stretches_[end].first;
      if (stretches_[end].last > more.last) more.last = stretches_[end].last;
    }
    const auto begin = stretches_.begin();
    if (end > at) {
      stretches_[at] = more;
      stretches_.erase(begin + static_cast<std::ptrdiff_t>(at) + 1, begin + static_cast<std::ptrdiff_t>(end));
    } else {
      stretches_.insert(begin + static_cast<std::ptrdiff_t>(at), more);
      if (stretches_.size() > mostStretches) fillSmallestGap();
    }
  }
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
  void fillSmallestGap() {
    std::size_t least = 0;
    const auto gap = [&](std::size_t i) { return std::int64_t(stretches_[i + 1].first) - stretches_[i].last; };
    for (std::size_t i = 1; i + 1 < stretches_.size(); ++i)
      if (gap(i) < gap(least)) least = i;
    stretches_[least].last = stretches_[least + 1].last;
    stretches_.erase(stretches_.begin() + static_cast<std::ptrdiff_t>(least) + 1);
  }

  std::vector<FrameInterval> stretches_;
};

}  // namespace molten
