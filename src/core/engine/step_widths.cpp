#include "core/engine/step_widths.h"

#include <algorithm>
#include <cmath>

namespace molten {
namespace {

/// Frames that a line of sites reads, and for each place how far its frame goes; 0 where it goes to the line's end.
std::vector<double> widthsOf(std::span<const double> line) {
  std::vector<double> widths(line.size());
  std::size_t begin = 0;
  for (std::size_t i = 1; i <= line.size(); ++i) {
    if (i < line.size() && nearestWhole(line[i]) == nearestWhole(line[begin])) continue;
    // What is level is so on purpose: held, or a pane of glass. The rest of a run is a step.
    constexpr double level = 1e-4;
    double rising = 0;
    for (std::size_t k = begin; k < i; ++k)
      rising += (k > begin && std::abs(line[k] - line[k - 1]) > level) ||
                (k + 1 < i && std::abs(line[k + 1] - line[k]) > level) || i - begin == 1;
    const bool bounded = begin > 0 && i < line.size();
    std::fill(widths.begin() + static_cast<std::ptrdiff_t>(begin), widths.begin() + static_cast<std::ptrdiff_t>(i),
              bounded ? rising : 0.0);
    begin = i;
  }
  return widths;
}

/// Neighbours along lines, and how far their frames are apart.
struct Neighbours {
  double most = 0;
  std::size_t all = 0, apart = 0;

  void take(std::span<const double> line) {
    for (std::size_t i = 1; i < line.size(); ++i) {
      const auto jump = static_cast<double>(std::abs(nearestWhole(line[i]) - nearestWhole(line[i - 1])));
      most = std::max(most, jump);
      apart += jump > 1;
    }
    all += line.size() - 1;
  }
};

}  // namespace

StepWidths stepWidths(const Displacement& displacement, Size picture) {
  constexpr int lines = 40;
  const auto placeOf = [](int i, int size) { return std::min(size - 1, size * (2 * i + 1) / (2 * lines)); };
  PlaneSites sites;
  sites.width = picture.width, sites.height = picture.height;
  std::vector<std::vector<double>> across, down;
  Neighbours neighbours;
  std::vector<double> line(static_cast<std::size_t>(picture.width));
  for (int j = 0; j < lines; ++j) {
    displacement.row(sites, placeOf(j, picture.height), line);
    neighbours.take(line);
    across.push_back(widthsOf(line));
  }
  PlaneSites column;
  column.width = 1, column.height = picture.height;
  std::vector<double> tall(static_cast<std::size_t>(picture.height));
  for (int i = 0; i < lines; ++i) {
    column.x0 = placeOf(i, picture.width) + 0.5;
    for (int y = 0; y < picture.height; ++y) displacement.row(column, y, {&tall[static_cast<std::size_t>(y)], 1});
    neighbours.take(tall);
    down.push_back(widthsOf(tall));
  }
  std::vector<double> widths;
  for (int j = 0; j < lines; ++j)
    for (int i = 0; i < lines; ++i) {
      const double w = across[static_cast<std::size_t>(j)][static_cast<std::size_t>(placeOf(i, picture.width))];
      const double h = down[static_cast<std::size_t>(i)][static_cast<std::size_t>(placeOf(j, picture.height))];
      if (w == 0 && h == 0) continue;
      widths.push_back(1 / std::hypot(w > 0 ? 1 / w : 0, h > 0 ? 1 / h : 0));
    }
  StepWidths found;
  found.jump = neighbours.most;
  found.torn = neighbours.all ? static_cast<double>(neighbours.apart) / static_cast<double>(neighbours.all) : 0;
  if (widths.empty()) return found;
  std::sort(widths.begin(), widths.end());
  found.widest = widths.back();
  found.usual = widths[widths.size() / 2];
  return found;
}

}  // namespace molten
