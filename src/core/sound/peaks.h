#pragma once
// The outline of a sound, for drawing it at every zoom.

#include <array>
#include <cstdint>
#include <mutex>
#include <span>
#include <vector>

#include "core/sound/sound.h"
#include "core/sound/sound_curve.h"

namespace molten {

/// The least and the greatest sample of a stretch, of all channels together. Nothing: least > most.
struct Peak {
  float least = 1, most = -1;
  bool empty() const { return least > most; }
  void take(const Peak& other);
  friend bool operator==(const Peak&, const Peak&) = default;
};

/// Grows as a sound is read through, and is looked at meanwhile: thread-safe. 3 MB an hour.
class Peaks {
 public:
  /// Samples in the smallest stretch that is told apart.
  static constexpr std::int64_t finest = 256;

  /// The samples that follow those added so far.
  void add(const Sound& sound);
  /// Nothing follows.
  void finish();
  /// How many samples were added, and whether they are all.
  std::int64_t samples() const;
  bool complete() const;

  /// For each of `out` a stretch of `apart` samples, the first one from sample `first` on: at least the peak of what lies in
  /// it, at most that of the smallest stretches that it touches. Empty where nothing is, or nothing was added yet.
  void look(double first, double apart, std::span<Peak> out) const;
  /// The same of what is heard along a curve: `first` and `apart` are in samples of the result.
  void lookAlong(const SoundCurve& curve, double first, double apart, std::span<Peak> out) const;

 private:
  /// Of so many stretches of one level one of the next is made.
  static constexpr std::int64_t fold = 16;
  static constexpr std::size_t levels = 4;
  /// Twice full scale is the most that is told.
  struct Kept {
    std::int16_t least, most;
  };
  void keep(const Peak& peak);
  Peak between(std::int64_t first, std::int64_t last) const;

  mutable std::mutex mutex_;
  std::array<std::vector<Kept>, levels> kept_;  ///< the finest first
  Peak gathered_;                               ///< of a stretch that is not full yet
  std::int64_t gatheredSamples_ = 0, samples_ = 0;
  bool complete_ = false;
};

}  // namespace molten
