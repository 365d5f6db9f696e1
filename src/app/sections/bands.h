#pragma once
// The Picture and in line with it, where they are shown, Across below it and Down beside it; in the corner between them
// words about what a pixel reads.

#include <QWidget>

class QLabel;

namespace molten {

class SectionView;

/// Each band is as high, or as wide, as the hand last made it.
class Bands : public QWidget {
  Q_OBJECT

 public:
  Bands(QWidget* picture, SectionView* across, SectionView* down, QWidget* parent = nullptr);
  void setShown(bool shown);
  bool shown() const { return shown_; }
  void setCorner(const QString& words);

 signals:
  void arranged();  ///< the bands have another size

 protected:
  void resizeEvent(QResizeEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void paintEvent(QPaintEvent*) override;

 private:
  enum class Grip { None, Across, Down };
  Grip gripAt(const QPoint& point) const;
  void arrange();
  /// What they take of the room that there is.
  int acrossHeight() const;
  int downWidth() const;

  QWidget* picture_;
  SectionView *across_, *down_;
  QLabel* corner_;
  bool shown_ = false;
  int acrossWanted_, downWanted_;
  Grip grip_ = Grip::None;
};

}  // namespace molten
