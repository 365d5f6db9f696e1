#include "core/engine/chain_plan.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <span>

#include "core/engine/displace_each.h"
#include "core/parallel.h"
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

/// What the picture at a moment of a map's result reads of the video that enters.
FramePick pickFrom(const TimeMap& map, const FrameClock& incoming, PastTheEnds past, const Moment& moment) {
  const MomentRead read = map.readAt(moment);
  FramePick pick = incoming.pick(read.first.whole, read.first.rest, past, map.inBetween());
  if (read.share <= 0) return pick;
  pick.second = incoming.pick(read.second.whole, read.second.rest, past, InBetween::Nearest).first;
  pick.weight = static_cast<std::uint32_t>(std::min(read.share, 1.0) * wholeWeight + 0.5);
  return pick;
}

/// The part of a weight that a share of it is, as everywhere in mixing.
std::uint32_t shareOf(std::uint32_t weight, std::uint32_t share) {
  return static_cast<std::uint32_t>((std::uint64_t(weight) * share + wholeWeight / 2) / wholeWeight);
}

}  // namespace

/// What each stage of the body displaces: known beforehand for the last one and for those that are steady, asked of the
/// others for each picture that is read of them.
struct ChainPlan::Displacements {
  std::vector<std::shared_ptr<const Displacement>> known;
  mutable std::mutex mutex;
  mutable std::map<std::pair<std::size_t, std::int64_t>, std::shared_ptr<const Displacement>> asked;

  Displacements(const ChainPlan& plan, const std::optional<Moment>& moment) : known(plan.maps_.size()) {
    for (std::size_t k = plan.bodyBegin_; k < plan.bodyEnd_; ++k)
      if (k + 1 == plan.bodyEnd_ || plan.maps_[k]->steady())
        known[k] = plan.maps_[k]->displacement(moment.value_or(Moment{}));
  }
  std::shared_ptr<const Displacement> of(const TimeMap& map, std::size_t stage, std::int64_t picture) const {
    const std::scoped_lock lock(mutex);
    auto& made = asked[{stage, picture}];
    if (!made) made = map.displacement({picture, 0});
    return made;
  }
};

ChainPlan::ChainPlan(const Chain& stages, const PictureShape& source, const FrameClock& clock, Size fullSize, int scale,
                     const std::shared_ptr<Material>& material, const Beneath& beneath)
    : source_(source), shape_(source), scale_(scale) {
  const VideoDescription video{fullSize, source.pixelAspect, clock.rate(), clock.length(), beneath.endless};
  for (const Stage& stage : stages)
    if (stage.on) stages_.push_back(stage);
  maps_ = timeMaps(stages_, video, material, beneath.stages);
  videos_.push_back(video);
  clocks_.push_back(clock);
  bool mayBeClear = false;  // a pixel may be left without any frame
  for (std::size_t k = 0; k < maps_.size(); ++k) {
    const TimeMap& map = *maps_[k];
    const Reach reach = map.reach();
    mayBeClear =
        mayBeClear || (past(k) == PastTheEnds::Clear && (map.wholePicture() || reach.least < -0.5 || reach.most > 0.5));
    usesFlow_ = usesFlow_ || map.inBetween() == InBetween::Flow;
    mixingStages_ += map.mixes();
    allWhole_ = allWhole_ && map.wholePicture();
    movesPictures_ = movesPictures_ || map.wholePicture();
    videos_.push_back(map.outgoing());
    clocks_.push_back(FrameClock::constant(map.outgoing().rate, map.outgoing().length));
    tables_.push_back(nullptr);
    if (map.wholePicture())
      tables_.back() =
          std::make_unique<MomentTable>(map.outgoing().length, [&map, in = clocks_[k], ends = past(k)](std::int64_t n) {
            return pickFrom(map, in, ends, {n, 0});
          });
  }
  findBody();
  if (mayBeClear && !shape_.format.alpha) {
    shape_.format.alpha = true;
    if (!avFormat(shape_.format) && shape_.format.model != ColourModel::Gray && !shape_.format.floating)
      shape_.format.alpha = false;
  }
  layout_.emplace(source, bestLayout());
}

void ChainPlan::findBody() {
  const auto plain = [](const auto& map) { return map->wholePicture() && !map->mixes(); };
  while (bodyBegin_ < maps_.size() && plain(maps_[bodyBegin_])) ++bodyBegin_;
  bodyEnd_ = maps_.size();
  // Where there is no body, all stages stand above it, since there moments may lie between pictures.
  if (bodyBegin_ == maps_.size()) bodyBegin_ = bodyEnd_ = 0;
  while (bodyEnd_ > bodyBegin_ && plain(maps_[bodyEnd_ - 1])) --bodyEnd_;
  for (std::size_t k = bodyBegin_; k < bodyEnd_; ++k)
    steady_ = steady_ && !maps_[k]->wholePicture() && maps_[k]->steady();
  // Where nothing is below, the weights of a mix are others.
  for (std::size_t k = 0; k < bodyBegin_ && mixingStages_ > 0; ++k) steady_ = steady_ && past(k) != PastTheEnds::Clear;
}

void ChainPlan::adopt(const ChainPlan& other) {
  const auto body = [](const ChainPlan& plan) {
    return std::span(plan.stages_).subspan(plan.bodyBegin_, plan.bodyEnd_ - plan.bodyBegin_);
  };
  const auto mine = body(*this), its = body(other);
  // Distances are told in pictures of what enters the body: of one rate and size here and there.
  if (!steady_ || !other.steady_ || mine.empty() || !std::equal(mine.begin(), mine.end(), its.begin(), its.end()) ||
      scale_ != other.scale_ || !(shape_ == other.shape_) || !(source_ == other.source_) ||
      layout_->kind() != other.layout_->kind() || mixingStages_ != other.mixingStages_ ||
      videos_.front().rate != other.videos_.front().rate)
    return;
  // A field may depend on how long the video is that it is made for.
  const PlaneSites sites = planeSites(source_, 0, scale_);
  std::vector<double> here(static_cast<std::size_t>(sites.width)), there(here.size());
  for (std::size_t k = 0; k < mine.size(); ++k)
    for (const int row : {0, sites.height / 3, sites.height - 1}) {
      maps_[bodyBegin_ + k]->displacement({})->row(sites, row, here);
      other.maps_[other.bodyBegin_ + k]->displacement({})->row(sites, row, there);
      if (here != there) return;
    }
  const std::scoped_lock lock(*other.mutex_);
  for (const Compiled& known : other.compiled_)
    if (known.usual) compiled_.push_back(known);
}

PastTheEnds ChainPlan::past(std::size_t stage) const {
  return videos_[stage].endless ? PastTheEnds::Wrap : maps_[stage]->pastTheEnds();
}

FramePick ChainPlan::pickAt(std::size_t stage, const Moment& moment) const {
  return pickFrom(*maps_[stage], clocks_[stage], past(stage), moment);
}

std::optional<Moment> ChainPlan::bodyMoment(const Moment& moment) const {
  Moment at = moment;
  for (std::size_t k = maps_.size(); k-- > bodyEnd_;) {
    const std::int32_t frame = (at.rest == Rational(0) && at.whole >= 0 && at.whole < videos_[k + 1].length
                                    ? pickOf(k, static_cast<std::int32_t>(at.whole))
                                    : pickAt(k, at))
                                   .first;
    if (frame == noFrame) return std::nullopt;
    at = {frame, 0};
  }
  return at;
}

std::int32_t ChainPlan::belowBody(std::int64_t i) const {
  std::int32_t frame = foldFrame(i, clocks_[bodyBegin_].frameCount(), past(bodyBegin_));
  for (std::size_t k = bodyBegin_; k-- > 0 && frame != noFrame;) frame = pickOf(k, frame).first;
  return frame;
}

std::int32_t ChainPlan::wholeFrame(const Moment& moment) const {
  if (maps_.empty())
    return clocks_[0].pick(moment.whole, moment.rest.toDouble(), PastTheEnds::Hold, InBetween::Nearest).first;
  const auto at = bodyMoment(moment);
  return at ? static_cast<std::int32_t>(at->whole) : noFrame;
}

/// By the length of the runs in some of the rows.
Layout ChainPlan::bestLayout() const {
  if (allWhole_) return Layout::Rows;
  const PlaneSites sites = planeSites(source_, 0, scale_);
  const auto middle = bodyMoment({length() / 2, 0});
  const int step = std::max(1, sites.height / 24);
  const bool usual = isUsual(middle);
  const Displacements displacements(*this, middle);
  RowPicks picks;
  double samples = 0, runs = 0;
  for (int y = step / 2; y < sites.height; y += step) {
    pickRow(middle, usual, displacements, sites, y, picks);
    const auto& frames = picks.lanes[0].frame;
    runs += 1;
    for (std::size_t x = 1; x < frames.size(); ++x) runs += frames[x] != frames[x - 1];
    samples += sites.width;
  }
  return samples / runs >= std::min(longRun, static_cast<double>(sites.width)) ? Layout::Rows : Layout::Blocks;
}

bool ChainPlan::isUsual(const std::optional<Moment>& moment) const {
  if (!steady_) return false;
  if (bodyBegin_ == bodyEnd_ || !moment) return true;
  if (bodyBegin_ == 0 && clocks_[0].varying()) return false;
  // Round and round there are no ends; whatever is asked of an earlier stage comes round alike.
  if (videos_[bodyBegin_].endless && (mixingStages_ == 0 || past(bodyBegin_) != PastTheEnds::Clear)) return true;
  // What a later stage asks of an earlier one must lie within that one's video: there nothing is folded.
  std::int64_t low = moment->whole, high = moment->whole;
  double rest = moment->rest.toDouble();
  const auto go = [&](std::size_t k) {
    const Reach reach = maps_[k]->reach();
    low += static_cast<std::int64_t>(std::floor(rest + reach.least - sameFrame));
    high += static_cast<std::int64_t>(std::floor(rest + reach.most + sameFrame)) + 1;
    rest = 0;
  };
  for (std::size_t k = bodyEnd_; k-- > bodyBegin_ + 1;) {
    go(k);
    if (low < 0 || high >= videos_[k].length) return false;
  }
  // The ends below the body are folded when frames are looked up; but where nothing is read, weights are others.
  if (mixingStages_ == 0 || past(bodyBegin_) != PastTheEnds::Clear) return true;
  go(bodyBegin_);
  return low >= 0 && high < clocks_[bodyBegin_].frameCount();
}

void ChainPlan::pickRow(const std::optional<Moment>& moment, bool usual, const Displacements& displacements,
                        const PlaneSites& sites, int row, RowPicks& picks) const {
  const auto width = static_cast<std::size_t>(sites.width);
  const auto count = static_cast<int>(width);
  const bool pairs = usual && mixingStages_ == 1;
  picks.lanes.resize(pairs ? 1 : std::size_t(1) << mixingStages_);
  for (auto& lane : picks.lanes) lane.frame.resize(width), lane.weight.resize(width);
  std::fill(picks.lanes[0].weight.begin(), picks.lanes[0].weight.end(), wholeWeight);
  if (bodyBegin_ == bodyEnd_ || (!moment && !usual)) {
    // One frame for all, whose number is no matter; or none at all.
    for (auto& lane : picks.lanes) std::fill(lane.frame.begin(), lane.frame.end(), usual ? 0 : noFrame);
    return;
  }
  const Moment at = moment.value_or(Moment{});
  const double rest = at.rest.toDouble();
  thread_local std::vector<double> d;
  thread_local std::vector<std::int32_t> step;
  thread_local std::vector<std::uint32_t> share;
  d.resize(width), step.resize(width), share.resize(width);
  std::size_t lanes = 1;
  for (std::size_t k = bodyEnd_; k-- > (usual ? bodyBegin_ : 0);) {
    const TimeMap& map = *maps_[k];
    const bool top = k + 1 == bodyEnd_, whole = map.wholePicture(), stamped = k == 0 && clocks_[0].varying();
    const std::int64_t length = clocks_[k].frameCount();
    const PastTheEnds ends = past(k);
    const bool mixes = map.mixes();
    const auto findSteps = [&] {
      if (top && rest != 0)
        for (double& value : d) value += rest;
      mixes ? framesBelow(d.data(), step.data(), share.data(), count) : nearestFrames(d.data(), step.data(), count);
    };
    const Displacement* const known = displacements.known[k].get();
    if (!whole && known) {
      known->row(sites, row, d);
      findSteps();
    }
    const FramePick topPick = whole && top ? pickAt(k, at) : FramePick{};
    const auto fold = [&](std::int64_t i) { return usual ? static_cast<std::int32_t>(i) : foldFrame(i, length, ends); };
    for (std::size_t l = 0; l < lanes; ++l) {
      RowPicks::Lane& lane = picks.lanes[l];
      if (!whole && !known) {
        std::fill(d.begin(), d.end(), 0.0);
        displaceEach(lane.frame, sites, row, d,
                     [&](std::int32_t picture) { return displacements.of(map, k, picture); });
        findSteps();
      }
      RowPicks::Lane* const second = mixes && !pairs ? &picks.lanes[l + lanes] : nullptr;
      if (top && usual && !second) {
        std::copy(step.begin(), step.end(), lane.frame.begin());
      } else {
        for (std::size_t x = 0; x < width; ++x) {
          const std::int64_t from = top ? (usual ? 0 : at.whole) : lane.frame[x];
          if (second) second->frame[x] = noFrame, second->weight[x] = 0;
          if (!usual && !top && lane.frame[x] == noFrame) continue;
          std::uint32_t weight = mixes ? share[x] : 0;
          std::int32_t after = noFrame;
          if (whole || stamped) {
            const FramePick pick = !whole ? clocks_[0].pick(from, d[x], ends, map.inBetween())
                                   : top  ? topPick
                                          : pickOf(k, static_cast<std::int32_t>(from));
            lane.frame[x] = pick.first, after = pick.second, weight = pick.weight;
          } else {
            lane.frame[x] = fold(from + step[x]);
            if (second && weight > 0) after = fold(from + step[x] + 1);
          }
          if (!second || weight == 0) continue;
          const std::uint32_t given = shareOf(lane.weight[x], weight);
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

std::vector<ChainPlan::WholeLane> ChainPlan::lanesAt(const Moment& moment) const {
  std::vector<WholeLane> lanes{{0, wholeWeight}};
  for (std::size_t k = maps_.size(); k-- > 0;) {
    std::vector<WholeLane> below;
    const auto add = [&](std::int32_t frame, std::uint32_t weight) {
      if (frame == noFrame || weight == 0) return;
      const auto same = std::find_if(below.begin(), below.end(), [&](const auto& lane) { return lane.frame == frame; });
      same == below.end() ? below.push_back({frame, weight}) : void(same->weight += weight);
    };
    for (const WholeLane& lane : lanes) {
      const FramePick pick = k + 1 == maps_.size() ? pickAt(k, moment) : pickOf(k, lane.frame);
      const std::uint32_t given = shareOf(lane.weight, pick.weight);
      add(pick.first, lane.weight - given);
      add(pick.second, given);
    }
    lanes = std::move(below);
  }
  std::sort(lanes.begin(), lanes.end(), [](const auto& a, const auto& b) { return a.frame < b.frame; });
  if (lanes.empty()) lanes.push_back({noFrame, 0});
  return lanes;
}

std::shared_ptr<const GatherProgram> ChainPlan::program(const Moment& moment) const {
  const auto inBody = bodyMoment(moment);
  const bool usual = isUsual(inBody);
  // What is compiled is told apart by the moment of the body.
  const Moment key = bodyBegin_ == bodyEnd_ ? Moment{} : inBody.value_or(Moment{});
  const std::scoped_lock lock(*mutex_);
  for (auto at = compiled_.begin(); at != compiled_.end(); ++at) {
    if (at->usual != usual || at->nothing != !inBody || at->moment.rest != key.rest ||
        (!usual && at->moment.whole != key.whole))
      continue;
    if (at != compiled_.begin()) {
      Compiled found = std::move(*at);
      compiled_.erase(at);
      compiled_.push_front(std::move(found));
    }
    return compiled_.front().program;
  }
  const PlaneSites sites[] = {planeSites(source_, 0, scale_),
                              planeSites(source_, source_.format.model == ColourModel::Yuv ? 1 : 0, scale_)};
  std::shared_ptr<const GatherProgram> made;
  if (allWhole_ && mixingStages_ > 0 && inBody) {
    const auto lanes = lanesAt(*inBody);
    const Picking picking = lanes.size() == 1 && lanes[0].weight == wholeWeight ? Picking::Copy : Picking::Lanes;
    made = std::make_shared<const GatherProgram>(
        *layout_, shape_, picking, static_cast<int>(lanes.size()), [&](int plane, int, RowPicks& picks) {
          picks.lanes.resize(lanes.size());
          for (std::size_t l = 0; l < lanes.size(); ++l) {
            picks.lanes[l].frame.assign(static_cast<std::size_t>(sites[plane].width), lanes[l].frame);
            picks.lanes[l].weight.assign(static_cast<std::size_t>(sites[plane].width), lanes[l].weight);
          }
        });
  } else {
    const Picking picking = mixingStages_ == 0            ? Picking::Copy
                            : usual && mixingStages_ == 1 ? Picking::Pairs
                                                          : Picking::Lanes;
    const Displacements displacements(*this, inBody);
    made = std::make_shared<const GatherProgram>(
        *layout_, shape_, picking, picking == Picking::Lanes ? 1 << mixingStages_ : 1,
        [&](int plane, int row, RowPicks& picks) { pickRow(inBody, usual, displacements, sites[plane], row, picks); });
  }
  compiled_.push_front({usual, !inBody, key, std::move(made)});
  if (compiled_.size() > programsKept) compiled_.pop_back();
  return compiled_.front().program;
}

std::int32_t ChainPlan::meant(std::int32_t number, const Moment& moment, const std::optional<Moment>& inBody,
                              bool usual) const {
  if (passesThrough()) return wholeFrame(moment);
  if (!usual) return number;
  return inBody ? belowBody(inBody->whole + number) : noFrame;
}

std::int32_t ChainPlan::frameMeant(std::int32_t number, const Moment& moment) const {
  const auto inBody = bodyMoment(moment);
  return meant(number, moment, inBody, isUsual(inBody));
}

std::vector<std::int32_t> ChainPlan::framesOf(const GatherProgram& program, const Moment& moment) const {
  std::vector<std::int32_t> frames;
  const auto inBody = bodyMoment(moment);
  const bool usual = isUsual(inBody);
  for (const std::int32_t number : program.frames())
    if (const auto frame = meant(number, moment, inBody, usual); frame != noFrame) frames.push_back(frame);
  std::sort(frames.begin(), frames.end());
  frames.erase(std::unique(frames.begin(), frames.end()), frames.end());
  return frames;
}

FrameLookup ChainPlan::lookUp(const GatherProgram& program, const Moment& moment, const FrameTable& table) const {
  FrameLookup lookup;
  lookup.least = program.frames().front();
  lookup.frames.resize(static_cast<std::size_t>(program.frames().back() - lookup.least + 1));
  const auto inBody = bodyMoment(moment);
  const bool usual = isUsual(inBody);
  for (const std::int32_t number : program.frames()) {
    const auto frame = meant(number, moment, inBody, usual);
    if (frame == noFrame) continue;
    const StoredFrame* const held = table.find(frame);
    lookup.frames[static_cast<std::size_t>(number - lookup.least)] = held ? held->tiles() : FrameLookup::later;
  }
  return lookup;
}

}  // namespace molten
