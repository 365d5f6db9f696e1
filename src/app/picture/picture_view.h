#pragma once
// The Picture: the output at the playhead, with the selected stage's handles on it.

#include <QImage>
#include <QWidget>
#include <optional>
#include <string>
#include <vector>

#include "core/field/field_shape.h"
#include "core/picture/picture.h"

namespace molten {

/// Something of the selected stage to take hold of, as it is drawn.
struct Handle {
  std::size_t index = 0;                     ///< among the stage's handles, or of a key on its path
  std::string label;                         ///< the moment: `now`, `−1.000 s`; or a name
  Place place;                               ///< fractions of the picture
  std::optional<double> share;               ///< −1 (all the reach back) … 1 (all ahead): its colour; none: neutral
  std::optional<std::size_t> anchor;         ///< index of the handle from which Shift holds it to straight ways
  std::optional<std::size_t> pathParameter;  ///< it is a key of this parameter, small, without a tag
};

/// A line on the picture, its colour going from one moment's to another's.
struct ShownLine {
  std::vector<Place> points;
  std::optional<double> from, to;  ///< as a handle's share; none: neutral
};

/// What the left button does on the picture, off the handles.
enum class PictureTool { Look, Pick, Paint };

struct PictureState {
  QString title;        ///< `Picture · 00:00:04:12`
  QString message;      ///< a sentence instead of a picture, or beside it
  QString corner;       ///< a remark at the lower edge
  bool before = false;  ///< the footage is shown without the chain
  std::vector<Handle> handles;
  std::vector<ShownLine> lines;
  PictureTool tool = PictureTool::Look;
  double brush = 0;  ///< radius in picture heights, while painting
};

class PictureView : public QWidget {
  Q_OBJECT

 public:
  explicit PictureView(QWidget* parent = nullptr);

  /// `shape`: of the whole picture at full size.
  void setPictureShape(Size size, double pixelAspect);
  void setImage(QImage image);
  void setState(const PictureState& state);
  const PictureState& state() const { return state_; }
  const QImage& image() const { return image_; }

  /// Screen pixels for one picture pixel down; 0: fitted.
  double zoom() const { return zoom_; }
  /// The zoom as it is seen, fitted or not.
  double shownZoom() const { return scale() * devicePixelRatioF(); }
  void setZoom(double zoom) { setZoomAround(zoom, QPointF(width() / 2.0, height() / 2.0)); }
  void fit() { setZoom(0); }
  /// The size, in device pixels, at which a picture is best delivered.
  Size wantedSize() const;
  /// Where a place of the picture is on the widget.
  QPointF toWidget(const Place& place) const;
  QString zoomText() const;

 signals:
  void handleMoved(std::size_t handle, Place place);
  void keyMoved(std::size_t parameter, std::size_t key, Place place);
  void handleReleased();
  void placePicked(Place place);
  void strokeBegan(Place place);
  void strokeMoved(Place place);
  void strokeEnded();
  void viewChanged();  ///< zoom or size: a picture of another size is wanted

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void resizeEvent(QResizeEvent*) override;
  void leaveEvent(QEvent*) override;

 private:
  QRectF target() const;
  double fitScale() const;
  double scale() const;
  std::optional<std::size_t> handleAt(const QPointF& point) const;
  Place placeAt(const QPointF& point) const;
  Qt::CursorShape restingCursor() const;
  void setZoomAround(double zoom, const QPointF& anchor);
  void paintHandles(QPainter& painter) const;

  QImage image_;
  PictureState state_;
  Size size_{0, 0};
  double pixelAspect_ = 1;
  double zoom_ = 0;
  QPointF centre_{0.5, 0.5};  ///< fraction of the picture in the middle of the view, when not fitted
  std::optional<std::size_t> dragged_, hovered_;
  QPointF grip_;  ///< from the pointer to the handle, while it is dragged
  bool panning_ = false, painting_ = false;
  QPointF panFrom_, pointer_;
};

}  // namespace molten
