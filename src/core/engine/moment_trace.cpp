#include "core/engine/moment_trace.h"

#include <algorithm>
#include <cmath>

#include "core/engine/displace_each.h"
#include "core/time/frame_clock.h"

namespace molten {
namespace {

std::int64_t nearest(double position) {
  return static_cast<std::int64_t>(std::floor(position + 0.5));
}

/// Frames that a line of sites reads, and for each place how far its frame goes; 0 where it goes to the line's end.
std::vector<double> runsOf(std::span<const double> line) {
  std::vector<double> widths(line.size());
  std::size_t begin = 0;
  for (std::size_t i = 1; i <= line.size(); ++i) {
    if (i < line.size() && nearest(line[i]) == nearest(line[begin])) continue;
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

}  // namespace

MomentTrace::MomentTrace(const Chain& chain, const VideoDescription& footage, const std::shared_ptr<Material>& material)
    : maps_(timeMaps(chain, footage, material)) {
  videos_.push_back(footage);
  for (const auto& map : maps_) videos_.push_back(map->outgoing());
}

void MomentTrace::row(const Moment& moment, const PlaneSites& sites, int row, std::span<double> out) {
  std::fill(out.begin(), out.end(), static_cast<double>(moment.whole) + moment.rest.toDouble());
  std::vector<double> d(out.size());
  std::vector<std::int32_t> pictures(out.size());
  for (std::size_t k = maps_.size(); k-- > 0;) {
    const TimeMap& map = *maps_[k];
    const VideoDescription& in = videos_[k];
    const bool top = k + 1 == maps_.size();
    if (map.wholePicture()) {
      double last = 0, read = 0;
      bool any = false;
      const bool nearestAbove = !top && maps_[k + 1]->inBetween() == InBetween::Nearest;
      for (double& at : out) {
        if (nearestAbove) at = std::floor(at + 0.5);
        if (!any || at != last) last = at, read = map.roughly(at), any = true;
        at = read;
      }
    } else if (top || map.steady()) {
      map.displacement(moment)->row(sites, row, d);
      for (std::size_t i = 0; i < out.size(); ++i) out[i] = (top ? out[i] : std::floor(out[i] + 0.5)) + d[i];
    } else {
      for (std::size_t i = 0; i < out.size(); ++i) pictures[i] = static_cast<std::int32_t>(nearest(out[i]));
      displaceEach(pictures, sites, row, d, [&](std::int32_t picture) { return map.displacement({picture, 0}); });
      for (std::size_t i = 0; i < out.size(); ++i) out[i] = pictures[i] + d[i];
    }
    if (k == 0) break;
    const PastTheEnds past = in.endless ? PastTheEnds::Wrap : map.pastTheEnds();
    for (double& at : out)
      if (at < 0 || at > static_cast<double>(in.length - 1)) {
        const std::int32_t frame = foldFrame(nearest(at), in.length, past);
        at = frame == noFrame ? std::clamp(at, 0.0, static_cast<double>(in.length - 1)) : frame;
      }
  }
}

PlaceReads MomentTrace::at(const Moment& moment, double x, double y) {
  PlaneSites pixel;
  pixel.width = pixel.height = 1;
  pixel.x0 = std::floor(x) + 0.5, pixel.y0 = std::floor(y) + 0.5;
  PlaceReads reads;
  row(moment, pixel, 0, {&reads.position, 1});
  const VideoDescription& in = videos_.front();
  const PastTheEnds past = maps_.empty() ? PastTheEnds::Hold : maps_[0]->pastTheEnds();
  reads.frame = foldFrame(nearest(reads.position), in.length, past);
  return reads;
}

StepWidths stepWidths(const Displacement& displacement, Size picture) {
  constexpr int lines = 40;
  const auto placeOf = [](int i, int size) { return std::min(size - 1, size * (2 * i + 1) / (2 * lines)); };
  PlaneSites sites;
  sites.width = picture.width, sites.height = picture.height;
  std::vector<std::vector<double>> across, down;
  std::vector<double> line(static_cast<std::size_t>(picture.width));
  for (int j = 0; j < lines; ++j) {
    displacement.row(sites, placeOf(j, picture.height), line);
    across.push_back(runsOf(line));
  }
  PlaneSites column;
  column.width = 1, column.height = picture.height;
  std::vector<double> tall(static_cast<std::size_t>(picture.height));
  for (int i = 0; i < lines; ++i) {
    column.x0 = placeOf(i, picture.width) + 0.5;
    for (int y = 0; y < picture.height; ++y) displacement.row(column, y, {&tall[static_cast<std::size_t>(y)], 1});
    down.push_back(runsOf(tall));
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
  if (widths.empty()) return found;
  std::sort(widths.begin(), widths.end());
  found.widest = widths.back();
  found.usual = widths[widths.size() / 2];
  return found;
}

}  // namespace molten
