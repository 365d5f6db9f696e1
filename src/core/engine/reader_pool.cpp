#include "core/engine/reader_pool.h"

#include <algorithm>

namespace molten {

Result<Picture> ReaderPool::read(std::int32_t n, const FrameSink& sink, std::stop_token stop) {
  Member* best = nullptr;
  for (Member& member : members_)
    if (member.reader->staysFor(n) && (!best || member.reader->distanceTo(n) < best->reader->distanceTo(n)))
      best = &member;
  if (!best && static_cast<int>(members_.size()) < most_) {
    auto reader = footage_->newReader(decoderThreads_);
    if (!reader) return reader.error();
    members_.push_back({std::move(*reader), 0});
    best = &members_.back();
  }
  // All would have to jump: the one that has been idle for longest does.
  if (!best)
    best = &*std::min_element(members_.begin(), members_.end(), [](auto& a, auto& b) { return a.used < b.used; });
  best->used = ++reads_;
  best->reader->passOver(passOver_);
  return best->reader->read(n, sink, std::move(stop));
}

}  // namespace molten
