#pragma once
// How well a loop closes, and where it would close better: by looking at pictures.

#include <stop_token>

#include "core/engine/measured_footage.h"
#include "core/result.h"
#include "core/stages/stage.h"

namespace molten {

/// Mean differences of brightness between pictures, as parts of the range from black to white.
struct Seam {
  double across = 0;      ///< between the last picture of a round and the first one of the next
  double neighbours = 0;  ///< mean of those between the two pictures before it and the two after it

  /// How many times as large as its neighbours; 1 and below is no seam at all. Still pictures have none.
  double times() const;
};

/// Of the result of a chain, whose last stage makes it endless. Works for a while; looks at small pictures.
Result<Seam> measureSeam(const MeasuredFootage& from, const Chain& chain, std::stop_token stop);

/// How different the two sides of the borders are that the last stage of a chain makes: the mean difference of
/// brightness between its pictures and those of its contrast() (StageKind), at three moments, as a part of the range.
/// None if it makes no borders.
Result<std::optional<double>> measureContrast(const MeasuredFootage& from, const Chain& chain, std::stop_token stop);

struct FoundLoop {
  Round round;
  double present = 0, difference = 0;  ///< where the present one closes, and this one, as parts of the range
};
/// The round, near the present one, whose end goes into its beginning best: the picture after the last one is like the
/// first, and the last one like the picture before the first. `stage`: the Loop in the chain.
Result<FoundLoop> findLoop(const MeasuredFootage& from, const Chain& chain, std::size_t stage, std::stop_token stop);

}  // namespace molten
