#include "core/stages/slit_sweep.h"

#include <cmath>

namespace molten {
namespace {

constexpr double sameFrame = 1e-6;

}  // namespace

double SlitSweep::passing(int block, double sweep) const {
  const bool back = thereAndBack_ && std::fmod(std::abs(sweep), 2) == 1;
  const int at = back ? blocks_.count() - 1 - block : block;
  return (sweep + blocks_.border(at) / blocks_.extent()) * sweep_;
}

std::optional<double> SlitSweep::passed(int block, double position, bool before) const {
  const double sweep = std::floor(position / sweep_ + sameFrame / sweep_);
  const double now = passing(block, sweep);
  if (now <= position + sameFrame) return now;
  if (before && (sweep > 0 || endless_)) return passing(block, sweep - 1);
  return std::nullopt;
}

}  // namespace molten
