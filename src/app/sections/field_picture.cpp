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

constexpr int tableSize = 512;

/// From all of the reach back to all of it ahead.
std::vector<QRgb> colourTable() {
  std::vector<QRgb> table;
  for (int i = 0; i < tableSize; ++i) {
    const QColor colour = theme::momentColour((i + 0.5) / (tableSize / 2.0) - 1);
    table.push_back(qPremultiply(qRgba(colour.red(), colour.green(), colour.blue(), veil)));
  }
  return table;
}

/// Evenly between what was looked at, over all pixels.
std::vector<float> spread(const std::vector<float>& looked, Size from, Size to, int coarse) {
  struct Between {
    std::size_t first, second;
    float part;
  };
  const auto between = [coarse](int i, int count) {
    const float at = std::clamp((static_cast<float>(i) + 0.5f) / static_cast<float>(coarse) - 0.5f, 0.0f,
                                static_cast<float>(count - 1));
    const auto first = static_cast<std::size_t>(at);
    return Between{first, std::min(first + 1, static_cast<std::size_t>(count - 1)), at - static_cast<float>(first)};
  };
  std::vector<Between> columns;
  for (int x = 0; x < to.width; ++x) columns.push_back(between(x, from.width));
  std::vector<float> all;
  all.reserve(static_cast<std::size_t>(to.width) * static_cast<std::size_t>(to.height));
  for (int y = 0; y < to.height; ++y) {
    const Between rows = between(y, from.height);
    const float* const upper = &looked[rows.first * static_cast<std::size_t>(from.width)];
    const float* const lower = &looked[rows.second * static_cast<std::size_t>(from.width)];
    for (const Between& x : columns) {
      const float above = upper[x.first] + (upper[x.second] - upper[x.first]) * x.part;
      const float below = lower[x.first] + (lower[x.second] - lower[x.first]) * x.part;
      all.push_back(above + (below - above) * rows.part);
    }
  }
  return all;
}

/// What each pixel reads, in seconds beside now, row after row; what reads nothing is no number.
std::vector<float> momentsOf(const ChainReading& reading, const Moment& moment, Size full, Size shown, int coarse,
                             double now, double rate) {
  const Size looked{(shown.width + coarse - 1) / coarse, (shown.height + coarse - 1) / coarse};
  PlaneSites sites;
  sites.width = looked.width, sites.height = looked.height;
  sites.stepX = static_cast<double>(full.width) / shown.width * coarse;
  sites.stepY = static_cast<double>(full.height) / shown.height * coarse;
  sites.x0 = sites.stepX / 2, sites.y0 = sites.stepY / 2;
  std::vector<float> moments(static_cast<std::size_t>(looked.width) * static_cast<std::size_t>(looked.height));
  RowReads line;
  auto out = moments.begin();
  for (int y = 0; y < looked.height; ++y) {
    reading.row(moment, sites, y, line);
    for (std::size_t x = 0; x < static_cast<std::size_t>(looked.width); ++x)
      *out++ = std::isnan(line.offsets[x]) ? NAN : static_cast<float>((line.at(x) - now) / rate);
  }
  return coarse > 1 ? spread(moments, looked, shown, coarse) : moments;
}

}  // namespace

double contourStep(double range, double frame) {
  const double wanted = std::max(range / 6, frame);
  const double power = std::pow(10, std::floor(std::log10(wanted)));
  for (const double times : {1.0, 2.0, 5.0})
    if (power * times >= wanted * (1 - 1e-9)) return power * times;
  return power * 10;
}

FieldPicture fieldPicture(const ChainReading& reading, const Moment& moment, Size full, Size shown, int coarse,
                          double now, double rate) {
  const auto columns = static_cast<std::size_t>(shown.width);
  const std::vector<float> beside = momentsOf(reading, moment, full, shown, coarse, now, rate);
  float least = 0, most = 0;
  for (const float seconds : beside)
    if (!std::isnan(seconds)) least = std::min(least, seconds), most = std::max(most, seconds);
  FieldPicture field;
  if (most - least < 1e-6f) return field;
  const double reach = std::max(-least, most), step = contourStep(most - least, 1 / rate);
  field.image = QImage(shown.width, shown.height, QImage::Format_ARGB32_Premultiplied);
  const std::vector<QRgb> colours = colourTable();
  std::map<std::int64_t, std::vector<Place>> lines;
  const auto bandOf = [&](float seconds) {
    return std::isnan(seconds) ? INT64_MIN : static_cast<std::int64_t>(std::floor(seconds / step));
  };
  const QRgb contour = qPremultiply(qRgba(theme::ink.red(), theme::ink.green(), theme::ink.blue(), 235));
  for (int y = 0; y < shown.height; ++y) {
    auto* const out = reinterpret_cast<QRgb*>(field.image.scanLine(y));
    const float* const row = &beside[static_cast<std::size_t>(y) * columns];
    const float* const above = &beside[static_cast<std::size_t>(std::max(0, y - 1)) * columns];
    for (std::size_t x = 0; x < columns; ++x) {
      if (std::isnan(row[x])) {
        out[x] = 0;
        continue;
      }
      out[x] = colours[static_cast<std::size_t>(std::clamp((row[x] / reach + 1) * (tableSize / 2), 0.0, tableSize - 1.0))];
      const std::int64_t own = bandOf(row[x]);
      std::int64_t other = own;
      if (x > 0) other = bandOf(row[x - 1]);
      if (other == own) other = bandOf(above[x]);
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
