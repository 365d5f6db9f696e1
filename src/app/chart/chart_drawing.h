#pragma once
// How the Time Chart is drawn.

#include <QCoreApplication>

#include "app/chart/chart_hand.h"

class QPainter;

namespace molten {

/// Draws what is in sight; the playhead by itself, over a picture of the rest that is kept.
class ChartDrawing {
  Q_DECLARE_TR_FUNCTIONS(molten::ChartDrawing)

 public:
  explicit ChartDrawing(const ChartSight& sight) : sight_(sight) {}
  void setPictures(const SmallPictures* pictures) { pictures_ = pictures; }
  /// What the hand is over.
  void setHover(const ChartHold& hover) { hover_ = hover; }

  void draw(QPainter& painter, const QRectF& chart);
  void drawPlayhead(QPainter& painter) const;
  /// Words beside the hand, within the chart.
  static void drawSaying(QPainter& painter, const QString& words, const QPointF& at, const QRectF& chart);
  /// Where the way out of reads outside of the clip was written; empty: nowhere.
  const QRectF& remedy() const { return remedy_; }

 private:
  void drawGrid(QPainter& painter) const;
  void drawPictures(QPainter& painter) const;
  void drawReads(QPainter& painter);
  void drawOutside(QPainter& painter, const QVector<QRectF>& runs);
  void drawPace(QPainter& painter) const;
  void drawMarks(QPainter& painter, const PaceCurve& curve) const;
  void drawSpeed(QPainter& painter) const;
  void drawSpanLabels(QPainter& painter) const;
  static QString lookOf(const ChartPace& pace, std::size_t span);

  const ChartSight& sight_;
  const SmallPictures* pictures_ = nullptr;
  ChartHold hover_;
  QRectF remedy_;
};

}  // namespace molten
