// What the pictures of a chain read: bounds, without compiling anything.
#include <algorithm>
#include <cmath>

#include "core/engine/chain_plan.h"
#include "core/parallel.h"

namespace molten {
namespace {

constexpr double sameFrame = 1e-6;

/// The frames that positions low…high of a video fold to.
FrameSet folded(std::int64_t low, std::int64_t high, std::int64_t count, PastTheEnds past) {
  const auto last = static_cast<std::int32_t>(count - 1);
  FrameSet reads;
  const auto within = [&](std::int64_t i) { return static_cast<std::int32_t>(std::clamp<std::int64_t>(i, 0, last)); };
  const bool inside = low >= 0 && high < count;
  if (inside || past == PastTheEnds::Hold || past == PastTheEnds::Clear) {
    if (past != PastTheEnds::Clear || (high >= 0 && low < count)) reads.add({within(low), within(high)});
    return reads;
  }
  if (count == 1 || high - low + 1 >= count) {
    reads.add({0, last});
    return reads;
  }
  // Shorter than the clip, so that it meets at most one end.
  const auto a = foldFrame(low, count, past), b = foldFrame(high, count, past);
  if (past == PastTheEnds::Wrap) {
    if (a <= b) {
      reads.add({a, b});
    } else {
      reads.add({0, b});
      reads.add({a, last});
    }
    return reads;
  }
  const auto lap = [&](std::int64_t i) { return i >= 0 ? i / (count - 1) : -((-i + count - 2) / (count - 1)); };
  FrameInterval turn{std::min(a, b), std::max(a, b)};
  if (lap(low) != lap(high)) (lap(high) % 2 == 0 ? turn.first : turn.last) = lap(high) % 2 == 0 ? 0 : last;
  reads.add(turn);
  return reads;
}

}  // namespace

FrameSet ChainPlan::readsOf(const Moment& moment, const std::vector<const TileBounds*>& known,
                            std::optional<std::size_t> tile) const {
  FrameSet reads;
  if (passesThrough()) {
    if (const auto frame = wholeFrame(moment); frame != noFrame) reads.add({frame, frame});
    return reads;
  }
  const auto at = bodyMoment(moment);
  if (!at) return reads;
  for (std::size_t k = bodyEnd_; k-- > 0;) {
    const TimeMap& map = *maps_[k];
    const bool top = k + 1 == bodyEnd_;
    FrameSet below;
    if (map.wholePicture()) {
      const auto add = [&](const FramePick& pick) {
        if (pick.first != noFrame) below.add({pick.first, pick.first});
        if (pick.weight > 0 && pick.second != noFrame) below.add({pick.second, pick.second});
      };
      if (top)
        add(pickAt(k, *at));
      else
        reads.each([&](std::int32_t picture) { add(pickOf(k, picture)); });
      reads = std::move(below);
      continue;
    }
    Reach bounds = known.empty() || !known[k] ? map.reach() : known[k]->tiles[*tile];
    if (!map.steady() && (known.empty() || !known[k])) {
      // Of the pictures that are asked for alone, if they are not too many.
      constexpr std::int64_t mostPictures = 512;
      bounds = {1e300, -1e300};
      const auto widen = [&](const Reach& more) {
        bounds = {std::min(bounds.least, more.least), std::max(bounds.most, more.most)};
      };
      std::int64_t pictures = 0;
      for (const FrameInterval& stretch : reads) pictures += stretch.last - stretch.first + 1;
      if (top)
        widen(map.reachAt(*at));
      else if (pictures > mostPictures)
        widen(map.reach());
      else
        reads.each([&](std::int32_t picture) { widen(map.reachAt({picture, 0})); });
    }
    const double half = map.inBetween() == InBetween::Nearest ? 0.5 : 0, rest = top ? at->rest.toDouble() : 0;
    const auto step = [&](std::int64_t from, std::int64_t to) {
      if (k == 0 && clocks_[0].varying()) {
        const auto all = static_cast<std::int32_t>(clocks_[0].frameCount() - 1);
        if (past(k) == PastTheEnds::Bounce || past(k) == PastTheEnds::Wrap) return below.add({0, all});
        const FramePick low = clocks_[0].pick(from, rest + bounds.least - sameFrame, PastTheEnds::Hold,
                                              InBetween::Nearest),
                        high =
                            clocks_[0].pick(to, rest + bounds.most + sameFrame, PastTheEnds::Hold, InBetween::Nearest);
        return below.add({low.first, std::min(all, high.first + (half == 0 ? 1 : 0))});
      }
      below.add(folded(from + static_cast<std::int64_t>(std::floor(rest + bounds.least + half - sameFrame)),
                       to + static_cast<std::int64_t>(std::floor(rest + bounds.most + half + sameFrame)) + (half == 0),
                       clocks_[k].frameCount(), past(k)));
    };
    if (top)
      step(at->whole, at->whole);
    else
      for (const FrameInterval& stretch : reads) step(stretch.first, stretch.last);
    reads = std::move(below);
  }
  return reads;
}

std::vector<std::int32_t> ChainPlan::framesFor(const Moment& moment) const {
  const auto inBody = bodyMoment(moment);
  if (isUsual(inBody) && inBody) {
    const std::scoped_lock lock(*mutex_);
    for (const Compiled& known : compiled_)
      if (known.usual && !known.nothing && known.moment.rest == inBody->rest) return framesOf(*known.program, moment);
  }
  std::vector<std::int32_t> frames;
  readsOf(moment, {}, std::nullopt).each([&](std::int32_t f) { frames.push_back(f); });
  return frames;
}

ChainPlan::TileBounds ChainPlan::boundsOfTiles(const Displacement& displacement) const {
  const FrameLayout& layout = *layout_;
  TileBounds bounds;
  bounds.tiles.assign(static_cast<std::size_t>(layout.tiles()), {1e300, -1e300});
  for (const int p : {0, 1}) {
    if (p == 1 && source_.format.model != ColourModel::Yuv) break;
    const PlaneSites sites = planeSites(source_, p, scale_);
    const TilePlane& part = layout.plane(p);
    parallelRows(layout.tilesDown(), 1, [&](int from, int to) {
      std::vector<double> d(static_cast<std::size_t>(sites.width));
      for (int y = from * part.height; y < std::min(to * part.height, sites.height); ++y) {
        displacement.row(sites, y, d);
        for (int t = 0; t < layout.tilesAcross(); ++t) {
          const int begin = t * part.width, end = std::min(begin + part.width, sites.width);
          if (begin >= end) break;
          const auto [least, most] = std::minmax_element(d.begin() + begin, d.begin() + end);
          Reach& tile = bounds.tiles[static_cast<std::size_t>(y / part.height * layout.tilesAcross() + t)];
          tile = {std::min(tile.least, *least), std::max(tile.most, *most)};
        }
      }
    });
  }
  return bounds;
}

const std::vector<ChainPlan::TileBounds>& ChainPlan::tileBounds() const {
  const std::scoped_lock lock(*mutex_);
  if (!bounds_.empty() || maps_.empty()) return bounds_;
  for (const auto& map : maps_)
    bounds_.push_back(map->wholePicture() || !map->steady() ? TileBounds{} : boundsOfTiles(*map->displacement({})));
  return bounds_;
}

std::vector<FrameSet> ChainPlan::tileReads(const Moment& moment) const {
  const auto tiles = static_cast<std::size_t>(layout_->tiles());
  if (allWhole_) return std::vector<FrameSet>(tiles, readsOf(moment, {}, std::nullopt));
  const auto& steady = tileBounds();
  std::vector<const TileBounds*> bounds;
  for (const TileBounds& known : steady) bounds.push_back(known.tiles.empty() ? nullptr : &known);
  // Where the last stage changes from picture to picture, its bounds are those of this one.
  TileBounds now;
  const std::size_t top = bodyEnd_ - 1;
  if (const auto at = bodyMoment(moment); at && !bounds[top] && !maps_[top]->wholePicture()) {
    now = boundsOfTiles(*maps_[top]->displacement(*at));
    bounds[top] = &now;
  }
  std::vector<FrameSet> reads(tiles);
  for (std::size_t t = 0; t < tiles; ++t) reads[t] = readsOf(moment, bounds, t);
  if (!usesFlow_) return reads;
  // What moves comes from tiles around.
  const int reachX = (FlowField::farthest / scale_ + layout_->plane(0).width - 1) / layout_->plane(0).width;
  const int reachY = (FlowField::farthest / scale_ + layout_->plane(0).height - 1) / layout_->plane(0).height;
  const int across = layout_->tilesAcross(), down = layout_->tilesDown();
  std::vector<FrameSet> wider(reads.size());
  for (int y = 0; y < down; ++y)
    for (int x = 0; x < across; ++x)
      for (int ny = std::max(0, y - reachY); ny <= std::min(down - 1, y + reachY); ++ny)
        for (int nx = std::max(0, x - reachX); nx <= std::min(across - 1, x + reachX); ++nx)
          wider[static_cast<std::size_t>(y * across + x)].add(reads[static_cast<std::size_t>(ny * across + nx)]);
  return wider;
}

}  // namespace molten
