#pragma once
// How loud a band of a sound is from moment to moment, for values that follow it.

#include <cstdint>
#include <map>
#include <memory>
#include <mutex>
#include <vector>

#include "core/sound/sound.h"

namespace molten {

/// In Hz; 0: no end on that side.
struct Band {
  double low = 0, high = 0;
  friend bool operator==(const Band&, const Band&) = default;
};

/// 0 at −60 dB and below, 1 at full scale, evenly in decibels between; a sine of full scale has 1. What is heard within 21 ms
/// either way counts, by Hann's window. A moment's loudness is the same whatever was asked for before. Thread-safe; reads what it
/// is asked about, and keeps what it found.
class LoudnessCourse {
 public:
  LoudnessCourse(std::shared_ptr<const SoundSource> source, Band band);
  /// At so many seconds of the sound: it rises no faster than from 0 to 1 within `attack` seconds, and falls no faster than from 1
  /// to 0 within `release`. NaN: the sound cannot be read.
  double at(double seconds, double attack, double release) const;

 private:
  using Levels = std::vector<float>;
  /// Of the moments number × 10 ms.
  double level(std::int64_t number) const;
  double limited(std::int64_t number, std::int64_t attack, std::int64_t release) const;
  std::shared_ptr<const Levels> block(std::int64_t number) const;

  std::shared_ptr<const SoundSource> source_;
  Band band_;
  mutable std::mutex mutex_;
  mutable std::map<std::int64_t, std::shared_ptr<const Levels>> known_;  ///< by block; nullptr: it cannot be read
};

}  // namespace molten
