#pragma once
// The Picture: the output at the playhead, with the selected stage's handles on it.

#include <QWidget>

#include "app/picture/picture_drawing.h"

namespace molten {

/// The widget: what hands do on the picture. Where it stands is PictureSight's, how it looks PictureDrawing's. Qt wants
/// a method of it for each kind of event; without those and the signals there are twenty-nine.
class PictureView : public QWidget {
  Q_OBJECT

 public:
  explicit PictureView(QWidget* parent = nullptr);

  /// `shape`: of the whole picture at full size.
  void setPictureShape(Size size, double pixelAspect);
  void setImage(QImage image);
  /// What the picture is compared with; null: nothing yet.
  void setOther(QImage image);
  /// A small picture of what enters the stage whose frame is shown; null: nothing yet.
  void setEntering(QImage image);
  /// Where it stands; none: it is not shown.
  std::optional<QRectF> frameRoom() const { return drawing_.frameRoom(); }
  /// The borders between frames, over the whole picture; null: none.
  void setSteps(QImage borders);
  const QImage& steps() const { return drawing_.steps(); }
  /// The field over the whole picture, with labels on its lines; a null image: none.
  void setField(QImage field, std::vector<PictureLabel> labels);
  const QImage& field() const { return drawing_.field(); }
  void setState(const PictureState& state);
  const PictureState& state() const { return state_; }
  const QImage& image() const { return drawing_.image(); }

  /// Screen pixels for one picture pixel down; 0: fitted.
  double zoom() const { return sight_.zoom; }
  /// The zoom as it is seen, fitted or not.
  double shownZoom() const { return sight_.shownZoom(); }
  void setZoom(double zoom) { setZoomAround(zoom, QPointF(width() / 2.0, height() / 2.0)); }
  void fit() { setZoom(0); }
  /// A field over the zoom's words, to type it into: `150%`, `fit`.
  void typeZoom();
  QString zoomText() const { return drawing_.zoomText(); }
  /// Where labels stand, as it was last drawn.
  const std::vector<QRectF>& labels() const { return drawing_.labels(); }
  /// The size, in device pixels, at which a picture is best delivered.
  Size wantedSize() const { return sight_.wantedSize(); }
  /// Where the picture is on the widget; side by side, the right one.
  QRectF target() const { return sight_.target(); }
  /// Where a place of the picture is on the widget.
  QPointF toWidget(const Place& place) const { return sight_.toWidget(place); }
  /// Where the wipe's border is, as a part of the widget's width.
  double wipe() const { return wipe_; }

 signals:
  void handleMoved(std::size_t handle, Place place);
  void keyMoved(std::size_t parameter, std::size_t key, Place place);
  void handleReleased();
  void frameMoved(Place middle);  ///< where the middle of the frame is to be, as a fraction of what enters its stage
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
  /// What is held beside a handle; Ground: the picture itself.
  enum class Hold { Nothing, Frame, Column, Row, Wipe, Brush, Ground };
  void setPane();
  void setZoomAround(double zoom, const QPointF& anchor);
  std::optional<std::size_t> handleAt(const QPointF& point) const;
  Hold holdAt(const QPointF& point) const;
  void dragHandle(const QPointF& point, bool straight);
  void drag(const QPointF& point);
  void takeFrame(const QPointF& point);
  void dragFrame(const QPointF& point);
  Qt::CursorShape restingCursor() const;

  PictureSight sight_;
  PictureState state_;
  PictureDrawing drawing_{sight_, state_};
  double wipe_ = 0.5;
  Hold hold_ = Hold::Nothing;
  std::optional<std::size_t> dragged_, hovered_;
  bool overFrame_ = false;
  QPointF grip_;  ///< from the pointer to the handle, or to the frame's middle as a fraction, while it is dragged
  QPointF panFrom_, pointer_;
};

}  // namespace molten
