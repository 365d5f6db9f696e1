#pragma once
// Where the samples of a plane stand in the picture.

#include "core/picture/picture.h"

namespace molten {

/// Sample (i, j) of a plane stands at (x0 + i·stepX, y0 + j·stepY), in pixels of the full-size picture, whose
/// first pixel has its centre at (0.5, 0.5).
struct PlaneSites {
  int width = 0, height = 0;  ///< in samples
  double x0 = 0.5, stepX = 1;
  double y0 = 0.5, stepY = 1;
};

/// The sites of a plane of `shape`, a picture `scale` times smaller each way than the full one. Chroma stands where
/// its tag says; without a tag on the left column and between the rows, as video has it.
PlaneSites planeSites(const PictureShape& shape, int plane, int scale);

}  // namespace molten
