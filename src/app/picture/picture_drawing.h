#pragma once
// How the Picture is drawn.

#include <QCoreApplication>
#include <QImage>

#include "app/picture/label_places.h"
#include "app/picture/picture_sight.h"
#include "app/picture/picture_state.h"

class QPainter;

namespace molten {

/// The picture where it stands, what it is compared with, and on it the selected stage's handles.
class PictureDrawing {
  Q_DECLARE_TR_FUNCTIONS(molten::PictureDrawing)

 public:
  PictureDrawing(const PictureSight& sight, const PictureState& state) : sight_(sight), state_(state) {}
  void setImage(QImage image);
  void setOther(QImage image);
  /// What enters the stage of which a frame is shown.
  void setEntering(QImage image) { entering_ = std::move(image); }
  /// Where its small picture is; none: it is not shown.
  std::optional<QRectF> frameRoom() const;
  void setSteps(QImage borders) { steps_ = std::move(borders); }
  void setField(QImage field, std::vector<PictureLabel> labels) {
    field_ = std::move(field), labels_ = std::move(labels);
  }
  const QImage& field() const { return field_; }
  const QImage& image() const { return image_; }
  const QImage& steps() const { return steps_; }
  /// Where the wipe's border is, as a part of the view's width.
  void setWipe(double wipe) { wipe_ = wipe; }
  /// The handle in hand or under it.
  void setActiveHandle(std::optional<std::size_t> handle) { activeHandle_ = handle; }
  /// Whether the frame is in hand, or under it.
  void setFrameActive(bool active) { frameActive_ = active; }
  /// Where the brush is; none: it is not shown.
  void setBrushAt(std::optional<QPointF> point) { brushAt_ = point; }

  /// True if there is something to compare with, and it is to be.
  bool isComparing() const { return state_.comparing != Comparing::Off && !other_.isNull(); }
  QString zoomText() const;
  /// Where labels stand, as it was last drawn.
  const std::vector<QRectF>& labels() const { return places_.labels(); }
  void draw(QPainter& painter, const QRectF& view);

 private:
  void paintPicture(QPainter& painter, const QImage& image, const QRectF& where) const;
  void paintOther(QPainter& painter) const;
  void makeDifference();
  void paintField(QPainter& painter) const;
  void paintMarks(QPainter& painter) const;
  void paintGuides(QPainter& painter) const;
  void paintLines(QPainter& painter) const;
  void paintHandles(QPainter& painter) const;
  void paintFrame(QPainter& painter, const QRectF& room) const;
  void paintBrush(QPainter& painter) const;
  void paintHandleTags(QPainter& painter);
  void paintTags(QPainter& painter);
  void paintFieldTags(QPainter& painter);
  void paintMessage(QPainter& painter) const;

  const PictureSight& sight_;
  const PictureState& state_;
  QImage image_, other_, difference_, steps_, field_, entering_;
  std::vector<PictureLabel> labels_;  ///< of the field
  QRectF view_;
  LabelPlaces places_;
  double wipe_ = 0.5;
  std::optional<std::size_t> activeHandle_;
  bool frameActive_ = false;
  std::optional<QPointF> brushAt_;
};

}  // namespace molten
