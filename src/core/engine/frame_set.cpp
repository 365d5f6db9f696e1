#include "core/engine/frame_set.h"

namespace molten {

void FrameSet::add(FrameInterval more) {
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

void FrameSet::fillSmallestGap() {
  std::size_t least = 0;
  const auto gap = [&](std::size_t i) { return std::int64_t(stretches_[i + 1].first) - stretches_[i].last; };
  for (std::size_t i = 1; i + 1 < stretches_.size(); ++i)
    if (gap(i) < gap(least)) least = i;
  stretches_[least].last = stretches_[least + 1].last;
  stretches_.erase(stretches_.begin() + static_cast<std::ptrdiff_t>(least) + 1);
}

}  // namespace molten
