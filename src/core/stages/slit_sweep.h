#pragma once
// When a slit passes.

#include <optional>

#include "core/stages/strip_layout.h"

namespace molten {

class SlitSweep {
 public:
  /// `blocks`: bars as wide as the slit, along its way. `sweep`: its time, in pictures of the video. `endless`: there
  /// was always a sweep before.
  SlitSweep(const StripLayout& blocks, double sweep, bool thereAndBack, bool endless)
      : blocks_(blocks), sweep_(sweep), thereAndBack_(thereAndBack), endless_(endless) {}

  const StripLayout& blocks() const { return blocks_; }
  /// The last time at which the slit has passed a block until `position`, in pictures; none if it has not passed in
  /// this sweep. `before`: then of the sweep before, if there was one.
  std::optional<double> passed(int block, double position, bool before) const;
  /// When the slit passes a block in a sweep.
  double passing(int block, double sweep) const;

 private:
  StripLayout blocks_;
  double sweep_;
  bool thereAndBack_, endless_;
};

}  // namespace molten
