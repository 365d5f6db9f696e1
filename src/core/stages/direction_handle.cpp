#include "core/stages/direction_handle.h"

#include <cmath>
#include <numbers>

namespace molten {
namespace {

/// From a place, so many picture heights along a way.
Place along(Place from, double degrees, double heights, Size picture) {
  const double angle = degrees * std::numbers::pi / 180;
  return {from.x + std::cos(angle) * heights * picture.height / picture.width, from.y + std::sin(angle) * heights};
}

}  // namespace

Place directionPlace(Place centre, double degrees, Size picture) {
  return along(centre, degrees, 0.25, picture);
}

double directionDegrees(Place centre, Place to, Size picture) {
  constexpr double snap = 3;
  const double dx = (to.x - centre.x) * picture.width, dy = (to.y - centre.y) * picture.height;
  const double degrees = std::round(std::atan2(dy, dx) * 180 / std::numbers::pi);
  const double straight = std::round(degrees / 45) * 45;
  return std::abs(degrees - straight) <= snap ? straight + 0.0 : degrees + 0.0;
}

FieldLine directionLine(Place centre, double degrees, Size picture) {
  return {{centre, directionPlace(centre, degrees, picture)}, 0, 0};
}

FieldLine crossLine(Place through, double degrees, Size picture) {
  const double far = std::hypot(1.0, static_cast<double>(picture.width) / picture.height);
  return {{along(through, degrees + 90, -far, picture), along(through, degrees + 90, far, picture)}, 0, 0};
}

}  // namespace molten
