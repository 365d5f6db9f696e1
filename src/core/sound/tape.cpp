#include "core/sound/tape.h"

#include <algorithm>
#include <array>
#include <cmath>
#include <numbers>

namespace molten {
namespace {

/// Zeros of the sinc on each side, and places of the table between two.
constexpr int zeros = 32, places = 512;
constexpr double kaiser = 9;
/// Positions so close to a sample are on it.
constexpr double onSample = 1e-5;
constexpr std::size_t samplesALot = 8192;
/// Source samples that are read at once.
constexpr double mostRead = 4e6;

double bessel(double x) {
  double sum = 1, term = 1;
  for (int k = 1; k < 60; ++k) {
    term *= (x / (2 * k)) * (x / (2 * k));
    sum += term;
  }
  return sum;
}

/// One side of the kernel; exactly 1 in the middle and 0 at each zero.
const std::array<float, zeros * places + 2>& kernel() {
  static const auto table = [] {
    std::array<float, zeros * places + 2> made{};
    for (int i = 1; i < zeros * places; ++i) {
      const double x = static_cast<double>(i) / places, edge = x / zeros, turn = std::numbers::pi * x;
      const double window = bessel(kaiser * std::sqrt(1 - edge * edge)) / bessel(kaiser);
      made[static_cast<std::size_t>(i)] = i % places == 0 ? 0.0f : static_cast<float>(std::sin(turn) / turn * window);
    }
    made[0] = 1;
    return made;
  }();
  return table;
}

/// Both channels of a source at a position, of which `values` holds the samples from number `first` on.
std::array<float, soundChannels> between(const Sound& values, std::int64_t first, double position, double width) {
  const auto nearest = std::llround(position);
  const auto index = [&](std::int64_t n) { return static_cast<std::size_t>(n - first); };
  if (width == 1 && std::abs(position - static_cast<double>(nearest)) < onSample)
    return {values.at(index(nearest), 0), values.at(index(nearest), 1)};
  const auto& table = kernel();
  const double reach = zeros * width, apart = places / width;
  const auto from = static_cast<std::int64_t>(std::ceil(position - reach));
  const auto to = static_cast<std::int64_t>(std::floor(position + reach));
  double left = 0, right = 0;
  for (std::int64_t n = from; n <= to; ++n) {
    const double place = std::abs(static_cast<double>(n) - position) * apart;
    const auto whole = static_cast<std::size_t>(place);
    const auto part = static_cast<float>(place - static_cast<double>(whole));
    const float weight = table[whole] + (table[whole + 1] - table[whole]) * part;
    left += static_cast<double>(values.at(index(n), 0) * weight);
    right += static_cast<double>(values.at(index(n), 1) * weight);
  }
  return {static_cast<float>(left / width), static_cast<float>(right / width)};
}

}  // namespace

Status addTape(const Voice& voice, const SoundSource& source, std::size_t lead, Sound& out, std::size_t at, std::size_t count,
           std::stop_token stop) {
  const std::size_t from = std::max(lead, voice.begin), to = std::min(lead + count, voice.begin + voice.positions.size());
  if (from >= to) return {};
  double least = voice.positions[from - voice.begin], most = least, width = 1;
  for (std::size_t i = from - voice.begin; i < to - voice.begin; ++i) {
    least = std::min(least, voice.positions[i]), most = std::max(most, voice.positions[i]);
    width = std::max(width, voice.widths[i]);
  }
  if (most - least > mostRead && count > 1) {
    const std::size_t half = count / 2;
    if (auto added = addTape(voice, source, lead, out, at, half, stop); !added) return added;
    return addTape(voice, source, lead + half, out, at + half, count - half, stop);
  }
  const double reach = zeros * width + 2;
  const auto first = static_cast<std::int64_t>(std::floor(least - reach));
  Sound values(static_cast<std::size_t>(static_cast<std::int64_t>(std::ceil(most + reach)) - first + 1));
  if (auto read = source.read(first, values, stop); !read) return read;
  for (std::size_t i = from; i < to; ++i) {
    const std::size_t n = i - voice.begin;
    const auto value = between(values, first, voice.positions[n], voice.widths[n]);
    for (int c = 0; c < soundChannels; ++c)
      out.at(at + i - lead, c) += voice.gains[n] * value[static_cast<std::size_t>(c)];
  }
  return {};
}

Status tape(const SoundCurve& curve, const SoundSource& source, std::int64_t first, Sound& out, std::stop_token stop) {
  std::fill(out.values().begin(), out.values().end(), 0.0f);
  for (std::size_t at = 0; at < out.samples(); at += samplesALot) {
    if (stop.stop_requested()) return cancelledError();
    const std::size_t count = std::min(samplesALot, out.samples() - at);
    const std::int64_t from = first + static_cast<std::int64_t>(at) - static_cast<std::int64_t>(curveAround);
    const std::vector<double> positions = curve.positions(from, count + 2 * curveAround);
    for (const Voice& voice : voicesOf(positions, runsOf(positions)))
      if (auto added = addTape(voice, source, curveAround, out, at, count, stop); !added) return added;
  }
  return {};
}

}  // namespace molten
