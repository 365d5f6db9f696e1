#include "core/stages/time_map.h"

#include <algorithm>
#include <cmath>
#include <limits>

namespace molten {
namespace {

/// Of more pictures than this the bounds of all are taken.
constexpr double mostAsked = 512;

}  // namespace

void DisplacingMap::displaceEach(std::span<const double> positions, const PlaneSites& sites, int row,
                                 std::span<double> out) const {
  overPictures(
      positions, sites,
      [&](std::int64_t picture, const PlaneSites& stretch, std::span<const double>, std::span<double> part) {
        displacement({picture})->row(stretch, row, part);
      },
      out);
}

void overPictures(std::span<const double> positions, const PlaneSites& sites, const MakeStretch& make,
                  std::span<double> out) {
  constexpr auto none = std::numeric_limits<std::int64_t>::min();
  // Lists of this call alone: a displacement in the making may come here for stages further up.
  std::vector<std::int64_t> pictures;
  for (const double at : positions) pictures.push_back(std::isnan(at) ? none : nearestWhole(at));
  std::vector<std::int64_t> all = pictures;
  std::sort(all.begin(), all.end());
  all.erase(std::unique(all.begin(), all.end()), all.end());
  std::vector<double> part;
  for (const std::int64_t picture : all) {
    if (picture == none) continue;
    const auto first =
        static_cast<std::size_t>(std::find(pictures.begin(), pictures.end(), picture) - pictures.begin());
    std::size_t last = pictures.size() - 1;
    while (pictures[last] != picture) --last;
    PlaneSites stretch = sites;
    stretch.width = static_cast<int>(last - first + 1);
    stretch.x0 += static_cast<double>(first) * sites.stepX;
    part.resize(last - first + 1);
    make(picture, stretch, positions.subspan(first, part.size()), part);
    for (std::size_t x = first; x <= last; ++x)
      if (pictures[x] == picture) out[x] = part[x - first];
  }
}

Reach DisplacingMap::reachBetween(double from, double to) const {
  if (steady() || to - from > mostAsked) return reach();
  Reach bounds = reachAt({static_cast<std::int64_t>(std::floor(from))});
  for (double at = std::floor(from) + 1; at <= std::ceil(to); ++at) {
    const Reach more = reachAt({static_cast<std::int64_t>(at)});
    bounds = {std::min(bounds.least, more.least), std::max(bounds.most, more.most)};
  }
  // What follows time itself goes on between two pictures, by no more than they are apart.
  return {bounds.least - 1, bounds.most + 1};
}

}  // namespace molten
