#pragma once
// What sounds together along a curve: its runs, each fading into the next.

#include <vector>

#include "core/sound/sound_curve.h"

namespace molten {

/// What cuts, loop seams, and the ends of freezes are blended over, in samples.
inline constexpr std::size_t cutFade = 192;
/// So many samples of a curve beside those that are wanted say all about them.
inline constexpr std::size_t curveAround = 2 * cutFade + 100;
/// Faster than this, in source samples a sample, nothing more is left out of what would be too high to be heard.
inline constexpr double widestKernel = 64;

/// A run of a curve, and how it goes on while it fades out after it.
struct Voice {
  std::size_t begin = 0;          ///< index of its first sample
  std::size_t heard = 0;          ///< samples of the run itself
  std::vector<double> positions;  ///< in the source
  std::vector<float> gains;
  /// How many times wider than at its own speed, or slower, the kernel is that frequencies are left out with; smooth, so that
  /// a change of speed makes no click.
  std::vector<double> widths;
};
/// Of the runs that move.
std::vector<Voice> voicesOf(const std::vector<double>& positions, const std::vector<CurveRun>& runs);

}  // namespace molten
