#pragma once
// Sounds made for tests.

#include <cmath>
#include <functional>
#include <random>

#include "core/sound/sound.h"

namespace molten::test {

/// What a function says of a sample and a channel, without end.
class MadeSound : public SoundSource {
 public:
  using Value = std::function<double(double sample, int channel)>;
  explicit MadeSound(Value value) : value_(std::move(value)) {}
  Status read(std::int64_t first, Sound& out, std::stop_token) const override {
    for (std::size_t i = 0; i < out.samples(); ++i)
      for (int c = 0; c < soundChannels; ++c)
        out.at(i, c) = static_cast<float>(value_(static_cast<double>(first + static_cast<std::int64_t>(i)), c));
    return {};
  }

 private:
  Value value_;
};

/// Noise that is the same wherever it is asked for.
inline MadeSound noiseSound(std::uint32_t seed) {
  return MadeSound([seed](double sample, int channel) {
    std::minstd_rand random(seed + static_cast<std::uint32_t>(static_cast<std::int64_t>(sample) * 2 + channel) * 2654435761u);
    random.discard(3);
    return std::uniform_real_distribution<>(-0.9, 0.9)(random);
  });
}

/// A tone, a little softer on the right.
inline MadeSound tone(double hertz, double amplitude = 0.5) {
  return MadeSound([=](double sample, int channel) {
    return amplitude * (channel == 0 ? 1 : 0.5) * std::sin(2 * M_PI * hertz * sample / soundRate);
  });
}

/// Of a channel, what is left when the best sine of that frequency is taken away, against that sine; in decibels.
inline double besideTone(const Sound& sound, double hertz, int channel = 0) {
  double ss = 0, cc = 0, sc = 0, xs = 0, xc = 0, xx = 0;
  for (std::size_t i = 0; i < sound.samples(); ++i) {
    const double at = 2 * M_PI * hertz * static_cast<double>(i) / soundRate, s = std::sin(at), c = std::cos(at);
    const double x = sound.at(i, channel);
    ss += s * s, cc += c * c, sc += s * c, xs += x * s, xc += x * c, xx += x * x;
  }
  const double by = ss * cc - sc * sc, a = (xs * cc - xc * sc) / by, b = (xc * ss - xs * sc) / by;
  const double fitted = a * xs + b * xc;
  return 10 * std::log10(std::max(xx - fitted, 1e-30) / std::max(fitted, 1e-30));
}

/// The frequency of a tone: that at which the least is left.
inline double hertzOf(const Sound& sound, double least, double most, int channel = 0) {
  // The main lobe of so short a stretch is narrower than the search's first steps: those first, then by thirds.
  const double lobe = static_cast<double>(soundRate) / static_cast<double>(sound.samples());
  double best = least, bestLeft = 1e9;
  for (double hertz = least; hertz <= most; hertz += lobe / 8)
    if (const double left = besideTone(sound, hertz, channel); left < bestLeft) best = hertz, bestLeft = left;
  double low = best - lobe / 8, high = best + lobe / 8;
  for (int i = 0; i < 60; ++i) {
    const double a = low + (high - low) / 3, b = high - (high - low) / 3;
    (besideTone(sound, a, channel) < besideTone(sound, b, channel) ? high : low) = besideTone(sound, a, channel) < besideTone(sound, b, channel) ? b : a;
  }
  return (low + high) / 2;
}

inline double levelOf(const Sound& sound) {
  double sum = 0;
  for (const float value : sound.values()) sum += static_cast<double>(value) * value;
  return std::sqrt(sum / static_cast<double>(std::max<std::size_t>(1, sound.values().size())));
}

/// The largest step from a sample to the next.
inline double largestStep(const Sound& sound) {
  double most = 0;
  for (std::size_t i = 1; i < sound.samples(); ++i)
    for (int c = 0; c < soundChannels; ++c)
      most = std::max(most, std::abs(static_cast<double>(sound.at(i, c)) - sound.at(i - 1, c)));
  return most;
}

}  // namespace molten::test
