#pragma once
// Displacements of a row whose pixels are of several pictures.

#include <algorithm>
#include <span>
#include <vector>

#include "core/stages/stage.h"

namespace molten {

/// Each picture is asked, through `of`, for the stretch of the row that it lies in. Where a pixel is of none (noFrame),
/// `out` stays as it was.
template <class DisplacementOf>
void displaceEach(std::span<const std::int32_t> pictures, const PlaneSites& sites, int row, std::span<double> out,
                  DisplacementOf of) {
  thread_local std::vector<std::int32_t> all;
  thread_local std::vector<double> part;
  all.assign(pictures.begin(), pictures.end());
  std::sort(all.begin(), all.end());
  all.erase(std::unique(all.begin(), all.end()), all.end());
  for (const std::int32_t picture : all) {
    if (picture == noFrame) continue;
    const auto first = std::find(pictures.begin(), pictures.end(), picture) - pictures.begin();
    auto last = static_cast<std::ptrdiff_t>(pictures.size()) - 1;
    while (pictures[static_cast<std::size_t>(last)] != picture) --last;
    PlaneSites stretch = sites;
    stretch.width = static_cast<int>(last - first + 1);
    stretch.x0 += static_cast<double>(first) * sites.stepX;
    part.resize(static_cast<std::size_t>(stretch.width));
    of(picture)->row(stretch, row, part);
    for (auto x = first; x <= last; ++x)
      if (pictures[static_cast<std::size_t>(x)] == picture)
        out[static_cast<std::size_t>(x)] = part[static_cast<std::size_t>(x - first)];
  }
}

}  // namespace molten
