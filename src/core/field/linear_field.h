#pragma once
// A field that rises along a line.

#include "core/field/field_shape.h"

namespace molten {

/// f is 0 at `start` and before it, 1 at `end` and beyond, straight between. Distances are taken on the screen:
/// with a the width of a pixel over its height, (sx, sy) and (ex, ey) the ends in pixels, dx = ex − sx, dy = ey − sy,
///   f(x, y) = clamp(((x − sx)·a²·dx + (y − sy)·dy) / (a²·dx² + dy²), 0, 1)
/// in double, rounded once to 32-bit float. Where start and end meet, f is 0 everywhere.
class LinearField : public FieldShape {
 public:
  LinearField(Place start, Place end, const FieldFrame& frame);
  void row(const PlaneSites& sites, int y, std::span<float> out) const override;

 private:
  double sx_, sy_, ax_, ay_, length_;
};

}  // namespace molten
