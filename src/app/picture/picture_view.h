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

/// How the picture is compared with another one.
enum class Comparing { Off, Wipe, SideBySide, Difference };

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
  double brush = 0;            ///< radius in picture heights, while painting
  std::optional<Place> marks;  ///< the column (x) and the row (y) that Down and Across show
  std::optional<Place> ring;   ///< what another view points at
  QString pointed;             ///< about the pixel under the pointer
  Comparing comparing = Comparing::Off;
  QString otherName;  ///< what it is compared with
};

class PictureView : public QWidget {
  Q_OBJECT

 public:
  explicit PictureView(QWidget* parent = nullptr);

  /// `shape`: of the whole picture at full size.
  void setPictureShape(Size size, double pixelAspect);
  void setImage(QImage image);
  /// What the picture is compared with; null: nothing yet.
  void setOther(QImage image);
  /// The borders between frames, over the whole picture; null: none.
  void setSteps(QImage borders);
  const QImage& steps() const { return steps_; }
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
  /// Where the picture is on the widget; side by side, the right one.
  QRectF target() const;
  /// Where the wipe's border is, as a part of the widget's width.
  double wipe() const { return wipe_; }
  /// Where a place of the picture is on the widget.
  QPointF toWidget(const Place& place) const;
  QString zoomText() const;

 signals:
  void handleMoved(std::size_t handle, Place place);
  void keyMoved(std::size_t parameter, std::size_t key, Place place);
  void handleReleased();
  void placePicked(Place place);
  void marksMoved(Place marks);
  void pointedAt(std::optional<Place> place);  ///< the pixel under the pointer; none: off the picture
  void strokeBegan(Place place);
  void strokeMoved(Place place);
  void strokeEnded();
  void panned();
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
  enum class Held { Nothing, Column, Row, Wipe };
  QRectF pane() const;
  Held heldAt(const QPointF& point) const;
  void paintPicture(QPainter& painter, const QImage& image, const QRectF& where) const;
  void paintOther(QPainter& painter) const;
  void paintMarks(QPainter& painter) const;
  void makeDifference();
  double fitScale() const;
  double scale() const;
  std::optional<std::size_t> handleAt(const QPointF& point) const;
  Place placeAt(const QPointF& point) const;
  Qt::CursorShape restingCursor() const;
  void setZoomAround(double zoom, const QPointF& anchor);
  void paintHandles(QPainter& painter) const;

  QImage image_, other_, difference_, steps_;
  PictureState state_;
  double wipe_ = 0.5;
  Held held_ = Held::Nothing;
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
