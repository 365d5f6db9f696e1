#include "core/stages/slit_sweep.h"

#include <cmath>

namespace molten {

SlitSweep::SlitSweep(const StripLayout& blocks, double sweep, bool thereAndBack, bool endless)
    : blocks_(blocks), sweep_(sweep), same_(samePosition / sweep), thereAndBack_(thereAndBack), endless_(endless) {
  for (int b = 0; b < blocks_.count(); ++b) shares_.push_back(blocks_.border(b) / blocks_.extent());
}

double SlitSweep::passing(int block, double sweep) const {
  const bool back = thereAndBack_ && std::fmod(std::abs(sweep), 2) == 1;
  const int at = back ? blocks_.count() - 1 - block : block;
  return (sweep + share(at)) * sweep_;
}

std::optional<double> SlitSweep::passed(int block, double position, bool before) const {
  const double sweep = std::floor(position / sweep_ + same_);
  const double now = passing(block, sweep);
  if (now <= position + samePosition) return now;
  if (before && (sweep > 0 || endless_)) return passing(block, sweep - 1);
  return std::nullopt;
}

}  // namespace molten
