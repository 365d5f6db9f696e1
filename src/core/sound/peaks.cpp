#include "core/sound/peaks.h"

#include <algorithm>
#include <cmath>

namespace molten {
namespace {

constexpr float fullScale = 16383;

/// A curve is looked at so often within a stretch; what goes faster than that many times is a jump.
constexpr int looks = 4;
constexpr double fastest = 25;

float asFloat(std::int16_t value) {
  return static_cast<float>(value) / fullScale;
}

}  // namespace

void Peak::take(const Peak& other) {
  if (other.empty()) return;
  if (empty())
    *this = other;
  else
    least = std::min(least, other.least), most = std::max(most, other.most);
}

/// With the lock held: a stretch of the finest level, and of those above it what is full by that.
void Peaks::keep(const Peak& peak) {
  const auto whole = [](float value, bool down) {
    const float scaled = std::clamp(value * fullScale, -32767.0f, 32767.0f);
    return static_cast<std::int16_t>(down ? std::floor(scaled) : std::ceil(scaled));
  };
  kept_[0].push_back({whole(peak.least, true), whole(peak.most, false)});
  for (std::size_t level = 1; level < levels && kept_[level - 1].size() % fold == 0; ++level) {
    const auto& below = kept_[level - 1];
    Kept made = below.back();
    for (std::size_t i = below.size() - fold; i < below.size(); ++i)
      made = {std::min(made.least, below[i].least), std::max(made.most, below[i].most)};
    kept_[level].push_back(made);
  }
}

void Peaks::add(const Sound& sound) {
  const std::scoped_lock lock(mutex_);
  for (std::size_t i = 0; i < sound.samples(); ++i) {
    const float left = sound.at(i, 0), right = sound.at(i, 1);
    gathered_.take({std::min(left, right), std::max(left, right)});
    if (++gatheredSamples_ < finest) continue;
    keep(gathered_);
    gathered_ = {};
    gatheredSamples_ = 0;
  }
  samples_ += static_cast<std::int64_t>(sound.samples());
}

void Peaks::finish() {
  const std::scoped_lock lock(mutex_);
  if (gatheredSamples_ > 0) keep(gathered_);
  gatheredSamples_ = 0;
  complete_ = true;
}

std::int64_t Peaks::samples() const {
  const std::scoped_lock lock(mutex_);
  return samples_;
}

bool Peaks::complete() const {
  const std::scoped_lock lock(mutex_);
  return complete_;
}

/// With the lock held: of the finest stretches `first` … `last` − 1, by as few as there are that make them up.
Peak Peaks::between(std::int64_t first, std::int64_t last) const {
  Peak peak;
  last = std::min(last, static_cast<std::int64_t>(kept_[0].size()));
  first = std::max<std::int64_t>(first, 0);
  while (first < last) {
    std::size_t level = 0;
    std::int64_t size = 1;
    while (level + 1 < levels && first % (size * fold) == 0 && first + size * fold <= last) ++level, size *= fold;
    const Kept& kept = kept_[level][static_cast<std::size_t>(first / size)];
    peak.take({asFloat(kept.least), asFloat(kept.most)});
    first += size;
  }
  return peak;
}

void Peaks::look(double first, double apart, std::span<Peak> out) const {
  const std::scoped_lock lock(mutex_);
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double from = first + apart * static_cast<double>(i);
    out[i] = between(static_cast<std::int64_t>(std::floor(from / finest)),
                     static_cast<std::int64_t>(std::ceil((from + apart) / finest)));
  }
}

void Peaks::lookAlong(const SoundCurve& curve, double first, double apart, std::span<Peak> out) const {
  std::vector<double> positions(out.size() * looks + 1);
  for (std::size_t i = 0; i < positions.size(); ++i)
    positions[i] = curve.at(std::llround(first + apart * static_cast<double>(i) / looks));
  const std::scoped_lock lock(mutex_);
  for (std::size_t i = 0; i < out.size(); ++i) {
    out[i] = {};
    for (std::size_t k = i * looks; k < (i + 1) * looks; ++k) {
      const double a = positions[k], b = positions[k + 1], step = std::abs(b - a);
      if (std::isnan(a) || std::isnan(b) || step == 0) continue;
      // Over a jump nothing of what lies between is heard.
      const bool jumps = step > fastest * std::max(1.0, apart / looks);
      const double least = jumps ? a : std::min(a, b), most = jumps ? a : std::max(a, b);
      out[i].take(between(static_cast<std::int64_t>(std::floor(least / finest)),
                          static_cast<std::int64_t>(std::floor(most / finest)) + 1));
    }
  }
}

}  // namespace molten
