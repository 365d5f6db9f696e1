#pragma once
// What every shape of a field has in common.

#include <span>

#include "core/field/plane_sites.h"

namespace molten {

/// A place as fractions of the picture: (0, 0) is its top left corner, (1, 1) its bottom right.
struct Place {
  double x = 0, y = 0;
  friend bool operator==(const Place&, const Place&) = default;
};

/// The picture that a field lies over. Distances on the screen are measured with pixels as wide as `pixelAspect` times
/// their height.
struct FieldFrame {
  Size size;               ///< in pixels
  double pixelAspect = 1;  ///< width of a pixel over its height
};

/// A field f of 0…1 over the picture. Immutable: for several threads.
class FieldShape {
 public:
  virtual ~FieldShape() = default;
  /// f at every site of a row. Requires out.size() == sites.width.
  virtual void row(const PlaneSites& sites, int y, std::span<float> out) const = 0;
  /// Of the picture that it reads, if it reads one.
  virtual std::size_t bytes() const { return 0; }
};

}  // namespace molten
