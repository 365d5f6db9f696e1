#pragma once
// Sums of pictures of one weight, in whole numbers: what leaves the sum leaves nothing behind.

#include <cstdint>
#include <span>
#include <vector>

#include "core/picture/picture.h"

namespace molten {

/// Exact, so that it does not matter by which way a sum was come to.
class EqualSum {
 public:
  /// True of formats of whole numbers without alpha.
  static bool holds(const PictureShape& shape) { return !shape.format.floating && !shape.format.alpha; }
  /// Requires holds(shape).
  explicit EqualSum(const PictureShape& shape);

  /// sign: 1 adds, −1 takes away. Pictures of the sum's shape.
  void add(std::span<const Picture> pictures, int sign);
  const PictureShape& shape() const { return shape_; }
  /// weight·Σ v (+ leadWeight·lead, if there is one), about black. `brightness`: a picture whose mean luma the result
  /// is to have, or nullptr.
  Picture mixed(float weight, const Picture* lead, float leadWeight, const Picture* brightness) const;
  std::size_t bytes() const;

 private:
  PictureShape shape_;
  int count_ = 0;                                  ///< pictures in it
  std::vector<std::vector<std::int32_t>> planes_;  ///< below 2^31: at most 32 768 pictures of 16 bits
};

}  // namespace molten
