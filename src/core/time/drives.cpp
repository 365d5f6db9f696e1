#include "core/time/drives.h"

#include <algorithm>
#include <cmath>

#include "core/scrambled.h"
#include "core/time/moment.h"

namespace molten {
namespace {

double waveAt(const Wave& wave, double seconds) {
  const double turns = seconds / wave.length + wave.phase;
  // A moment that all but reaches the next turn is in it, as it is with steps.
  const double u = std::max(0.0, turns - std::floor(turns + 1e-9));
  switch (wave.shape) {
    case Wave::Shape::Sine:
      return std::sin(2 * std::acos(-1.0) * u);
    case Wave::Shape::Triangle:
      return u < 0.25 ? 4 * u : u < 0.75 ? 2 - 4 * u : 4 * u - 4;
    case Wave::Shape::Square:
      return u < 0.5 ? 1 : -1;
    case Wave::Shape::Saw:
      return 2 * u - 1;
  }
  return 0;
}

/// How much of a value is left as it is.
double leftBy(const Follow& follow, double seconds, const Followed* followed) {
  double now = followed ? followed->value(follow, seconds) : std::nan("");
  if (std::isnan(now)) return 1;
  if (follow.what == Follow::What::Speed) now = std::abs(now);
  if (follow.from == follow.to) return now < follow.to ? 0 : 1;
  return std::clamp((now - follow.from) / (follow.to - follow.from), 0.0, 1.0);
}

}  // namespace

double jitterAt(const Jitter& jitter, double seconds, std::uint32_t salt) {
  const double at = seconds * jitter.perSecond;
  const std::int64_t step = wholeBelow(at);
  const auto draw = [&](std::int64_t number) { return 2 * drawn(jitter.seed, salt, number) - 1; };
  if (!jitter.smooth) return draw(step);
  const double u = std::clamp(at - static_cast<double>(step), 0.0, 1.0), share = u * u * (3 - 2 * u);
  return draw(step) * (1 - share) + draw(step + 1) * share;
}

double drawn(std::uint32_t seed, std::uint32_t salt, std::int64_t number) {
  const auto bits = static_cast<std::uint64_t>(number);
  std::uint32_t hash = scrambled(seed * 0x9e3779b9U + salt);
  hash = scrambled(hash + static_cast<std::uint32_t>(bits));
  hash = scrambled(hash + static_cast<std::uint32_t>(bits >> 32));
  return (hash + 0.5) / 4294967296.0;
}

std::uint32_t saltOf(std::string_view name) {
  std::uint32_t salt = 1;
  for (const char c : name) salt = scrambled(salt + static_cast<unsigned char>(c));
  return salt;
}

KeyValue driven(KeyValue value, const Drives& drives, double seconds, std::uint32_t salt, const Followed* followed) {
  for (std::size_t d = 0; d < drives.size(); ++d) {
    const double wave = std::holds_alternative<Wave>(drives[d]) ? waveAt(std::get<Wave>(drives[d]), seconds) : 0;
    for (std::size_t i = 0; i < value.size(); ++i) {
      const auto own = static_cast<std::uint32_t>(salt + d * 31 + i * 7919);
      if (const auto* jitter = std::get_if<Jitter>(&drives[d]); jitter && jitter->amount[i] != 0)
        value[i] += jitter->amount[i] * jitterAt(*jitter, seconds, own);
      if (const auto* w = std::get_if<Wave>(&drives[d])) value[i] += w->amount[i] * wave;
    }
    if (const auto* follow = std::get_if<Follow>(&drives[d])) {
      const double left = leftBy(*follow, seconds, followed);
      // At its ends it is just the one or the other.
      for (std::size_t i = 0; i < value.size(); ++i)
        value[i] = left == 1 ? value[i] : left == 0 ? follow->at[i] : follow->at[i] + (value[i] - follow->at[i]) * left;
    }
  }
  return value;
}

std::pair<KeyValue, KeyValue> drivenBounds(KeyValue least, KeyValue most, const Drives& drives) {
  const auto widen = [&](const KeyValue& amount) {
    for (std::size_t i = 0; i < amount.size(); ++i) least[i] -= std::abs(amount[i]), most[i] += std::abs(amount[i]);
  };
  for (const Drive& drive : drives) {
    if (const auto* jitter = std::get_if<Jitter>(&drive)) widen(jitter->amount);
    if (const auto* wave = std::get_if<Wave>(&drive)) widen(wave->amount);
    if (const auto* follow = std::get_if<Follow>(&drive))
      for (std::size_t i = 0; i < least.size(); ++i)
        least[i] = std::min(least[i], follow->at[i]), most[i] = std::max(most[i], follow->at[i]);
  }
  return {least, most};
}

bool follows(const Drives& drives, Follow::What what) {
  return std::any_of(drives.begin(), drives.end(), [&](const Drive& drive) {
    const auto* follow = std::get_if<Follow>(&drive);
    return follow && follow->what == what;
  });
}

bool followTheSame(const Follow& a, const Follow& b) {
  return a.what == b.what && (a.what != Follow::What::Loudness || a.listening == b.listening);
}

}  // namespace molten
