#include "core/engine/chain_plan.h"

#include <algorithm>
#include <cmath>

#include "core/parallel.h"
#include "core/wide.h"

namespace molten {
namespace {

/// Runs of this many samples are copied faster from rows; shorter ones from blocks. See docs/performance.md.
constexpr double longRun = 192;
constexpr std::size_t programsKept = 8;

/// positionOf() in wide loops: the nearest frame of each position …
MOLTEN_WIDE void nearestFrames(const double* d, std::int32_t* frame, int count) {
  for (int i = 0; i < count; ++i) frame[i] = static_cast<std::int32_t>(__builtin_floor(d[i] + 0.5 + samePosition));
}

/// … or the frame below it, and the weight in 1/65536 of the one above.
MOLTEN_WIDE void framesBelow(const double* d, std::int32_t* frame, std::uint32_t* weight, int count) {
  for (int i = 0; i < count; ++i) {
    const double nearest = __builtin_floor(d[i] + 0.5 + samePosition), off = d[i] - nearest;
    const double position = off <= samePosition && off >= -samePosition ? nearest : d[i];
    const double below = __builtin_floor(position);
    const auto share = static_cast<std::int32_t>((position - below) * wholeWeight + 0.5);
    const bool whole = share == static_cast<std::int32_t>(wholeWeight);
    frame[i] = static_cast<std::int32_t>(below) + (whole ? 1 : 0);
    weight[i] = static_cast<std::uint32_t>(whole ? 0 : share);
  }
}

bool alphaCanBeMade(const PictureShape& shape) {
  PictureShape with = shape;
  with.format.alpha = true;
  return avFormat(with.format) || shape.format.model == ColourModel::Gray || shape.format.floating;
}

}  // namespace

ChainPlan::ChainPlan(const Chain& stages, const PlanSource& source, const std::shared_ptr<Material>& material)
    : source_(source),
      reading_(stages, source.video, material, source.under, source.clock),
      shape_(source.shape),
      framesAPicture_(source.clock.rate() / source.video.rate),
      perPicture_(framesAPicture_.toDouble()) {
  bool mayBeClear = false;  // a pixel may be left without any frame
  for (std::size_t k = 0; k < reading_.size(); ++k) {
    const TimeMap& map = reading_.map(k);
    const Reach reach = map.reach();
    const bool leaves = map.wholePicture() || reach.least < -0.5 || reach.most > 0.5;
    mayBeClear = mayBeClear || (reading_.ends(k) == PastTheEnds::Transparent && leaves);
    movesPictures_ = movesPictures_ || map.wholePicture();
    if (map.wholePicture()) {
      alike_ = alike_ && k >= reading_.displacedUntil();
    } else {
      ++displacing_;
      alike_ = alike_ && map.steady();
    }
  }
  alike_ = alike_ && !source_.clock.varying();
  if (mayBeClear && !shape_.format.alpha) shape_.format.alpha = alphaCanBeMade(shape_);
  layout_.emplace(source_.shape, bestLayout());
}

void ChainPlan::adopt(const ChainPlan& other) {
  const auto displacing = [](const ChainPlan& plan) {
    return std::span(plan.stages()).first(plan.reading_.displacedUntil());
  };
  const auto mine = displacing(*this), its = displacing(other);
  if (!alike_ || !other.alike_ || mine.empty() || !std::equal(mine.begin(), mine.end(), its.begin(), its.end()) ||
      scale() != other.scale() || !(shape_ == other.shape_) || !(source_.shape == other.source_.shape) ||
      layout_->kind() != other.layout_->kind() || between() != other.between() ||
      framesAPicture_ != other.framesAPicture_ || source_.video.rate != other.source_.video.rate)
    return;
  // A field may depend on how long the video is that it is made for.
  const PlaneSites sites = planeSites(source_.shape, 0, scale());
  std::vector<double> here(static_cast<std::size_t>(sites.width)), there(here.size());
  for (std::size_t k = 0; k < mine.size(); ++k)
    for (const int row : {0, sites.height / 3, sites.height - 1}) {
      reading_.map(k).displacement({})->row(sites, row, here);
      other.reading_.map(k).displacement({})->row(sites, row, there);
      if (here != there) return;
    }
  const std::scoped_lock lock(*other.mutex_);
  for (const Compiled& known : other.compiled_)
    if (known.key.kind == Key::Kind::Shared) compiled_.push_back(known);
}

ChainPlan::Ticks ChainPlan::ticksOf(const Moment& moment) const {
  if (framesAPicture_ == Rational(1)) return {moment.whole, moment.part()};
  const Rational exact = moment.exact() * framesAPicture_;
  return {exact.floor(), exact.part().toDouble() + moment.off * perPicture_};
}

FramePick ChainPlan::wholePick(const Moment& moment) const {
  const Ticks at = ticksOf(moment);
  return source_.clock.pick(at.whole, at.part, reading_.ends(0), between());
}

std::optional<std::int32_t> ChainPlan::onlyFrame(const Moment& moment) const {
  if (!wholePictures() || !(shape_ == source_.shape)) return std::nullopt;
  const auto at = displacedMoment(moment);
  if (!at) return std::nullopt;
  const FramePick pick = wholePick(*at);
  if (pick.first == noFrame || pick.weight > 0) return std::nullopt;
  return pick.first;
}

/// True if the distances at a moment are those of every other one that lies alike: what a stage asks of one under it
/// lies within that one's video, where nothing is folded; what is asked of the source is folded when frames are looked
/// up, but where nothing is read, weights are others.
bool ChainPlan::isShared(const Moment& displaced) const {
  if (!alike_) return false;
  double low = displaced.pictures(), high = low;
  for (std::size_t k = reading_.displacedUntil(); k-- > 0;) {
    const Reach reach = reading_.map(k).reach();
    low += reach.least, high += reach.most;
    const PastTheEnds past = reading_.ends(k);
    if (k == 0)
      return !mixes() || past != PastTheEnds::Transparent ||
             (low >= 0 && high <= static_cast<double>(reading_.video(0).length - 2));
    const std::int64_t length = reading_.video(k).length;
    if (!liesWithin(low, length, past) || !liesWithin(high, length, past)) return false;
  }
  return true;
}

ChainPlan::Key ChainPlan::keyOf(const std::optional<Moment>& displaced) const {
  Key key;
  if (!displaced) return key;
  if (wholePictures()) {
    const FramePick pick = wholePick(*displaced);
    key.kind = Key::Kind::Whole;
    key.weight = pick.weight;
    key.first = pick.first != noFrame, key.second = pick.weight > 0 && pick.second != noFrame;
    if (!key.first && !key.second) key = {};
  } else if (isShared(*displaced)) {
    key.kind = Key::Kind::Shared;
    key.part = ticksOf(*displaced).part;
  } else {
    key.kind = Key::Kind::Own;
    key.moment = *displaced;
  }
  return key;
}

/// By the length of the runs in some of the rows.
Layout ChainPlan::bestLayout() const {
  if (wholePictures()) return Layout::Rows;
  const Moment middle{length() / 2};
  const Key key = keyOf(displacedMoment(middle));
  const PlaneSites sites = planeSites(source_.shape, 0, scale());
  const int step = std::max(1, sites.height / 24);
  RowPicks picks;
  double samples = 0, runs = 0;
  for (int y = step / 2; y < sites.height; y += step) {
    pickRow(key, middle, sites, y, picks);
    const auto& frames = picks.lanes[0].frame;
    runs += 1;
    for (std::size_t x = 1; x < frames.size(); ++x) runs += frames[x] != frames[x - 1];
    samples += sites.width;
  }
  return samples / runs >= std::min(longRun, static_cast<double>(sites.width)) ? Layout::Rows : Layout::Blocks;
}

void ChainPlan::pickRow(const Key& key, const Moment& moment, const PlaneSites& sites, int row, RowPicks& picks) const {
  const auto width = static_cast<std::size_t>(sites.width);
  const bool shared = key.kind == Key::Kind::Shared;
  picks.lanes.resize(mixes() && !shared && key.kind != Key::Kind::Nothing ? 2 : 1);
  for (auto& lane : picks.lanes) lane.frame.resize(width), lane.weight.resize(width);
  RowPicks::Lane& first = picks.lanes[0];
  if (key.kind == Key::Kind::Nothing) {
    std::fill(first.frame.begin(), first.frame.end(), noFrame);
    std::fill(first.weight.begin(), first.weight.end(), 0);
    return;
  }
  const auto fill = [](RowPicks::Lane& lane, bool there, std::int32_t number, std::uint32_t weight) {
    std::fill(lane.frame.begin(), lane.frame.end(), there ? number : noFrame);
    std::fill(lane.weight.begin(), lane.weight.end(), there ? weight : 0);
  };
  if (key.kind == Key::Kind::Whole) {
    // Numbers 0 and 1 stand for the moment's own two frames.
    fill(first, key.first, 0, wholeWeight - key.weight);
    if (picks.lanes.size() > 1) fill(picks.lanes[1], key.second, 1, key.weight);
    return;
  }
  thread_local RowReads buffer;
  RowReads reads = std::move(buffer);  // stages may come here again for what their fields are made of
  reading_.row(moment, sites, row, reads);
  if (framesAPicture_ != Rational(1)) {
    // A shared program counts from the moment's own frame.
    const Ticks base = ticksOf({reads.base});
    const std::int64_t from = shared ? ticksOf(*displacedMoment(moment)).whole : base.whole;
    const double shift = base.part + static_cast<double>(base.whole - from);
    for (double& offset : reads.offsets) offset = offset * perPicture_ + shift;
    reads.base = from;
  }
  const auto count = static_cast<int>(width);
  if (shared) {
    if (mixes())
      framesBelow(reads.offsets.data(), first.frame.data(), first.weight.data(), count);
    else
      nearestFrames(reads.offsets.data(), first.frame.data(), count);
  } else {
    const PastTheEnds past = reading_.ends(0);
    double known = std::numeric_limits<double>::quiet_NaN();
    FramePick pick;
    for (std::size_t x = 0; x < width; ++x) {
      const double offset = reads.offsets[x];
      if (std::isnan(offset))
        pick = {noFrame, noFrame, 0}, known = offset;
      else if (offset != known)
        known = offset, pick = source_.clock.pick(reads.base, offset, past, between());
      first.frame[x] = pick.first;
      if (picks.lanes.size() == 1) continue;
      // Where a lane reads nothing, it weighs nothing.
      RowPicks::Lane& second = picks.lanes[1];
      second.frame[x] = pick.weight > 0 ? pick.second : noFrame;
      second.weight[x] = second.frame[x] == noFrame ? 0 : pick.weight;
      first.weight[x] = pick.first == noFrame ? 0 : wholeWeight - pick.weight;
    }
  }
  buffer = std::move(reads);
}

std::shared_ptr<const GatherProgram> ChainPlan::compile(const Key& key, const Moment& moment) const {
  const PictureShape& from = source_.shape;
  const PlaneSites sites[] = {planeSites(from, 0, scale()),
                              planeSites(from, from.format.model == ColourModel::Yuv ? 1 : 0, scale())};
  const bool copies =
      !mixes() || key.kind == Key::Kind::Nothing || (key.kind == Key::Kind::Whole && key.weight == 0 && key.first);
  const Picking picking = copies ? Picking::Copy : key.kind == Key::Kind::Shared ? Picking::Pairs : Picking::Lanes;
  return std::make_shared<const GatherProgram>(
      *layout_, shape_, picking, picking == Picking::Lanes ? 2 : 1,
      [&](int plane, int row, RowPicks& picks) { pickRow(key, moment, sites[plane], row, picks); });
}

std::shared_ptr<const GatherProgram> ChainPlan::program(const Moment& moment) const {
  const Key key = keyOf(displacedMoment(moment));
  {
    const std::scoped_lock lock(*mutex_);
    const auto at =
        std::find_if(compiled_.begin(), compiled_.end(), [&](const auto& known) { return known.key == key; });
    if (at != compiled_.end()) {
      std::rotate(compiled_.begin(), at, at + 1);
      return compiled_.front().program;
    }
  }
  auto made = compile(key, moment);
  const std::scoped_lock lock(*mutex_);
  compiled_.push_front({key, std::move(made)});
  if (compiled_.size() > programsKept) compiled_.pop_back();
  return compiled_.front().program;
}

std::function<std::int32_t(std::int32_t)> ChainPlan::meaning(const Moment& moment) const {
  const auto at = displacedMoment(moment);
  const Key key = keyOf(at);
  switch (key.kind) {
    case Key::Kind::Whole:
      return [pick = wholePick(*at)](std::int32_t number) {
        return number == noFrame ? noFrame : number == 0 ? pick.first : pick.second;
      };
    case Key::Kind::Shared:
      return [whole = ticksOf(*at).whole, count = source_.clock.frameCount(),
              past = reading_.ends(0)](std::int32_t number) { return foldFrame(whole + number, count, past); };
    case Key::Kind::Own:
    case Key::Kind::Nothing:
      break;
  }
  return [](std::int32_t number) { return number; };
}

std::vector<std::int32_t> ChainPlan::framesOf(const GatherProgram& program, const Moment& moment) const {
  std::vector<std::int32_t> frames;
  const auto means = meaning(moment);
  for (const std::int32_t number : program.frames())
    if (const auto frame = means(number); frame != noFrame) frames.push_back(frame);
  std::sort(frames.begin(), frames.end());
  frames.erase(std::unique(frames.begin(), frames.end()), frames.end());
  return frames;
}

FrameLookup ChainPlan::lookUp(const GatherProgram& program, const Moment& moment, const FrameTable& table) const {
  FrameLookup lookup;
  lookup.least = program.frames().front();
  lookup.frames.resize(static_cast<std::size_t>(program.frames().back() - lookup.least + 1));
  const auto means = meaning(moment);
  for (const std::int32_t number : program.frames()) {
    const auto frame = means(number);
    if (frame == noFrame) continue;
    const StoredFrame* const held = table.find(frame);
    lookup.frames[static_cast<std::size_t>(number - lookup.least)] = held ? held->tiles() : FrameLookup::later;
  }
  return lookup;
}

}  // namespace molten
