#pragma once
// The sound of one file: decoded where it is asked for, kept under a budget, and its outline.

#include <condition_variable>
#include <functional>
#include <list>
#include <memory>
#include <mutex>
#include <optional>
#include <thread>

#include "core/media/sound_reader.h"
#include "core/memory_budget.h"
#include "core/sound/peaks.h"
#include "core/sound/sound.h"

namespace molten {

/// Gives readers of one sound.
using NewSoundReading = std::function<Result<std::unique_ptr<SoundReading>>()>;

/// Whether a feed makes an outline of its sound.
enum class Outline { No, Yes };

/// Thread-safe. Whoever asks for sound that is not there decodes it, one at a time; the outline is made by a thread of its own
/// that reads the file through once.
class SoundFeed : public SoundSource {
 public:
  /// `beginning`: as SoundReader::open() says.
  static Result<std::shared_ptr<SoundFeed>> open(const std::string& path, std::shared_ptr<MemoryBudget> budget,
                                                 std::optional<Rational> beginning = std::nullopt, Outline outline = Outline::Yes);
  /// Of whatever the readers read; `path` names it.
  static Result<std::shared_ptr<SoundFeed>> of(const std::string& path, const NewSoundReading& newReading, std::shared_ptr<MemoryBudget> budget,
                                               Outline outline);

  const std::string& path() const { return path_; }
  const SoundDescription& description() const { return description_; }
  /// In samples from the beginning: what the file says until its end has been read.
  std::int64_t length() const;
  Status read(std::int64_t first, Sound& out, std::stop_token stop) const override;
  const std::shared_ptr<const Peaks>& peaks() const { return peaks_; }
  /// Returns when the outline is complete, or cannot be; of a feed that makes one. For tests.
  void waitForPeaks() const;
  /// Sentences about what was amiss with what has been read.
  std::vector<std::string> findings() const;

 private:
  struct Kept {
    std::int64_t number;
    std::shared_ptr<const Sound> sound;
    MemoryBudget::Lease lease;
  };
  SoundFeed(std::string path, std::shared_ptr<MemoryBudget> budget, NewSoundReading newReading, std::unique_ptr<SoundReading> reader, Outline outline);
  Result<std::shared_ptr<const Sound>> block(std::int64_t number, std::stop_token stop) const;
  std::shared_ptr<const Sound> held(std::int64_t number) const;
  void readThrough(std::stop_token stop);
  Status outlineAll(SoundReading& reader, const std::stop_token& stop);

  const std::string path_;
  const std::shared_ptr<MemoryBudget> budget_;
  const NewSoundReading newReading_;
  const SoundDescription description_;
  std::shared_ptr<Peaks> outline_ = std::make_shared<Peaks>();
  std::shared_ptr<const Peaks> peaks_ = outline_;
  mutable std::mutex reading_;  ///< of the reader
  mutable std::unique_ptr<SoundReading> reader_;
  mutable std::mutex mutex_;    ///< of what follows
  mutable std::list<Kept> kept_;  ///< the newest first
  std::optional<std::int64_t> end_;
  mutable int damaged_ = 0;
  std::optional<Error> failed_;
  bool through_ = false;          ///< it has been read through
  mutable std::condition_variable isThrough_;
  std::jthread thread_;  // last: it stops before the rest goes
};

}  // namespace molten
