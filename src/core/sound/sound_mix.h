#pragma once
// Sounds side by side: each placed, trimmed, repeated, made louder or softer, faded in and out.

#include <functional>
#include <memory>
#include <vector>

#include "core/sound/sound.h"

namespace molten {

/// A sound on the result's time. Times are in samples.
struct PlacedSound {
  std::shared_ptr<const SoundSource> source;
  std::int64_t at = 0;         ///< of the result, where it begins
  std::int64_t from = 0;       ///< of the source, that is heard first
  std::int64_t round = 0;      ///< of the source, that is heard before it begins again; 0: it does not
  std::int64_t length = 0;     ///< of all of it
  float gain = 1;              ///< a factor
  std::function<double(double seconds)> moreGain = nullptr;  ///< likewise, by the result's time; none: 1
  std::int64_t fadeIn = 0, fadeOut = 0;
};

/// The sum of some.
class SoundMix : public SoundSource {
 public:
  explicit SoundMix(std::vector<PlacedSound> sounds) : sounds_(std::move(sounds)) {}
  Status read(std::int64_t first, Sound& out, std::stop_token stop) const override;

 private:
  std::vector<PlacedSound> sounds_;
};

/// A sound as a factor of its samples, and back. −∞ is silent.
double factorOf(double decibels);
double decibelsOf(double factor);

}  // namespace molten
