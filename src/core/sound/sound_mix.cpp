#include "core/sound/sound_mix.h"

#include <algorithm>
#include <cmath>

#include "core/sound/tape.h"

namespace molten {
namespace {

/// So often a gain that moves is asked for; between two of those it goes evenly.
constexpr std::int64_t gainStep = 64;

/// As loud as a sound is, by its fades, at so many samples from its beginning.
float fadedAt(const PlacedSound& sound, std::int64_t at) {
  float gain = sound.gain;
  if (at < sound.fadeIn) gain *= (static_cast<float>(at) + 0.5f) / static_cast<float>(sound.fadeIn);
  const std::int64_t left = sound.length - 1 - at;
  if (left < sound.fadeOut) gain *= (static_cast<float>(left) + 0.5f) / static_cast<float>(sound.fadeOut);
  return gain;
}

/// The curve of one that goes round; a seam is faded over as any other jump.
SoundCurve roundOf(const PlacedSound& sound) {
  return SoundCurve([from = sound.from, round = sound.round](double seconds) {
    const double at = std::round(seconds * soundRate);
    return (static_cast<double>(from) + std::fmod(at, static_cast<double>(round))) / soundRate;
  });
}

}  // namespace

Status SoundMix::read(std::int64_t first, Sound& out, std::stop_token stop) const {
  std::fill(out.values().begin(), out.values().end(), 0.0f);
  const std::int64_t last = first + static_cast<std::int64_t>(out.samples());
  for (const PlacedSound& sound : sounds_) {
    const std::int64_t begin = std::max(first, sound.at), end = std::min(last, sound.at + sound.length);
    if (begin >= end || sound.gain == 0) continue;
    Sound heard(static_cast<std::size_t>(end - begin));
    const auto read = sound.round > 0 ? tape(roundOf(sound), *sound.source, begin - sound.at, heard, stop)
                                      : sound.source->read(sound.from + begin - sound.at, heard, stop);
    if (!read) return read;
    double now = 1, next = 1;
    for (std::int64_t i = begin; i < end; ++i) {
      float gain = fadedAt(sound, i - sound.at);
      if (sound.moreGain) {
        const std::int64_t within = ((i % gainStep) + gainStep) % gainStep;
        if (within == 0 || i == begin) {
          const double from = static_cast<double>(i - within) / soundRate;
          now = sound.moreGain(from);
          next = sound.moreGain(from + static_cast<double>(gainStep) / soundRate);
        }
        gain *= static_cast<float>(now + (next - now) * (static_cast<double>(within) / gainStep));
      }
      for (int c = 0; c < soundChannels; ++c)
        out.at(static_cast<std::size_t>(i - first), c) += gain * heard.at(static_cast<std::size_t>(i - begin), c);
    }
  }
  return {};
}

double factorOf(double decibels) {
  return std::pow(10, decibels / 20);
}

double decibelsOf(double factor) {
  return 20 * std::log10(factor);
}

}  // namespace molten
