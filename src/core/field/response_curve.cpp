#include "core/field/response_curve.h"

#include <algorithm>
#include <cmath>

#include "core/number_text.h"

namespace molten {
namespace {

}  // namespace

ResponseCurve::ResponseCurve(CurvePoints points) : points_(std::move(points)), slopes_(points_.size()) {
  const std::size_t n = points_.size();
  std::vector<double> rise(n - 1);
  for (std::size_t i = 0; i + 1 < n; ++i)
    rise[i] = (points_[i + 1].y - points_[i].y) / (points_[i + 1].x - points_[i].x);
  slopes_.front() = rise.front(), slopes_.back() = rise.back();
  for (std::size_t i = 1; i + 1 < n; ++i) slopes_[i] = rise[i - 1] * rise[i] <= 0 ? 0 : (rise[i - 1] + rise[i]) / 2;
  // Slopes are held within three times the rise on either side: there the cubic does not turn.
  for (std::size_t i = 0; i + 1 < n; ++i) {
    if (rise[i] == 0) {
      slopes_[i] = slopes_[i + 1] = 0;
      continue;
    }
    const double a = slopes_[i] / rise[i], b = slopes_[i + 1] / rise[i], length = std::hypot(a, b);
    if (length <= 3) continue;
    slopes_[i] = 3 / length * a * rise[i];
    slopes_[i + 1] = 3 / length * b * rise[i];
  }
}

double ResponseCurve::at(double x) const {
  x = std::clamp(x, 0.0, 1.0);
  std::size_t i = 0;
  while (i + 2 < points_.size() && x >= points_[i + 1].x) ++i;
  const Place &a = points_[i], &b = points_[i + 1];
  const double h = b.x - a.x, t = (x - a.x) / h, s = 1 - t;
  return a.y * (1 + 2 * t) * s * s + slopes_[i] * h * t * s * s + b.y * t * t * (3 - 2 * t) -
         slopes_[i + 1] * h * t * t * s;
}

bool isCurve(const CurvePoints& points) {
  if (points.size() < 2 || points.size() > mostCurvePoints || points.front().x != 0 || points.back().x != 1)
    return false;
  for (std::size_t i = 0; i < points.size(); ++i) {
    if (!(points[i].y >= 0 && points[i].y <= 1)) return false;
    if (i > 0 && !(points[i].x > points[i - 1].x + 1e-6)) return false;
  }
  return true;
}

std::optional<CurvePoints> parseCurve(std::string_view text) {
  if (text == "straight") return straightCurve;
  CurvePoints points;
  while (!text.empty()) {
    const auto plus = std::min(text.find('+'), text.size());
    const std::string_view pair = text.substr(0, plus);
    text.remove_prefix(std::min(plus + 1, text.size()));
    const auto cross = pair.find('x');
    if (cross == std::string_view::npos) return std::nullopt;
    const auto x = readNumber(pair.substr(0, cross)), y = readNumber(pair.substr(cross + 1));
    if (!x || !y) return std::nullopt;
    points.push_back({*x, *y});
  }
  return isCurve(points) ? std::optional(points) : std::nullopt;
}

std::string curveText(const CurvePoints& points) {
  if (points == straightCurve) return "straight";
  std::string text;
  for (const Place& point : points) {
    if (!text.empty()) text += '+';
    text += exactText(point.x) + "x" + exactText(point.y);
  }
  return text;
}

}  // namespace molten
