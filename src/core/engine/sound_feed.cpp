#include "core/engine/sound_feed.h"
#include "core/thrown.h"

#include <algorithm>

namespace molten {
namespace {

/// Samples that are decoded and kept together.
constexpr std::int64_t blockSamples = 1 << 16;
/// The part of the budget that decoded sound may take; some of it is kept in any case.
constexpr std::size_t budgetPart = 16, fewestKept = 4;
/// What is read through for the outline at a time.
constexpr std::size_t outlined = 1 << 15;
/// Where a file says nothing of how long it is, nothing is looked for after so many samples: a day.
constexpr std::int64_t longest = std::int64_t(soundRate) * 86400;

std::int64_t blockOf(std::int64_t sample) {
  return sample >= 0 ? sample / blockSamples : -((-sample + blockSamples - 1) / blockSamples);
}

}  // namespace

Result<std::shared_ptr<SoundFeed>> SoundFeed::open(const std::string& path, std::shared_ptr<MemoryBudget> budget,
                                                   std::optional<Rational> beginning, Outline outline) {
  return of(path, [path, beginning]() -> Result<std::unique_ptr<SoundReading>> {
    auto reader = SoundReader::open(path, beginning);
    if (!reader) return reader.error();
    return std::unique_ptr<SoundReading>(std::move(*reader));
  }, std::move(budget), outline);
}

Result<std::shared_ptr<SoundFeed>> SoundFeed::of(const std::string& path, const NewSoundReading& newReading, std::shared_ptr<MemoryBudget> budget,
                                                 Outline outline) {
  auto reader = newReading();
  if (!reader) return reader.error();
  return std::shared_ptr<SoundFeed>(new SoundFeed(path, std::move(budget), newReading, std::move(*reader), outline));
}

SoundFeed::SoundFeed(std::string path, std::shared_ptr<MemoryBudget> budget, NewSoundReading newReading, std::unique_ptr<SoundReading> reader,
                     Outline outline)
    : path_(std::move(path)),
      budget_(std::move(budget)),
      newReading_(std::move(newReading)),
      description_(reader->description()),
      reader_(std::move(reader)) {
  if (outline == Outline::Yes) thread_ = std::jthread([this](std::stop_token stop) { readThrough(stop); });
}

std::int64_t SoundFeed::length() const {
  const std::scoped_lock lock(mutex_);
  return end_.value_or(description_.length);
}

std::shared_ptr<const Sound> SoundFeed::held(std::int64_t number) const {
  const std::scoped_lock lock(mutex_);
  const auto at = std::find_if(kept_.begin(), kept_.end(), [&](const Kept& kept) { return kept.number == number; });
  if (at == kept_.end()) return nullptr;
  kept_.splice(kept_.begin(), kept_, at);
  return at->sound;
}

Result<std::shared_ptr<const Sound>> SoundFeed::block(std::int64_t number, std::stop_token stop) const {
  if (auto sound = held(number)) return sound;
  const std::scoped_lock one(reading_);
  if (auto sound = held(number)) return sound;
  auto sound = std::make_shared<Sound>(static_cast<std::size_t>(blockSamples));
  if (auto read = reader_->read(number * blockSamples, *sound, stop); !read) return read.error();
  const std::size_t bytes = sound->values().size_bytes();
  const std::scoped_lock lock(mutex_);
  damaged_ = std::max(damaged_, reader_->damaged());
  kept_.push_front({number, sound, {budget_, bytes}});
  const std::size_t most = std::max(fewestKept, budget_->limit() / budgetPart / bytes);
  while (kept_.size() > most) kept_.pop_back();
  return std::shared_ptr<const Sound>(sound);
}

Status SoundFeed::read(std::int64_t first, Sound& out, std::stop_token stop) const {
  const std::int64_t last = first + static_cast<std::int64_t>(out.samples());
  for (std::int64_t n = blockOf(first); n * blockSamples < last; ++n) {
    const std::int64_t begin = n * blockSamples;
    const std::int64_t from = std::max(first, begin), to = std::min(last, begin + blockSamples);
    const auto sound = block(n, stop);
    if (!sound) return sound.error();
    std::copy_n((*sound)->values().begin() + (from - begin) * soundChannels, (to - from) * soundChannels,
                out.values().begin() + (from - first) * soundChannels);
  }
  return {};
}

Status SoundFeed::outlineAll(SoundReading& reader, const std::stop_token& stop) {
  Sound sound(outlined);
  for (std::int64_t at = 0; !stop.stop_requested() && at < longest; at += outlined) {
    if (auto read = reader.read(at, sound, stop); !read) return read;
    const auto end = reader.end();
    if (end && *end <= at) break;
    outline_->add(sound);
  }
  return {};
}

void SoundFeed::readThrough(std::stop_token stop) {
  auto reader = orThrown([&] { return newReading_(); });
  const Status read = reader ? orThrown([&] { return outlineAll(**reader, stop); }) : Status(reader.error());
  const std::scoped_lock lock(mutex_);
  if (!read && !read.error().cancelled) failed_ = read.error();
  if (reader) end_ = (*reader)->end(), damaged_ = std::max(damaged_, (*reader)->damaged());
  outline_->finish();
  through_ = true;
  isThrough_.notify_all();
}

void SoundFeed::waitForPeaks() const {
  std::unique_lock lock(mutex_);
  isThrough_.wait(lock, [this] { return through_; });
}

std::vector<std::string> SoundFeed::findings() const {
  const std::scoped_lock lock(mutex_);
  if (failed_) return {failed_->message};
  if (damaged_ == 0) return {};
  return {fileName(path_) + ": " + (damaged_ == 1 ? "a piece" : std::to_string(damaged_) + " pieces") +
          " of its sound cannot be decoded and will be silent."};
}

}  // namespace molten
