#include "core/time/frame_clock.h"

#include <algorithm>
#include <cmath>

#include "core/number_text.h"

namespace molten {
namespace {

constexpr double sameFrame = samePosition;

/// floor without a call; positions are far from 2^63.
inline double quickFloor(double value) {
  const auto whole = static_cast<double>(static_cast<std::int64_t>(value));
  return whole > value ? whole - 1 : whole;
}

/// `fraction`: 0…1.
std::uint32_t weightOf(double fraction) {
  return static_cast<std::uint32_t>(fraction * wholeWeight + 0.5);
}

}  // namespace

FrameClock FrameClock::constant(Rational rate, std::int64_t count) {
  FrameClock clock;
  clock.rate_ = rate;
  clock.count_ = clock.length_ = count;
  clock.end_ = static_cast<double>(count);
  return clock;
}

FrameClock FrameClock::stamped(Rational nominal, std::vector<double> stamps, double end) {
  FrameClock clock;
  clock.rate_ = nominal;
  clock.count_ = static_cast<std::int64_t>(stamps.size());
  clock.end_ = end;
  clock.length_ = std::max<std::int64_t>(1, static_cast<std::int64_t>(std::ceil(end - sameFrame)));
  clock.stamps_ = std::make_shared<const std::vector<double>>(std::move(stamps));
  return clock;
}

FrameClock FrameClock::countedIn(Rational nominal) const {
  const double times = (nominal / rate_).toDouble();
  std::vector<double> at = stamps();
  for (double& stamp : at) stamp *= times;
  return stamped(nominal, std::move(at), end_ * times);
}

FramePosition positionOf(std::int64_t whole, double rest, InBetween inBetween) {
  const double nearest = quickFloor(rest + 0.5 + sameFrame);
  if (inBetween == InBetween::Whole) return {whole + static_cast<std::int64_t>(nearest), 0};
  // The position within 1e-6 of a frame is that frame; only then are fractions told apart.
  if (std::abs(rest - nearest) <= sameFrame) rest = nearest;
  const double below = quickFloor(rest);
  const std::int64_t i = whole + static_cast<std::int64_t>(below);
  const std::uint32_t weight = weightOf(rest - below);
  if (weight == wholeWeight) return {i + 1, 0};
  return {i, weight};
}

FramePick FrameClock::pickConstant(std::int64_t whole, double rest, PastTheEnds past, InBetween inBetween) const {
  const FramePosition at = positionOf(whole, rest, inBetween);
  const std::int32_t first = foldFrame(at.frame, count_, past);
  return {first, at.weight == 0 ? first : foldFrame(at.frame + 1, count_, past), at.weight};
}

FramePick FrameClock::pickStamped(double t, PastTheEnds past, InBetween inBetween) const {
  const double last = stamps().back();
  const bool outside = t < -sameFrame || t >= end_ - sameFrame;
  switch (past) {
    case PastTheEnds::StandStill:
      t = std::clamp(t, 0.0, last);
      break;
    case PastTheEnds::TurnBack:
      if (last > 0 && (t < 0 || t > end_ - sameFrame)) {
        t = std::fmod(t, 2 * last);
        if (t < 0) t += 2 * last;
        if (t > last) t = 2 * last - t;
      }
      break;
    case PastTheEnds::GoRound:
      if (outside) {
        t = std::fmod(t, end_);
        if (t < -sameFrame) t += end_;
      }
      break;
    case PastTheEnds::Transparent:
      if (outside) return {noFrame, noFrame, 0};
      break;
  }
  const auto after = std::upper_bound(stamps().begin(), stamps().end(), t + sameFrame);
  const auto j = std::max<std::ptrdiff_t>(0, after - stamps().begin() - 1);
  const auto first = static_cast<std::int32_t>(j);
  const double from = stamps()[static_cast<std::size_t>(j)];
  if (inBetween == InBetween::Whole || t - from <= sameFrame) return {first, first, 0};
  const bool atEnd = j + 1 == count_;
  const double to = atEnd ? end_ : *after;
  const std::int32_t second = foldFrame(j + 1, count_, past);
  const std::uint32_t weight = weightOf(std::clamp((t - from) / (to - from), 0.0, 1.0));
  if (weight == 0 || second == first) return {first, first, 0};
  if (weight == wholeWeight) return {second, second, 0};
  return {first, second, weight};
}

std::string timecode(std::int64_t frame, Rational rate) {
  const std::int64_t perSecond = std::max<std::int64_t>(1, (rate + Rational(1, 2)).floor());
  const std::int64_t seconds = frame / perSecond;
  return paddedText(seconds / 3600, 2) + ":" + paddedText(seconds / 60 % 60, 2) + ":" + paddedText(seconds % 60, 2) + ":" +
         paddedText(frame % perSecond, 2);
}

}  // namespace molten
