#pragma once
// Stretches of positions among the pictures of a video.

#include <vector>

#include "core/time/past_the_ends.h"

namespace molten {

/// Rising stretches that do not overlap. Where there would be more than a few, the smallest gaps between them are
/// filled: too much, never too little.
class PositionSpans {
 public:
  struct Stretch {
    double from = 0, to = 0;
  };
  static constexpr std::size_t mostStretches = 6;

  PositionSpans() = default;
  PositionSpans(double from, double to) : stretches_{{from, to}} {}

  void add(double from, double to);
  bool empty() const { return stretches_.empty(); }
  /// Require that it is not empty.
  double least() const { return stretches_.front().from; }
  double most() const { return stretches_.back().to; }
  auto begin() const { return stretches_.begin(); }
  auto end() const { return stretches_.end(); }

  /// What foldPosition() makes of all of them.
  PositionSpans folded(std::int64_t count, PastTheEnds past) const;

 private:
  std::vector<Stretch> stretches_;
};

}  // namespace molten
