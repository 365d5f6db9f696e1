#pragma once
// A field of smooth noise.

#include <cstdint>

#include "core/field/field_shape.h"
#include "core/scrambled.h"

namespace molten {

/// Gradient noise in three dimensions (Perlin, Improving Noise, 2002): gradients from a hash of the lattice point, and
/// the fade 6u⁵ − 15u⁴ + 10u³. The picture lies in it at x, y = the place less `origin`, in picture heights over
/// `scale`, and z = `depth`. Octave o = 0, 1, … has cells 2^o times smaller and 1/2^o of the height; a `detail` between
/// two whole numbers lets the last one in by its part. With n their sum over the sum of their heights,
///   f = clamp(1/2 + n, 0, 1).
class NoiseField : public FieldShape {
 public:
  /// `scale`: of a cell, in picture heights (> 0). `detail`: octaves, 1…8.
  NoiseField(Place origin, double scale, double detail, double depth, std::uint32_t seed, const FieldFrame& frame);
  void row(const PlaneSites& sites, int y, std::span<float> out) const override;

 private:
  double ox_, oy_, across_, down_, detail_, depth_;
  std::uint32_t seed_;
};

}  // namespace molten
