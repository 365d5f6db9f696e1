#pragma once
// Across and Down: a slice through the footage along the Picture's marked row or column, and on it the moments that
// its pixels read.

#include <QImage>
#include <QPixmap>
#include <QWidget>
#include <optional>
#include <vector>

namespace molten {

struct SectionState {
  QString title;
  double from = 0, to = 1;  ///< where the picture's edges stand along the section, in pixels of the widget
  double length = 1;        ///< of the clip, in seconds
  double first = 0, last = 1;  ///< what part of its time is in sight, in seconds; the clip may be longer or shorter
  double now = 0;               ///< what a pixel that is not displaced reads, in seconds
  double frame = 0.04;          ///< how long a frame lasts, in seconds
  std::vector<double> reads;    ///< along the picture, in seconds of the footage; empty: not known
  double marked = 0.5;          ///< the other section's place, as a part of the picture
  std::optional<std::pair<double, double>> ring;  ///< the hovered pixel: its place along the picture, and its second
  bool mayPull = false;                           ///< the selected stage can be set by the line
  bool dimmed = false;                            ///< another stage than the selected one displaces
};

class SectionView : public QWidget {
  Q_OBJECT

 public:
  enum class Way { Across, Down };
  explicit SectionView(Way way, QWidget* parent = nullptr);

  void setState(const SectionState& state);
  const SectionState& state() const { return state_; }
  void setSlice(const QImage& slice);
  const QImage& slice() const { return slice_; }
  /// Where the line stands at a part of the picture.
  QPointF linePoint(double along) const;
  QPointF point(double along, double seconds) const;
  /// In the corner where it covers least of the line.
  QRectF titleRect() const;

 signals:
  void pulled(double along, double seconds);  ///< from where it was when it was taken hold of
  void pullBegan(double along);
  void released();
  void markMoved(double along);  ///< of the other section
  void hovered(std::optional<double> along);
  void zoomed(double by, double seconds);  ///< so many times nearer, about a moment
  void wholeWanted();                      ///< all that is read, again

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent*) override;
  void wheelEvent(QWheelEvent* event) override;
  void leaveEvent(QEvent*) override;

 private:
  enum class Grip { None, Line, Mark };
  void paintSlice(QPainter& painter);
  void paintReads(QPainter& painter) const;
  void paintGrip(QPainter& painter) const;
  void paintTitle(QPainter& painter) const;
  double farthest() const;
  double alongOf(const QPointF& at) const;
  double secondsAt(const QPointF& at) const;
  double readAt(double along) const;
  Grip gripAt(const QPointF& at) const;

  Way way_;
  SectionState state_;
  QImage slice_;
  QPixmap scaled_;  ///< the slice as it was last drawn
  Grip grip_ = Grip::None;
  double heldAlong_ = 0, heldSeconds_ = 0;
};

}  // namespace molten
