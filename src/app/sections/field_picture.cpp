#include "app/sections/field_picture.h"

#include <algorithm>
#include <cmath>
#include <map>

#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr int veil = 150;  ///< alpha of the colours; the footage is seen through them

/// Where labels may stand, along their lines: not closer to each other than this, as a part of the width.
constexpr double apart = 0.12, inset = 0.06;

/// One label for each line: of its places the one that is farthest from the labels that stand already, and inside.
std::vector<FieldLabel> labelled(const std::map<std::int64_t, std::vector<Place>>& lines, double step) {
  std::vector<FieldLabel> labels;
  for (const auto& [number, places] : lines) {
    const Place* best = nullptr;
    double most = apart;
    for (const Place& place : places) {
      if (place.x < inset || place.x > 1 - inset || place.y < inset || place.y > 1 - inset) continue;
      // The middle is as good as far away.
      double away = 1 - std::hypot(place.x - 0.5, place.y - 0.5) * 0.5;
      for (const FieldLabel& other : labels)
        away = std::min(away, std::hypot(place.x - other.place.x, place.y - other.place.y));
      if (away > most) most = away, best = &place;
    }
    if (best) labels.push_back({*best, static_cast<double>(number) * step});
  }
  return labels;
}

}  // namespace

double contourStep(double range, double frame) {
  const double wanted = std::max(range / 6, frame);
  const double power = std::pow(10, std::floor(std::log10(wanted)));
  for (const double times : {1.0, 2.0, 5.0})
    if (power * times >= wanted * (1 - 1e-9)) return power * times;
  return power * 10;
}

FieldPicture fieldPicture(const ChainReading& reading, const Moment& moment, Size full, Size shown, double now,
                          double rate) {
  PlaneSites sites;
  sites.width = shown.width, sites.height = shown.height;
  sites.stepX = static_cast<double>(full.width) / shown.width;
  sites.stepY = static_cast<double>(full.height) / shown.height;
  sites.x0 = sites.stepX / 2, sites.y0 = sites.stepY / 2;
  const auto columns = static_cast<std::size_t>(shown.width);
  // Seconds beside now; what reads nothing is no number.
  std::vector<float> beside(columns * static_cast<std::size_t>(shown.height));
  float least = 0, most = 0;
  RowReads line;
  for (int y = 0; y < shown.height; ++y) {
    reading.row(moment, sites, y, line);
    float* const row = &beside[static_cast<std::size_t>(y) * columns];
    for (std::size_t x = 0; x < columns; ++x) {
      row[x] = std::isnan(line.offsets[x]) ? NAN : static_cast<float>((line.at(x) - now) / rate);
      if (std::isnan(row[x])) continue;
      least = std::min(least, row[x]), most = std::max(most, row[x]);
    }
  }
  FieldPicture field;
  if (most - least < 1e-6f) return field;
  const double reach = std::max(-least, most), step = contourStep(most - least, 1 / rate);
  field.image = QImage(shown.width, shown.height, QImage::Format_ARGB32_Premultiplied);
  std::map<std::int64_t, std::vector<Place>> lines;
  const auto bandOf = [&](float seconds) {
    return std::isnan(seconds) ? INT64_MIN : static_cast<std::int64_t>(std::floor(seconds / step));
  };
  const QRgb contour = qPremultiply(qRgba(theme::ink.red(), theme::ink.green(), theme::ink.blue(), 235));
  for (int y = 0; y < shown.height; ++y) {
    auto* const out = reinterpret_cast<QRgb*>(field.image.scanLine(y));
    const float* const row = &beside[static_cast<std::size_t>(y) * columns];
    for (std::size_t x = 0; x < columns; ++x) {
      if (std::isnan(row[x])) {
        out[x] = 0;
        continue;
      }
      const QColor colour = theme::momentColour(row[x] / reach);
      out[x] = qPremultiply(qRgba(colour.red(), colour.green(), colour.blue(), veil));
      const std::int64_t own = bandOf(row[x]);
      std::int64_t other = own;
      if (x > 0) other = bandOf(row[x - 1]);
      if (other == own && y > 0) other = bandOf(row[x - columns]);
      if (other == own || other == INT64_MIN) continue;
      out[x] = contour;
      // The line between two bands is of the upper one's moment; where more than two meet, of none.
      if (std::abs(other - own) == 1)
        lines[std::max(own, other)].push_back({(static_cast<double>(x) + 0.5) / shown.width, (y + 0.5) / shown.height});
    }
  }
  field.labels = labelled(lines, step);
  return field;
}

}  // namespace molten
