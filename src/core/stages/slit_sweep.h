#pragma once
// When a slit passes.

#include <cstdint>
#include <optional>
#include <vector>

#include "core/stages/strip_layout.h"
#include "core/time/moment.h"

namespace molten {

class SlitSweep {
 public:
  /// `blocks`: bars as wide as the slit, along its way. `sweep`: its time, in pictures of the video. `endless`: there
  /// was always a sweep before.
  SlitSweep(const StripLayout& blocks, double sweep, bool thereAndBack, bool endless);

  const StripLayout& blocks() const { return blocks_; }
  /// The last time at which the slit has passed a block until `position`, in pictures; none if it has not passed in
  /// this sweep. `before`: then of the sweep before, if there was one.
  std::optional<double> passed(int block, double position, bool before) const;
  /// When the slit passes a block in a sweep.
  double passing(int block, double sweep) const;
  bool thereAndBack() const { return thereAndBack_; }
  /// How much of a sweep is over when it passes a block, one way: 0…1.
  double share(int block) const { return shares_[static_cast<std::size_t>(block)]; }
  /// The same as passed(), one way, of a block that is passed at that share; `position` where it has not passed.
  double passedOneWay(double share, double position, bool before) const {
    const double sweep = wholeOf(position / sweep_ + same_), now = (sweep + share) * sweep_;
    if (now <= position + samePosition) return now;
    return before && (sweep > 0 || endless_) ? (sweep - 1 + share) * sweep_ : position;
  }

 private:
  /// std::floor() without a call, for what lies within ±2^62.
  static double wholeOf(double value) {
    const auto whole = static_cast<double>(static_cast<std::int64_t>(value));
    return whole > value ? whole - 1 : whole;
  }

  StripLayout blocks_;
  double sweep_, same_;
  std::vector<double> shares_;
  bool thereAndBack_, endless_;
};

}  // namespace molten
