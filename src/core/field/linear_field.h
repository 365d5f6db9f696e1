#pragma once
// A field that rises along a line.

#include <span>

#include "core/field/plane_sites.h"

namespace molten {

/// A place as fractions of the picture: (0, 0) is its top left corner, (1, 1) its bottom right.
struct Place {
  double x = 0, y = 0;
  friend bool operator==(const Place&, const Place&) = default;
};

/// f is 0 at `start` and before it, 1 at `end` and beyond, straight between. Distances are taken on the screen:
/// with a the width of a pixel over its height, (sx, sy) and (ex, ey) the ends in pixels, dx = ex − sx, dy = ey − sy,
///   f(x, y) = clamp(((x − sx)·a²·dx + (y − sy)·dy) / (a²·dx² + dy²), 0, 1)
/// in double, rounded once to 32-bit float. Where start and end meet, f is 0 everywhere.
class LinearField {
 public:
  LinearField(Place start, Place end, Size size, Rational pixelAspect);

  float at(double x, double y) const;
  /// f at every site of a row. Requires out.size() == sites.width.
  void row(const PlaneSites& sites, int y, std::span<float> out) const;

 private:
  double sx_, sy_, ax_, ay_, length_;
};

}  // namespace molten
