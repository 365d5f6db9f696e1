#pragma once
// A frame order as pictures: the order above, to be changed; all frames below, to be clicked into it.

#include <QImage>
#include <QWidget>
#include <functional>
#include <optional>
#include <vector>

#include "app/theme/spoken.h"
#include "core/time/frame_order.h"

namespace molten {

class OrderEditor : public QWidget, public theme::SpokenState {
  Q_OBJECT

 public:
  explicit OrderEditor(QWidget* parent = nullptr);
  QString spokenState() const override;
  /// `frames`: how many the incoming video has.
  /// `rate`: of the incoming video, for holds that are typed as times.
  void setOrder(const FrameOrder& order, std::int64_t frames, Rational rate);
  /// A frame's small picture; a null image where there is none yet.
  void setPictures(std::function<QImage(std::int32_t)> pictures);
  std::optional<std::size_t> selected() const { return selected_; }
  QRectF tileRect(std::size_t item) const;
  QRectF frameRect(std::int32_t frame) const;
  /// The frames whose pictures are in sight.
  std::vector<std::int32_t> framesInSight() const;
  bool hasHeightForWidth() const override { return true; }
  int heightForWidth(int width) const override;
  QSize sizeHint() const override { return {300, heightForWidth(300)}; }
  QSize minimumSizeHint() const override { return {160, heightForWidth(std::max(160, width()))}; }

 signals:
  void changed(const FrameOrder& order);
  void picturesWanted(const std::vector<std::int32_t>& frames);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent* event) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void wheelEvent(QWheelEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  void resizeEvent(QResizeEvent*) override;
  bool event(QEvent* event) override;

 private:
  std::optional<std::size_t> tileAt(const QPointF& point) const;
  std::optional<std::int32_t> frameAt(const QPointF& point) const;
  int tilesAcross(int width) const;
  int linesFor(int width) const;
  double stripTop() const;
  void drawPicture(QPainter& painter, const QRectF& box, std::int32_t frame) const;
  void changeHold(std::size_t item, int by) { setHold(item, order_[item].hold + by); }
  void setHold(std::size_t item, std::int32_t hold);
  /// A field over an item's label to type its hold into, beginning with what was typed already.
  void typeHold(std::size_t item, const QString& typed);
  void move(std::size_t from, std::size_t to);
  void remove(std::size_t item);
  void add(std::int32_t frame);
  void tell();

  FrameOrder order_;
  std::int64_t frames_ = 1;
  Rational rate_ = 25;
  std::function<QImage(std::int32_t)> pictures_;
  std::optional<std::size_t> selected_, pressed_;
  QPointF pressedAt_;
  std::optional<std::size_t> dropAt_;
  double scroll_ = 0;  ///< of the frames, in pixels
};

}  // namespace molten
