#pragma once
// A curve from 0…1 to 0…1, drawn through points.

#include <optional>
#include <string>
#include <string_view>
#include <vector>

#include "core/field/field_shape.h"

namespace molten {

/// Points in rising x, from 0 to 1 both ways; at least two, the first at x = 0 and the last at x = 1. Between them it
/// runs smoothly and nowhere beyond its points (Fritsch and Carlson, Monotone Piecewise Cubic Interpolation, 1980).
using CurvePoints = std::vector<Place>;

inline const CurvePoints straightCurve = {{0, 0}, {1, 1}};
constexpr std::size_t mostCurvePoints = 32;

class ResponseCurve {
 public:
  /// Requires points as described.
  explicit ResponseCurve(CurvePoints points);
  double at(double x) const;

 private:
  CurvePoints points_;
  std::vector<double> slopes_;
};

/// `0x0+0.3x0.7+1x1`, or `straight`. Nothing if the text is no such curve.
std::optional<CurvePoints> parseCurve(std::string_view text);
std::string curveText(const CurvePoints& points);
/// Whether points are as a curve wants them.
bool isCurve(const CurvePoints& points);

}  // namespace molten
