#include "core/field/linear_field.h"

#include <algorithm>

namespace molten {

LinearField::LinearField(Place start, Place end, Size size, Rational pixelAspect) {
  sx_ = start.x * size.width;
  sy_ = start.y * size.height;
  const double dx = end.x * size.width - sx_, dy = end.y * size.height - sy_;
  const double a = pixelAspect.toDouble();
  ax_ = a * a * dx;
  ay_ = dy;
  length_ = ax_ * dx + ay_ * dy;
}

float LinearField::at(double x, double y) const {
  if (!(length_ > 0)) return 0;
  return static_cast<float>(std::clamp(((x - sx_) * ax_ + (y - sy_) * ay_) / length_, 0.0, 1.0));
}

void LinearField::row(const PlaneSites& sites, int y, std::span<float> out) const {
  if (!(length_ > 0)) {
    std::fill(out.begin(), out.end(), 0.0f);
    return;
  }
  const double down = (sites.y0 + y * sites.stepY - sy_) * ay_;
  const double x0 = sites.x0, stepX = sites.stepX, sx = sx_, ax = ax_, length = length_;
  for (std::size_t i = 0; i < out.size(); ++i) {
    const double f = ((x0 + static_cast<double>(i) * stepX - sx) * ax + down) / length;
    out[i] = static_cast<float>(f < 0 ? 0 : f > 1 ? 1 : f);
  }
}

}  // namespace molten
