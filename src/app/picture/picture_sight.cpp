#include "app/picture/picture_sight.h"

#include <algorithm>
#include <cmath>

namespace molten {
namespace {

/// Kept free around a fitted picture, so that handles on its edges can be seen and grasped.
constexpr double rim = 8;

QPointF within(const QPointF& place) {
  return {std::clamp(place.x(), 0.0, 1.0), std::clamp(place.y(), 0.0, 1.0)};
}

}  // namespace

double PictureSight::fitScale() const {
  if (size.width < 1) return 1;
  return std::min(std::max(1.0, pane.width() - 2 * rim) / (size.width * pixelAspect),
                  std::max(1.0, pane.height() - 2 * rim) / size.height);
}

QRectF PictureSight::target() const {
  const double w = size.width * pixelAspect * scale(), h = size.height * scale();
  const QPointF at = zoom > 0 ? centre : QPointF(0.5, 0.5), middle = pane.center();
  return {middle.x() - at.x() * w, middle.y() - at.y() * h, w, h};
}

QPointF PictureSight::toWidget(const Place& place) const {
  const QRectF t = target();
  return {t.left() + place.x * t.width(), t.top() + place.y * t.height()};
}

Place PictureSight::placeAt(const QPointF& point) const {
  const QRectF t = target();
  return {(point.x() - t.left()) / t.width(), (point.y() - t.top()) / t.height()};
}

bool PictureSight::shows(const QPointF& point) const {
  const Place place = placeAt(point);
  return place.x >= 0 && place.x < 1 && place.y >= 0 && place.y < 1 && pane.contains(point);
}

QRectF PictureSight::cornerRoom(double aspect) const {
  // A quarter of what there is, above the line of what is said.
  constexpr double edge = 10, said = 26, part = 0.25;
  const double width = std::min(pane.width() * part, pane.height() * part * 1.5 * aspect), height = width / aspect;
  return {std::round(pane.left() + edge), std::round(pane.bottom() - edge - said - height), std::round(width), std::round(height)};
}

Size PictureSight::wantedSize() const {
  const double s = std::min(1.0, shownZoom());
  return {std::max(1, static_cast<int>(std::lround(size.width * pixelAspect * s))),
          std::max(1, static_cast<int>(std::lround(size.height * s)))};
}

void PictureSight::zoomAround(double newZoom, const QPointF& anchor) {
  const Place at = placeAt(anchor);
  zoom = newZoom <= 0 ? 0 : std::clamp(newZoom, leastZoom, mostZoom);
  if (zoom == 0) return;
  const double w = size.width * pixelAspect * scale(), h = size.height * scale();
  const QPointF middle = pane.center();
  centre = within({at.x + (middle.x() - anchor.x()) / w, at.y + (middle.y() - anchor.y()) / h});
}

void PictureSight::pan(const QPointF& by) {
  const QRectF t = target();
  centre = within({centre.x() - by.x() / t.width(), centre.y() - by.y() / t.height()});
}

}  // namespace molten
