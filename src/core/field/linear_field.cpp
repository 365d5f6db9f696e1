#include "core/field/linear_field.h"

#include <algorithm>

#include "core/wide.h"

namespace molten {
namespace {

/// The same sums in the same order as LinearField::at().
MOLTEN_WIDE void rise(double x0, double stepX, double sx, double ax, double down, double length, float* out,
                      int count) {
  for (int i = 0; i < count; ++i) {
    double f = ((x0 + i * stepX - sx) * ax + down) / length;
    f = f < 0 ? 0 : f;
    f = f > 1 ? 1 : f;
    out[i] = static_cast<float>(f);
  }
}

}  // namespace

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
  rise(sites.x0, sites.stepX, sx_, ax_, down, length_, out.data(), static_cast<int>(out.size()));
}

}  // namespace molten
