#include "core/engine/chain_plan.h"

#include <algorithm>
#include <cmath>

#include "core/engine/parallel.h"
#include "core/wide.h"

namespace molten {
namespace {

constexpr double sameFrame = 1e-6;
/// Runs of this many samples are copied faster from rows; shorter ones from blocks. See docs/performance.md.
constexpr double longRun = 192;
constexpr std::size_t programsKept = 4;

/// floor(d + 0.5). That a displacement within 1e-6 of a frame is that frame changes nothing here.
MOLTEN_WIDE void nearestFrames(const double* d, std::int32_t* frame, int count) {
  for (int i = 0; i < count; ++i) frame[i] = static_cast<std::int32_t>(__builtin_floor(d[i] + 0.5));
}

/// The frame below each displacement, and the weight in 1/65536 of the one above it: positionOf() in wide loops.
MOLTEN_WIDE void framesBelow(const double* d, std::int32_t* frame, std::uint32_t* weight, int count) {
  for (int i = 0; i < count; ++i) {
    const double nearest = __builtin_floor(d[i] + 0.5), off = d[i] - nearest;
    const double position = off <= sameFrame && off >= -sameFrame ? nearest : d[i];
    const double below = __builtin_floor(position);
    const auto share = static_cast<std::int32_t>((position - below) * wholeWeight + 0.5);
    const bool whole = share == static_cast<std::int32_t>(wholeWeight);
    frame[i] = static_cast<std::int32_t>(below) + (whole ? 1 : 0);
    weight[i] = static_cast<std::uint32_t>(whole ? 0 : share);
  }
}

FrameInterval hull(const FrameInterval& a, const FrameInterval& b) {
  if (a.last < a.first) return b;
  if (b.last < b.first) return a;
  return {std::min(a.first, b.first), std::max(a.last, b.last)};
}

/// The frames that positions low…high of a video fold to.
TileReads folded(std::int64_t low, std::int64_t high, std::int64_t count, PastTheEnds past) {
  const auto last = static_cast<std::int32_t>(count - 1);
  const TileReads all{FrameInterval{0, last}, {}};
  const auto within = [&](std::int64_t i) { return static_cast<std::int32_t>(std::clamp<std::int64_t>(i, 0, last)); };
  if (low >= 0 && high < count) return {FrameInterval{within(low), within(high)}, {}};
  switch (past) {
    case PastTheEnds::Clear:
      if (high < 0 || low >= count) return {};
      [[fallthrough]];
    case PastTheEnds::Hold:
      return {FrameInterval{within(low), within(high)}, {}};
    case PastTheEnds::Wrap: {
      if (high - low + 1 >= count) return all;
      const auto first = foldFrame(low, count, past), end = foldFrame(high, count, past);
      if (first <= end) return {FrameInterval{first, end}, {}};
      return {FrameInterval{0, end}, FrameInterval{first, last}};
    }
    case PastTheEnds::Bounce: {
      if (count == 1 || high - low + 1 >= count) return all;
      // Shorter than the clip, so that it meets at most one end.
      const auto a = foldFrame(low, count, past), b = foldFrame(high, count, past);
      const auto lap = [&](std::int64_t i) { return i >= 0 ? i / (count - 1) : -((-i + count - 2) / (count - 1)); };
      FrameInterval reads{std::min(a, b), std::max(a, b)};
      if (lap(low) != lap(high)) (lap(high) % 2 == 0 ? reads.first : reads.last) = lap(high) % 2 == 0 ? 0 : last;
      return {reads, {}};
    }
  }
  return all;
}

}  // namespace

OutputMoment OutputMoment::at(Rational seconds, Rational rate) {
  const Rational frames = seconds * rate;
  return {frames.floor(), frames.part().toDouble()};
}

ChainPlan::ChainPlan(const Chain& stages, const PictureShape& source, const FrameClock& clock, Size fullSize, int scale)
    : source_(source), shape_(source), clock_(clock), scale_(scale) {
  const VideoDescription video{fullSize, source.pixelAspect, clock.rate(), clock.length()};
  bool mayBeClear = false;  // a pixel may be left without any frame
  for (const Stage& stage : stages) {
    if (!stage.on) continue;
    maps_.push_back(stage.kind->timeMap(stage.values, video));
    const TimeMap& map = *maps_.back();
    const Reach reach = map.reach();
    mayBeClear = mayBeClear || (map.pastTheEnds() == PastTheEnds::Clear && (reach.least < -0.5 || reach.most > 0.5));
    usesFlow_ = usesFlow_ || map.inBetween() == InBetween::Flow;
    mixingStages_ += map.inBetween() != InBetween::Nearest;
  }
  if (mayBeClear && !shape_.format.alpha) {
    shape_.format.alpha = true;
    if (!avFormat(shape_.format) && shape_.format.model != ColourModel::Gray) shape_.format.alpha = false;
  }
  layout_.emplace(source, bestLayout());
}

/// By the length of the runs in some of the rows.
Layout ChainPlan::bestLayout() const {
  if (maps_.empty()) return Layout::Rows;
  const PlaneSites sites = planeSites(source_, 0, scale_);
  const OutputMoment middle{clock_.length() / 2, 0};
  const int step = std::max(1, sites.height / 24);
  RowPicks picks;
  double samples = 0, runs = 0;
  for (int y = step / 2; y < sites.height; y += step) {
    pickRow(middle, isUsual(middle), sites, y, picks);
    const auto& frames = picks.lanes[0].frame;
    runs += 1;
    for (std::size_t x = 1; x < frames.size(); ++x) runs += frames[x] != frames[x - 1];
    samples += sites.width;
  }
  return samples / runs >= std::min(longRun, static_cast<double>(sites.width)) ? Layout::Rows : Layout::Blocks;
}

bool ChainPlan::isUsual(const OutputMoment& moment) const {
  if (clock_.varying()) return false;
  // What a later stage asks of an earlier one must lie within that one's video: there nothing is folded.
  std::int64_t low = moment.whole, high = moment.whole;
  double rest = moment.rest;
  const auto go = [&](std::size_t k) {
    const Reach reach = maps_[k]->reach();
    low += static_cast<std::int64_t>(std::floor(rest + reach.least - sameFrame));
    high += static_cast<std::int64_t>(std::floor(rest + reach.most + sameFrame)) + 1;
    rest = 0;
  };
  for (std::size_t k = maps_.size(); k-- > 1;) {
    go(k);
    if (low < 0 || high >= clock_.length()) return false;
  }
  // The footage's own ends are folded when frames are looked up; but where nothing is read, weights are others.
  if (maps_.empty() || mixingStages_ == 0 || maps_[0]->pastTheEnds() != PastTheEnds::Clear) return true;
  go(0);
  return low >= 0 && high < clock_.frameCount();
}

void ChainPlan::pickRow(const OutputMoment& moment, bool usual, const PlaneSites& sites, int row,
                        RowPicks& picks) const {
  const auto width = static_cast<std::size_t>(sites.width);
  const auto count = static_cast<int>(width);
  const bool pairs = usual && mixingStages_ == 1;
  picks.lanes.resize(pairs ? 1 : std::size_t(1) << mixingStages_);
  for (auto& lane : picks.lanes) lane.frame.resize(width), lane.weight.resize(width);
  std::fill(picks.lanes[0].weight.begin(), picks.lanes[0].weight.end(), wholeWeight);
  if (maps_.empty()) {
    const auto frame = clock_.pick(moment.whole, moment.rest, PastTheEnds::Hold, InBetween::Nearest).first;
    std::fill(picks.lanes[0].frame.begin(), picks.lanes[0].frame.end(),
              usual ? static_cast<std::int32_t>(frame - moment.whole) : frame);
    return;
  }
  thread_local std::vector<double> d;
  thread_local std::vector<std::int32_t> step;
  thread_local std::vector<std::uint32_t> share;
  d.resize(width), step.resize(width), share.resize(width);
  std::size_t lanes = 1;
  for (std::size_t k = maps_.size(); k-- > 0;) {
    const TimeMap& map = *maps_[k];
    const bool top = k + 1 == maps_.size(), stamped = k == 0 && clock_.varying();
    const std::int64_t length = k == 0 ? clock_.frameCount() : clock_.length();
    const PastTheEnds past = map.pastTheEnds();
    const bool mixes = map.inBetween() != InBetween::Nearest;
    map.displacements(sites, row, d);
    if (top && moment.rest != 0)
      for (double& value : d) value += moment.rest;
    mixes ? framesBelow(d.data(), step.data(), share.data(), count) : nearestFrames(d.data(), step.data(), count);
    const auto fold = [&](std::int64_t i) { return usual ? static_cast<std::int32_t>(i) : foldFrame(i, length, past); };
    for (std::size_t l = 0; l < lanes; ++l) {
      RowPicks::Lane& lane = picks.lanes[l];
      RowPicks::Lane* const second = mixes && !pairs ? &picks.lanes[l + lanes] : nullptr;
      if (top && usual && !second) {
        std::copy(step.begin(), step.end(), lane.frame.begin());
      } else {
        for (std::size_t x = 0; x < width; ++x) {
          const std::int64_t from = top ? (usual ? 0 : moment.whole) : lane.frame[x];
          if (second) second->frame[x] = noFrame, second->weight[x] = 0;
          if (!usual && !top && lane.frame[x] == noFrame) continue;
          std::uint32_t weight = mixes ? share[x] : 0;
          std::int32_t after = noFrame;
          if (stamped) {
            const FramePick pick = clock_.pick(from, d[x], past, map.inBetween());
            lane.frame[x] = pick.first, after = pick.second, weight = pick.weight;
          } else {
            lane.frame[x] = fold(from + step[x]);
            if (second && weight > 0) after = fold(from + step[x] + 1);
          }
          if (!second || weight == 0) continue;
          const auto given =
              static_cast<std::uint32_t>((std::uint64_t(lane.weight[x]) * weight + wholeWeight / 2) / wholeWeight);
          second->frame[x] = after;
          second->weight[x] = given;
          lane.weight[x] -= given;
        }
      }
      if (mixes && pairs) std::copy(share.begin(), share.end(), lane.weight.begin());
    }
    if (mixes && !pairs) lanes *= 2;
  }
  // Where a lane reads nothing, it weighs nothing.
  if (!usual && mixingStages_ > 0)
    for (auto& lane : picks.lanes)
      for (std::size_t x = 0; x < width; ++x)
        if (lane.frame[x] == noFrame) lane.weight[x] = 0;
}

std::shared_ptr<const GatherProgram> ChainPlan::program(const OutputMoment& moment) const {
  const bool usual = isUsual(moment);
  const std::scoped_lock lock(*mutex_);
  for (auto at = compiled_.begin(); at != compiled_.end(); ++at) {
    if (at->usual != usual || at->moment.rest != moment.rest || (!usual && at->moment.whole != moment.whole)) continue;
    if (at != compiled_.begin()) {
      Compiled found = std::move(*at);
      compiled_.erase(at);
      compiled_.push_front(std::move(found));
    }
    return compiled_.front().program;
  }
  const PlaneSites sites[] = {planeSites(source_, 0, scale_),
                              planeSites(source_, source_.format.model == ColourModel::Yuv ? 1 : 0, scale_)};
  const Picking picking = mixingStages_ == 0            ? Picking::Copy
                          : usual && mixingStages_ == 1 ? Picking::Pairs
                                                        : Picking::Lanes;
  auto made = std::make_shared<const GatherProgram>(
      *layout_, shape_, picking, picking == Picking::Lanes ? 1 << mixingStages_ : 1,
      [&](int plane, int row, RowPicks& picks) { pickRow(moment, usual, sites[plane], row, picks); });
  compiled_.push_front({usual, moment, std::move(made)});
  if (compiled_.size() > programsKept) compiled_.pop_back();
  return compiled_.front().program;
}

std::int32_t ChainPlan::frameMeant(std::int32_t number, const OutputMoment& moment) const {
  if (!isUsual(moment)) return number;
  return foldFrame(moment.whole + number, clock_.frameCount(),
                   maps_.empty() ? PastTheEnds::Hold : maps_[0]->pastTheEnds());
}

std::vector<std::int32_t> ChainPlan::framesOf(const GatherProgram& program, const OutputMoment& moment) const {
  std::vector<std::int32_t> frames;
  const bool usual = isUsual(moment);
  const PastTheEnds past = maps_.empty() ? PastTheEnds::Hold : maps_[0]->pastTheEnds();
  for (const std::int32_t number : program.frames()) {
    const auto frame = usual ? foldFrame(moment.whole + number, clock_.frameCount(), past) : number;
    if (frame != noFrame) frames.push_back(frame);
  }
  std::sort(frames.begin(), frames.end());
  frames.erase(std::unique(frames.begin(), frames.end()), frames.end());
  return frames;
}

FrameLookup ChainPlan::lookUp(const GatherProgram& program, const OutputMoment& moment, const FrameTable& table) const {
  FrameLookup lookup;
  lookup.least = program.frames().front();
  lookup.frames.resize(static_cast<std::size_t>(program.frames().back() - lookup.least + 1));
  const bool usual = isUsual(moment);
  const PastTheEnds past = maps_.empty() ? PastTheEnds::Hold : maps_[0]->pastTheEnds();
  for (const std::int32_t number : program.frames()) {
    const auto frame = usual ? foldFrame(moment.whole + number, clock_.frameCount(), past) : number;
    if (frame == noFrame) continue;
    const StoredFrame* const held = table.find(frame);
    lookup.frames[static_cast<std::size_t>(number - lookup.least)] = held ? held->tiles() : FrameLookup::later;
  }
  return lookup;
}

TileReads ChainPlan::readsOf(const OutputMoment& moment, const std::function<Reach(std::size_t stage)>& reach) const {
  if (maps_.empty()) {
    const auto frame = clock_.pick(moment.whole, moment.rest, PastTheEnds::Hold, InBetween::Nearest).first;
    return {FrameInterval{frame, frame}, {}};
  }
  TileReads reads{};
  for (std::size_t k = maps_.size(); k-- > 0;) {
    const TimeMap& map = *maps_[k];
    const bool top = k + 1 == maps_.size();
    const Reach bounds = reach(k);
    const double half = map.inBetween() == InBetween::Nearest ? 0.5 : 0, rest = top ? moment.rest : 0;
    const auto step = [&](std::int64_t from, std::int64_t to) -> TileReads {
      if (k == 0 && clock_.varying()) {
        const auto all = static_cast<std::int32_t>(clock_.frameCount() - 1);
        if (map.pastTheEnds() == PastTheEnds::Bounce || map.pastTheEnds() == PastTheEnds::Wrap)
          return {FrameInterval{0, all}, {}};
        const FramePick low = clock_.pick(from, rest + bounds.least - sameFrame, PastTheEnds::Hold, InBetween::Nearest),
                        high = clock_.pick(to, rest + bounds.most + sameFrame, PastTheEnds::Hold, InBetween::Nearest);
        return {FrameInterval{low.first, std::min(all, high.first + (half == 0 ? 1 : 0))}, {}};
      }
      return folded(from + static_cast<std::int64_t>(std::floor(rest + bounds.least + half - sameFrame)),
                    to + static_cast<std::int64_t>(std::floor(rest + bounds.most + half + sameFrame)) + (half == 0),
                    k == 0 ? clock_.frameCount() : clock_.length(), map.pastTheEnds());
    };
    if (top) {
      reads = step(moment.whole, moment.whole);
      continue;
    }
    TileReads below{};
    for (const FrameInterval& interval : reads) {
      if (interval.last < interval.first) continue;
      const TileReads more = step(interval.first, interval.last);
      below[0] = hull(below[0], more[0]);
      below[1] = hull(below[1], more[1]);
    }
    reads = below;
  }
  return reads;
}

std::vector<std::int32_t> ChainPlan::framesFor(const OutputMoment& moment) const {
  {
    const std::scoped_lock lock(*mutex_);
    for (const Compiled& known : compiled_)
      if (known.usual && known.moment.rest == moment.rest && isUsual(moment)) return framesOf(*known.program, moment);
  }
  const TileReads reads = readsOf(moment, [&](std::size_t k) { return maps_[k]->reach(); });
  std::vector<std::int32_t> frames;
  for (const FrameInterval& interval : reads)
    for (auto f = interval.first; f <= interval.last; ++f) frames.push_back(f);
  std::sort(frames.begin(), frames.end());
  frames.erase(std::unique(frames.begin(), frames.end()), frames.end());
  return frames;
}

const std::vector<ChainPlan::TileBounds>& ChainPlan::tileBounds() const {
  const std::scoped_lock lock(*mutex_);
  if (!bounds_.empty() || maps_.empty()) return bounds_;
  const FrameLayout& layout = *layout_;
  for (const auto& map : maps_) {
    TileBounds bounds;
    bounds.tiles.assign(static_cast<std::size_t>(layout.tiles()), {1e300, -1e300});
    for (const int p : {0, 1}) {
      if (p == 1 && source_.format.model != ColourModel::Yuv) break;
      const PlaneSites sites = planeSites(source_, p, scale_);
      const TilePlane& part = layout.plane(p);
      parallelRows(layout.tilesDown(), 1, [&](int from, int to) {
        std::vector<double> d(static_cast<std::size_t>(sites.width));
        for (int y = from * part.height; y < std::min(to * part.height, sites.height); ++y) {
          map->displacements(sites, y, d);
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
    bounds_.push_back(std::move(bounds));
  }
  return bounds_;
}

std::vector<TileReads> ChainPlan::tileReads(const OutputMoment& moment) const {
  const auto& bounds = tileBounds();
  std::vector<TileReads> reads(static_cast<std::size_t>(layout_->tiles()));
  for (std::size_t t = 0; t < reads.size(); ++t)
    reads[t] = readsOf(moment, [&](std::size_t k) { return bounds[k].tiles[t]; });
  if (!usesFlow_) return reads;
  // What moves comes from tiles around.
  const int reachX = (FlowField::farthest / scale_ + layout_->plane(0).width - 1) / layout_->plane(0).width;
  const int reachY = (FlowField::farthest / scale_ + layout_->plane(0).height - 1) / layout_->plane(0).height;
  const int across = layout_->tilesAcross(), down = layout_->tilesDown();
  std::vector<TileReads> wider(reads.size());
  for (int y = 0; y < down; ++y)
    for (int x = 0; x < across; ++x)
      for (int ny = std::max(0, y - reachY); ny <= std::min(down - 1, y + reachY); ++ny)
        for (int nx = std::max(0, x - reachX); nx <= std::min(across - 1, x + reachX); ++nx)
          for (const std::size_t i : {0u, 1u}) {
            FrameInterval& tile = wider[static_cast<std::size_t>(y * across + x)][i];
            tile = hull(tile, reads[static_cast<std::size_t>(ny * across + nx)][i]);
          }
  return wider;
}

}  // namespace molten
