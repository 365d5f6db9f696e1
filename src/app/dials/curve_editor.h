#pragma once
// A response curve, its points dragged by hand.

#include <QWidget>
#include <optional>

#include "core/field/response_curve.h"

namespace molten {

/// Points are dragged, added by a double click on the ground, and taken away by one on themselves.
class CurveEditor : public QWidget {
  Q_OBJECT

 public:
  explicit CurveEditor(QWidget* parent = nullptr);
  void setPoints(const CurvePoints& points);
  QPointF pointAt(std::size_t index) const;

 signals:
  void changed(const CurvePoints& points, bool gesture);
  void released();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;

 private:
  QRectF area() const;
  std::optional<std::size_t> hit(const QPointF& at) const;
  Place placeAt(const QPointF& at) const;

  CurvePoints points_ = straightCurve;
  std::optional<std::size_t> held_;
};

}  // namespace molten
