#include "app/picture/laid_guides.h"

#include <algorithm>
#include <cmath>

namespace molten {
namespace {

/// The sides of what lies between some corners, and its middle.
std::vector<double> sidesOf(const std::vector<Place>& corners, double Place::*way) {
  if (corners.empty()) return {};
  const auto [least, most] = std::minmax_element(corners.begin(), corners.end(), [&](const Place& a, const Place& b) { return a.*way < b.*way; });
  return {*least.*way, *most.*way, (*least.*way + *most.*way) / 2};
}

double nearest(const std::vector<double>& own, std::vector<double> guides, double near) {
  // The middle and the edges of the picture.
  guides.insert(guides.end(), {0.5, 0, 1});
  double by = 0, least = near;
  for (const double side : own)
    for (const double guide : guides)
      if (const double off = std::abs(guide - side); off < least) least = off, by = guide - side;
  return by;
}

}  // namespace

std::vector<Place> LaidGuides::cornersOf(std::size_t stage, const StageValues& values) const {
  const Stage& laid = session_.project().chain[stage];
  const VideoDescription in = session_.videoInto(stage);
  const auto own = pictures_.of(laid, values, in, session_.filesSeen());
  return own ? laid.kind->corners(values, in, *own) : std::vector<Place>();
}

LaidGuides::Lines LaidGuides::ofTitles() const {
  Lines lines;
  const Chain& chain = session_.project().chain;
  for (std::size_t i = 0; i < chain.size(); ++i) {
    const StageValues values = chain[i].valuesAt(session_.stageMoment(i).toDouble());
    if (!chain[i].on || !chain[i].kind->title(values, session_.videoInto(i))) continue;
    const auto corners = cornersOf(i, values);
    const auto across = sidesOf(corners, &Place::x), down = sidesOf(corners, &Place::y);
    // Where it begins and ends.
    if (corners.empty()) continue;
    lines.across.insert(lines.across.end(), across.begin(), across.begin() + 2);
    lines.down.insert(lines.down.end(), down.begin(), down.begin() + 2);
  }
  return lines;
}

Place LaidGuides::pull(std::size_t stage, const StageValues& values, double nearAcross, double nearDown) const {
  const auto corners = cornersOf(stage, values);
  if (corners.empty()) return {};
  Lines others;
  const Chain& chain = session_.project().chain;
  for (std::size_t i = 0; i < chain.size(); ++i) {
    if (i == stage || !chain[i].on) continue;
    const auto its = cornersOf(i, chain[i].valuesAt(session_.stageMoment(i).toDouble()));
    for (const double side : sidesOf(its, &Place::x)) others.across.push_back(side);
    for (const double side : sidesOf(its, &Place::y)) others.down.push_back(side);
  }
  return {nearest(sidesOf(corners, &Place::x), std::move(others.across), nearAcross), nearest(sidesOf(corners, &Place::y), std::move(others.down), nearDown)};
}

}  // namespace molten
