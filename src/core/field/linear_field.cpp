#include "core/field/linear_field.h"

#include <algorithm>

#include "core/wide.h"

namespace molten {
namespace {

MOLTEN_WIDE void rise(double x0, double stepX, double sx, double ax, double down, double share, float* out,
                      int count) {
  for (int i = 0; i < count; ++i) out[i] = heldWithin(((x0 + i * stepX - sx) * ax + down) * share);
}

}  // namespace

LinearField::LinearField(Place start, Place end, const FieldFrame& frame) {
  sx_ = start.x * frame.size.width;
  sy_ = start.y * frame.size.height;
  const double dx = end.x * frame.size.width - sx_, dy = end.y * frame.size.height - sy_;
  const double a = frame.pixelAspect;
  ax_ = a * a * dx;
  ay_ = dy;
  length_ = ax_ * dx + ay_ * dy;
}

void LinearField::row(const PlaneSites& sites, int y, std::span<float> out) const {
  if (!(length_ > 0)) {
    std::fill(out.begin(), out.end(), 0.0f);
    return;
  }
  const double down = (sites.y0 + y * sites.stepY - sy_) * ay_;
  rise(sites.x0, sites.stepX, sx_, ax_, down, 1 / length_, out.data(), static_cast<int>(out.size()));
}

}  // namespace molten
