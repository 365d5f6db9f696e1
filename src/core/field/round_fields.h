#pragma once
// Fields around a place: radial and sweep.

#include "core/field/field_shape.h"

namespace molten {

/// With (dx, dy) from the centre to a pixel, on the screen and in picture heights, turned back by `angle` (in turns,
/// clockwise), r = √(dx² + (dy / stretch)²):
///   f = clamp((r − inner) / (outer − inner), 0, 1)
/// in double, rounded once. Where inner and outer meet, f is 0 within them and 1 beyond. Requires stretch > 0.
class RadialField : public FieldShape {
 public:
  RadialField(Place centre, double inner, double outer, double stretch, double angle, const FieldFrame& frame);
  void row(const PlaneSites& sites, int y, std::span<float> out) const override;

 private:
  double cx_, cy_, across_, down_;  ///< the centre in pixels; heights a pixel
  double cos_, sin_, stretch_, inner_, outer_;
};

/// The angle around a centre, clockwise on the screen, from the direction `angle` (in turns; 0 is to the right) on:
///   f = min(frac(a − angle) / turn, 1),   a = atan2(dy, dx) in turns
/// in double, rounded once. Requires 0 < turn <= 1.
class SweepField : public FieldShape {
 public:
  SweepField(Place centre, double angle, double turn, const FieldFrame& frame);
  void row(const PlaneSites& sites, int y, std::span<float> out) const override;

 private:
  double cx_, cy_, across_, down_, angle_, turn_;
};

}  // namespace molten
