#pragma once
// What part of the output and of the source a chart shows, and where moments stand on it.

#include <QPointF>
#include <QRectF>
#include <QString>
#include <algorithm>

namespace molten {

/// Seconds along (output) and up (source, or percent of speed).
struct ChartView {
  QRectF area;  ///< on the widget
  double left = 0, right = 1;
  double bottom = 0, top = 1;

  double xOf(double t) const { return area.left() + (t - left) / (right - left) * area.width(); }
  double yOf(double s) const { return area.bottom() - (s - bottom) / (top - bottom) * area.height(); }
  double timeAt(double x) const { return left + (x - area.left()) / area.width() * (right - left); }
  double sourceAt(double y) const { return bottom + (area.bottom() - y) / area.height() * (top - bottom); }
  QPointF at(double t, double s) const { return {xOf(t), yOf(s)}; }
  friend bool operator==(const ChartView&, const ChartView&) = default;

  /// Nearer or farther about a moment that stays where it is.
  void zoomAcross(double by, double about) {
    left = about + (left - about) / by;
    right = about + (right - about) / by;
  }
  void zoomUp(double by, double about) {
    bottom = about + (bottom - about) / by;
    top = about + (top - about) / by;
  }
};

/// A step of 1, 2 or 5 times a power of ten that leaves room between two lines of a grid.
double gridStep(double perPixel, double room);
/// The same for seconds: from half a minute on in minutes and hours.
double timeStep(double perPixel, double room);
/// `1.5 s`: as many decimals as a grid of that step asks for.
QString secondsLabel(double seconds, double step);

}  // namespace molten
