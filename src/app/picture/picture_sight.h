#pragma once
// Where a picture stands on its view: fitted, or zoomed and panned.

#include <QPointF>
#include <QRectF>
#include <QString>

#include "core/field/field_shape.h"
#include "core/picture/picture.h"

namespace molten {

/// Points and rectangles are in pixels of the widget, sizes of the picture in its own pixels.
struct PictureSight {
  /// Nearest and farthest zoom.
  static constexpr double leastZoom = 0.05, mostZoom = 32;

  Size size{0, 0};           ///< of the whole picture
  double pixelAspect = 1;    ///< width of its pixels over their height
  QRectF pane;               ///< where there is room for it
  double ratio = 1;          ///< of the screen's pixels to the widget's
  double zoom = 0;           ///< screen pixels for one picture pixel down; 0: fitted
  QPointF centre{0.5, 0.5};  ///< fraction of the picture in the middle of the pane, when not fitted

  /// Widget pixels for one picture pixel down.
  double scale() const { return zoom > 0 ? zoom / ratio : fitScale(); }
  /// The zoom as it is seen, fitted or not.
  double shownZoom() const { return scale() * ratio; }
  QRectF target() const;
  QPointF toWidget(const Place& place) const;
  Place placeAt(const QPointF& point) const;
  bool shows(const QPointF& point) const;
  /// The size, in screen pixels, at which it is best delivered.
  Size wantedSize() const;
  /// Where in a corner the small picture of a frame stands; `aspect`: its width over its height.
  QRectF cornerRoom(double aspect) const;
  /// What is under the anchor stays there; the picture keeps to the pane.
  void zoomAround(double newZoom, const QPointF& anchor);
  void pan(const QPointF& by);

 private:
  double fitScale() const;
};

}  // namespace molten
