#include "app/chart/chart_view.h"

#include <cmath>

namespace molten {

double timeStep(double perPixel, double room) {
  for (const double minutes : {60.0, 120.0, 300.0, 600.0, 1800.0, 3600.0, 7200.0, 21600.0})
    if (perPixel * room > 30 && minutes >= perPixel * room) return minutes;
  return gridStep(perPixel, room);
}

QString secondsLabel(double seconds, double step) {
  const int decimals = step >= 1 ? 0 : step >= 0.1 ? 1 : step >= 0.01 ? 2 : 3;
  return QString::number(seconds, 'f', decimals).replace('-', QChar(0x2212)) + " s";
}

double gridStep(double perPixel, double room) {
  const double least = perPixel * room;
  const double power = std::pow(10, std::floor(std::log10(least)));
  for (const double times : {1.0, 2.0, 5.0})
    if (power * times >= least) return power * times;
  return power * 10;
}

}  // namespace molten
