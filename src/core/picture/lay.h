#pragma once
// One picture laid over another.

#include <memory>
#include <optional>
#include <vector>

#include "core/picture/accumulator.h"
#include "core/picture/affine.h"
#include "core/picture/picture_key.h"

namespace molten {

/// What is seen of it.
enum class LaidView {
  Result,  ///< both
  Matte,   ///< how much of it is seen, white over black
  Figure   ///< it alone, over a gray
};

/// A plane of numbers, 0…1, row after row.
struct LaidMask {
  Size size;
  std::shared_ptr<const std::vector<float>> samples;  ///< nullptr: none
};

/// How a picture lies over another. Pixels are those of both pictures at their full size.
struct Laying {
  Affine way;  ///< from a pixel of the lower picture to its place in the upper one
  /// What is shown of the upper one; its edges are smooth over a pixel of the lower one.
  double left = 0, top = 0, right = 0, bottom = 0;
  float opacity = 1;
  BlendMode blend = BlendMode::Over;  ///< Over, Sum, BelowWhite, Brightest or Darkest, with the lower one's weight 1
  Light light = Light::Display;       ///< in which both are mixed
  std::optional<KeyRecipe> key = std::nullopt;  ///< what of it is cut out first
  LaidMask leftOut = {};  ///< stretched over the lower picture: where it is 1 nothing is laid
  LaidView view = LaidView::Result;
};

/// With I the upper picture at a pixel, w its alpha there times the opacity, V the lower one's colour and aᵥ its alpha:
///   a = aᵥ + w·(1 − aᵥ),   colour = (w·(1 − aᵥ)·I + aᵥ·B)/a,
///   B = (1 − w)·V + w·I (Over), V + w·I (Sum), 1 − (1 − V)(1 − w·I) (BelowWhite), max(V, w·I) (Brightest),
///   min(V, 1 − w·(1 − I)) (Darkest).
/// Where nothing is laid the lower picture's samples come out as they are. The upper one is resampled by Lanczos' window, as
/// resampled() says; its matrix, range, transfer and primaries become the lower one's. `scale`: both are so many times smaller than
/// at their full size. `to`: the lower picture's shape, or another that it is to leave in. On the threads of the caller's
/// ThreadLimit.
Picture laidOver(const Picture& under, const Picture& over, const Laying& laying, int scale, const PictureShape& to);

}  // namespace molten
