#include "core/field/plane_sites.h"

namespace molten {

PlaneSites planeSites(const PictureShape& shape, int plane, int scale) {
  const PictureFormat& format = shape.format;
  PlaneSites sites;
  sites.width = format.planeWidth(plane, shape.size.width);
  sites.height = format.planeHeight(plane, shape.size.height);
  double left = 0.5, top = 0.5, across = 1, down = 1;
  if (format.isChromaPlane(plane)) {
    across = 1 << format.shiftX;
    down = 1 << format.shiftY;
    const auto site = shape.colour.chromaSite == AVCHROMA_LOC_UNSPECIFIED ? AVCHROMA_LOC_LEFT : shape.colour.chromaSite;
    const bool onLeft = site == AVCHROMA_LOC_LEFT || site == AVCHROMA_LOC_TOPLEFT || site == AVCHROMA_LOC_BOTTOMLEFT;
    const bool onTop = site == AVCHROMA_LOC_TOPLEFT || site == AVCHROMA_LOC_TOP;
    const bool onBottom = site == AVCHROMA_LOC_BOTTOMLEFT || site == AVCHROMA_LOC_BOTTOM;
    if (!onLeft) left = across / 2;
    top = onTop ? 0.5 : onBottom ? down - 0.5 : down / 2;
  }
  sites.x0 = left * scale;
  sites.y0 = top * scale;
  sites.stepX = across * scale;
  sites.stepY = down * scale;
  return sites;
}

}  // namespace molten
