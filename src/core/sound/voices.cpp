#include "core/sound/voices.h"

#include <algorithm>
#include <cmath>
#include <numbers>

namespace molten {
namespace {

/// Samples on each side over which a change of speed changes what frequencies are heard.
constexpr std::size_t smoothing = 48;
/// So close to it a speed is the source's own.
constexpr double ownSpeed = 1e-5;

/// From 0 to 1, halfway through sample i of `count`.
float fade(std::size_t i, std::size_t count) {
  const double x = (static_cast<double>(i) + 0.5) / static_cast<double>(count);
  return static_cast<float>(0.5 - 0.5 * std::cos(std::numbers::pi * x));
}

/// The largest within `smoothing` of each, and of those the mean.
std::vector<double> smoothed(const std::vector<double>& values) {
  const auto count = static_cast<std::ptrdiff_t>(values.size()), reach = static_cast<std::ptrdiff_t>(smoothing);
  const bool alike = std::all_of(values.begin(), values.end(), [&](double v) { return v == values.front(); });
  if (alike) return values;
  std::vector<double> most(values.size()), mean(values.size());
  for (std::ptrdiff_t i = 0; i < count; ++i) {
    const auto from = values.begin() + std::max<std::ptrdiff_t>(0, i - reach);
    most[static_cast<std::size_t>(i)] = *std::max_element(from, values.begin() + std::min(count, i + reach + 1));
  }
  const auto at = [&](std::ptrdiff_t i) { return most[static_cast<std::size_t>(std::clamp<std::ptrdiff_t>(i, 0, count - 1))]; };
  for (std::ptrdiff_t i = 0; i < count; ++i) {
    double sum = 0;
    for (std::ptrdiff_t k = i - reach; k <= i + reach; ++k) sum += at(k);
    mean[static_cast<std::size_t>(i)] = sum / static_cast<double>(2 * reach + 1);
  }
  return mean;
}

/// `before`, `after`: over how many samples it fades in, and out after its end.
Voice voiceOf(const std::vector<double>& positions, const CurveRun& run, std::size_t before, std::size_t after) {
  Voice voice;
  voice.begin = run.begin;
  const auto at = [&](std::size_t i) { return positions.begin() + static_cast<std::ptrdiff_t>(i); };
  voice.positions.assign(at(run.begin), at(run.end));
  const std::size_t heard = voice.heard = voice.positions.size();
  const double speed = heard > 1 ? voice.positions[heard - 1] - voice.positions[heard - 2] : 0;
  for (std::size_t i = 0; i < after; ++i) voice.positions.push_back(voice.positions.back() + speed);
  voice.gains.assign(voice.positions.size(), 1);
  for (std::size_t i = 0; i < std::min(before, heard); ++i) voice.gains[i] = fade(i, before);
  for (std::size_t i = 0; i < after; ++i) voice.gains[heard + i] = 1 - fade(i, after);
  const std::size_t count = voice.positions.size();
  for (std::size_t i = 0; i < count; ++i) {
    const double to = i + 1 < count ? std::abs(voice.positions[i + 1] - voice.positions[i]) : 0;
    const double from = i > 0 ? std::abs(voice.positions[i] - voice.positions[i - 1]) : 0;
    const double faster = std::max(to, from);
    voice.widths.push_back(faster < 1 + ownSpeed ? 1 : std::min(faster, widestKernel));
  }
  voice.widths = smoothed(voice.widths);
  return voice;
}

}  // namespace

std::vector<Voice> voicesOf(const std::vector<double>& positions, const std::vector<CurveRun>& runs) {
  // What goes on beyond the samples that are known lasts as long as a fade.
  const auto fadeInto = [&](std::size_t r) {
    return r + 1 == runs.size() ? cutFade : std::min(cutFade, runs[r].end - runs[r].begin);
  };
  std::vector<Voice> voices;
  for (std::size_t r = 0; r < runs.size(); ++r)
    if (runs[r].moves)
      voices.push_back(voiceOf(positions, runs[r], r > 0 ? fadeInto(r) : 0, r + 1 < runs.size() ? fadeInto(r + 1) : 0));
  return voices;
}

}  // namespace molten
