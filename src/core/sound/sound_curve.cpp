#include "core/sound/sound_curve.h"

#include <algorithm>
#include <cmath>

#include "core/sound/sound.h"

namespace molten {
namespace {

/// Where three positions in a row of blocks lie on a line, so do those between them.
constexpr std::int64_t block = 16;
constexpr double onALine = 1e-5;
/// Source samples a sample: what moves no faster stands still; what steps aside by more than that jumps.
constexpr double standingStill = 0.002, jump = 0.5;

std::int64_t blockOf(std::int64_t sample) {
  return sample >= 0 ? sample / block : -((-sample + block - 1) / block);
}

/// Samples: what stands no longer than that is not heard to stand.
constexpr std::size_t shortestFreeze = 192;

}  // namespace

double SoundCurve::at(std::int64_t sample) const {
  const auto exact = [&](std::int64_t n) { return secondsAt_(static_cast<double>(n) / soundRate) * soundRate; };
  if (sample >= 0) return exact(sample);
  const double first = exact(0);
  return first + (exact(1) - first) * static_cast<double>(sample);
}

std::vector<double> SoundCurve::positions(std::int64_t first, std::size_t count) const {
  std::vector<double> out;
  out.reserve(count + block);
  const std::int64_t last = first + static_cast<std::int64_t>(count);
  double begin = at(blockOf(first) * block);
  for (std::int64_t b = blockOf(first) * block; b < last; b += block) {
    const double middle = at(b + block / 2), end = at(b + block);
    const bool silent = std::isnan(begin) && std::isnan(middle) && std::isnan(end);
    const bool straight = silent || std::abs(begin + end - 2 * middle) < onALine;
    for (std::int64_t i = 0; i < block; ++i) {
      if (b + i < first || b + i >= last) continue;
      const double along = begin + (end - begin) * (static_cast<double>(i) / block);
      out.push_back(straight ? along : i == 0 ? begin : at(b + i));
    }
    begin = end;
  }
  return out;
}

std::vector<CurveRun> runsOf(const std::vector<double>& positions) {
  const std::size_t count = positions.size();
  // From the sample before each to it.
  const auto step = [&](std::size_t i) { return positions[i] - positions[i - 1]; };
  const auto jumps = [&](std::size_t i) {
    const double here = step(i);
    const double before = i >= 2 ? step(i - 1) : here, after = i + 1 < count ? step(i + 1) : here;
    if (std::isnan(here)) return true;
    return here > std::fmax(before, after) + jump || here < std::fmin(before, after) - jump;
  };
  const auto moves = [&](std::size_t i) {
    // Beside what is not heard, and what is elsewhere, the other side counts alone.
    const double before = i > 0 && !jumps(i) ? std::abs(step(i)) : std::nan("");
    const double after = i + 1 < count && !jumps(i + 1) ? std::abs(step(i + 1)) : std::nan("");
    return !std::isnan(positions[i]) && std::fmax(before, after) >= standingStill;
  };
  std::vector<bool> moving(count);
  for (std::size_t i = 0; i < count; ++i) moving[i] = moves(i);
  // Where it turns it stands for a moment, and is heard on.
  for (std::size_t i = 0; i < count;) {
    std::size_t end = i + 1;
    while (end < count && moving[end] == moving[i] && !std::isnan(positions[end]) == !std::isnan(positions[i])) ++end;
    const bool turns = !moving[i] && !std::isnan(positions[i]) && i > 0 && end < count && end - i < shortestFreeze &&
                       moving[i - 1] && moving[end];
    if (turns) std::fill(moving.begin() + static_cast<std::ptrdiff_t>(i), moving.begin() + static_cast<std::ptrdiff_t>(end), true);
    i = end;
  }
  std::vector<CurveRun> runs;
  for (std::size_t i = 0; i < count; ++i) {
    if (!runs.empty() && runs.back().moves == moving[i] && !(moving[i] && jumps(i))) {
      runs.back().end = i + 1;
      continue;
    }
    runs.push_back({i, i + 1, moving[i]});
  }
  return runs;
}

}  // namespace molten
