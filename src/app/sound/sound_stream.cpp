#include "app/sound/sound_stream.h"

#include <algorithm>

namespace molten {

static_assert(std::atomic<float>::is_always_lock_free && std::atomic<std::int64_t>::is_always_lock_free);

void SoundStream::write(std::int64_t first, std::span<const float> values) {
  const auto count = static_cast<std::int64_t>(values.size()) / soundChannels;
  for (std::int64_t sample = mixed(); sample < first; ++sample)
    for (int c = 0; c < soundChannels; ++c) values_[placeOf(sample) + static_cast<std::size_t>(c)].store(0, std::memory_order_relaxed);
  for (std::int64_t i = 0; i < count; ++i)
    for (int c = 0; c < soundChannels; ++c)
      values_[placeOf(first + i) + static_cast<std::size_t>(c)].store(values[static_cast<std::size_t>(i * soundChannels + c)], std::memory_order_relaxed);
  mixed_.store(first + count, std::memory_order_release);
}

void SoundStream::cutBack(std::int64_t to) {
  mixed_.store(std::min(mixed(), to), std::memory_order_release);
}

void SoundStream::read(std::span<float> out) noexcept {
  const std::int64_t first = given_.load(std::memory_order_relaxed), last = first + static_cast<std::int64_t>(out.size()) / soundChannels;
  // What is still asked for of a run that has ended is nobody's.
  const std::int64_t there = ended_ ? first : std::clamp(mixed(), first, last);
  std::size_t k = 0;
  for (std::int64_t sample = first; sample < there; ++sample)
    for (int c = 0; c < soundChannels; ++c) out[k++] = values_[placeOf(sample) + static_cast<std::size_t>(c)].load(std::memory_order_relaxed);
  std::fill(out.begin() + static_cast<std::ptrdiff_t>(k), out.end(), 0.0f);
  if (ended_) return;
  if (there < last) ++gaps_;
  given_.store(last, std::memory_order_release);
}

float SoundStream::at(std::int64_t sample, int channel) const {
  const std::int64_t until = mixed();
  if (sample < 0 || sample >= until || sample < until - held) return 0;
  return values_[placeOf(sample) + static_cast<std::size_t>(channel)].load(std::memory_order_relaxed);
}

}  // namespace molten
