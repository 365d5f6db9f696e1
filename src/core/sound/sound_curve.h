#pragma once
// Which moment of a sound is heard when: the curve that pictures follow, sample by sample.

#include <cstdint>
#include <functional>
#include <vector>

namespace molten {

/// From samples of a result to positions among a source's samples (at soundRate, from its beginning, not rounded; NaN:
/// nothing is heard). Immutable; for several threads if what it is made of is.
class SoundCurve {
 public:
  /// Seconds of the source that are heard at so many seconds of the result; NaN: none.
  using SecondsAt = std::function<double(double seconds)>;
  explicit SoundCurve(SecondsAt secondsAt) : secondsAt_(std::move(secondsAt)) {}

  /// Of `count` samples from number `first` on. Before sample 0 it runs as it begins there.
  std::vector<double> positions(std::int64_t first, std::size_t count) const;

  /// One of them.
  double at(std::int64_t sample) const;

 private:
  SecondsAt secondsAt_;
};

/// Samples of a curve, by their index among some, that are heard one after the other without a jump: a stretch that stands
/// still, or of which nothing is heard, is one of its own.
struct CurveRun {
  std::size_t begin = 0, end = 0;
  bool moves = false;
};
std::vector<CurveRun> runsOf(const std::vector<double>& positions);

}  // namespace molten
