// What the pictures of a chain read: bounds, without compiling anything.
#include <algorithm>
#include <cmath>

#include "core/engine/chain_plan.h"
#include "core/parallel.h"

namespace molten {
namespace {

/// The frames that indices low…high of a source fold to.
FrameSet folded(std::int64_t low, std::int64_t high, std::int64_t count, PastTheEnds past) {
  FrameSet reads;
  // Both ends of each stretch are whole: what folds between them is whole too.
  for (const auto& [from, to] :
       PositionSpans(static_cast<double>(low), static_cast<double>(high)).folded(count, past)) {
    const auto first = static_cast<std::int64_t>(std::ceil(from - samePosition)),
               last = static_cast<std::int64_t>(std::floor(to + samePosition));
    reads.add({static_cast<std::int32_t>(std::clamp<std::int64_t>(first, 0, count - 1)),
               static_cast<std::int32_t>(std::clamp<std::int64_t>(last, 0, count - 1))});
  }
  return reads;
}

}  // namespace

/// Of the source; in pictures of its video, not folded.
FrameSet ChainPlan::framesIn(const PositionSpans& positions) const {
  const FrameClock& clock = source().clock;
  const PastTheEnds past = reading().ends(0);
  FrameSet frames;
  for (const auto& [from, to] : positions) {
    const double low = from * samples_.perPicture() - 2 * samePosition,
                 high = to * samples_.perPicture() + 2 * samePosition;
    if (!clock.varying()) {
      const double half = mixes() ? 0 : 0.5;
      frames.add(folded(static_cast<std::int64_t>(std::floor(low + half)),
                        static_cast<std::int64_t>(std::floor(high + half)) + (mixes() ? 1 : 0), clock.frameCount(),
                        past));
      continue;
    }
    const auto all = static_cast<std::int32_t>(clock.frameCount() - 1);
    const bool outside = low < 0 || high > static_cast<double>(clock.length() - 1);
    if (outside && (past == PastTheEnds::TurnBack || past == PastTheEnds::GoRound)) {
      frames.add({0, all});
      continue;
    }
    const FramePick first = clock.pick(0, low, PastTheEnds::StandStill, InBetween::Whole),
                    last = clock.pick(0, high, PastTheEnds::StandStill, InBetween::Whole);
    frames.add({first.first, std::min(all, last.first + (mixes() ? 1 : 0))});
  }
  return frames;
}

FrameSet ChainPlan::readsOf(const std::optional<Moment>& displaced, std::span<const Reach* const> known) const {
  FrameSet reads;
  if (!displaced) return reads;
  if (!wholePictures()) {
    const double at = displaced->pictures();
    return framesIn(reading().bounds({at, at}, reading().displacedUntil(), known).spans);
  }
  const FramePick pick = samples_.wholePick(*displaced);
  if (pick.first != noFrame) reads.add({pick.first, pick.first});
  if (pick.weight > 0 && pick.second != noFrame) reads.add({pick.second, pick.second});
  return reads;
}

std::vector<std::int32_t> ChainPlan::framesFor(const Moment& moment) const {
  const auto displaced = samples_.displacedMoment(moment);
  if (const SampleReads::Key key = samples_.keyOf(displaced);
      key.kind == SampleReads::Key::Kind::Shared || key.kind == SampleReads::Key::Kind::Own) {
    std::shared_ptr<const GatherProgram> known;
    {
      const std::scoped_lock lock(*mutex_);
      for (const Compiled& compiled : compiled_)
        if (compiled.key == key) known = compiled.program;
    }
    if (known) return Gathering(known, samples_.meaningOf(key, displaced), std::nullopt).frames();
  }
  std::vector<std::int32_t> frames;
  readsOf(displaced, {}).each([&](std::int32_t f) { frames.push_back(f); });
  return frames;
}

ChainPlan::TileBounds ChainPlan::boundsOfTiles(const Displacement& displacement) const {
  const FrameLayout& layout = *layout_;
  TileBounds bounds;
  bounds.tiles.assign(static_cast<std::size_t>(layout.tiles()), {1e300, -1e300});
  for (const int p : {0, 1}) {
    if (p == 1 && source().shape.format.model != ColourModel::Yuv) break;
    const PlaneSites sites = planeSites(source().shape, p, scale());
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

const std::vector<ChainPlan::TileBounds>& ChainPlan::steadyBounds() const {
  {
    const std::scoped_lock lock(*mutex_);
    if (!bounds_.empty() || reading().size() == 0) return bounds_;
  }
  std::vector<TileBounds> made;
  for (std::size_t k = 0; k < reading().size(); ++k) {
    const DisplacingMap* const map = reading().map(k).displacing();
    made.push_back(map && map->steady() ? boundsOfTiles(*map->displacement({})) : TileBounds{});
  }
  const std::scoped_lock lock(*mutex_);
  if (bounds_.empty()) bounds_ = std::move(made);
  return bounds_;
}

std::vector<FrameSet> ChainPlan::tileReads(const Moment& moment) const {
  const auto tiles = static_cast<std::size_t>(layout_->tiles());
  const auto displaced = samples_.displacedMoment(moment);
  if (wholePictures()) return std::vector<FrameSet>(tiles, readsOf(displaced, {}));
  const auto& steady = steadyBounds();
  // Where the last stage that displaces changes from picture to picture, its bounds are those of this one.
  TileBounds now;
  const std::size_t top = reading().displacedUntil() - 1;
  if (displaced && steady[top].tiles.empty())
    now = boundsOfTiles(*reading().map(top).displacing()->displacement(*displaced));
  std::vector<const Reach*> known(reading().size());
  std::vector<FrameSet> reads(tiles);
  for (std::size_t t = 0; t < tiles; ++t) {
    for (std::size_t k = 0; k < reading().size(); ++k) {
      const TileBounds& bounds = k == top && !now.tiles.empty() ? now : steady[k];
      known[k] = bounds.tiles.empty() ? nullptr : &bounds.tiles[t];
    }
    reads[t] = readsOf(displaced, known);
  }
  if (!usesFlow()) return reads;
  // What moves comes from tiles around.
  const int reachX = (FlowField::farthest / scale() + layout_->plane(0).width - 1) / layout_->plane(0).width;
  const int reachY = (FlowField::farthest / scale() + layout_->plane(0).height - 1) / layout_->plane(0).height;
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
