#include "core/engine/sample_reads.h"

#include <algorithm>
#include <cmath>

#include "core/wide.h"

namespace molten {
namespace {

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

}  // namespace

SampleReads::SampleReads(const Chain& stages, const PlanSource& source, const std::shared_ptr<Material>& material)
    : source_(source),
      reading_(stages, source.video, material, source.under, source.clock),
      framesAPicture_(source.clock.rate() / source.video.rate),
      perPicture_(framesAPicture_.toDouble()) {
  for (std::size_t k = 0; k < reading_.size(); ++k) {
    const TimeMap& map = reading_.map(k);
    const Reach reach = map.reach();
    const bool leaves = map.moving() || reach.least < -0.5 || reach.most > 0.5;
    mayBeClear_ = mayBeClear_ || (reading_.ends(k) == PastTheEnds::Transparent && leaves);
    if (const DisplacingMap* const displacing = map.displacing()) {
      ++displacing_;
      alike_ = alike_ && displacing->steady();
    } else {
      movesPictures_ = true;
      alike_ = alike_ && k >= reading_.displacedUntil();
    }
  }
  alike_ = alike_ && !source_.clock.varying();
}

SampleReads::Ticks SampleReads::ticksOf(const Moment& moment) const {
  if (framesAPicture_ == Rational(1)) return {moment.whole, moment.part()};
  const Rational exact = moment.exact() * framesAPicture_;
  return {exact.floor(), exact.part().toDouble() + moment.off * perPicture_};
}

FramePick SampleReads::wholePick(const Moment& moment) const {
  const Ticks at = ticksOf(moment);
  return source_.clock.pick(at.whole, at.part, reading_.ends(0), between());
}

/// True if the distances at a moment are those of every other one that lies alike: what a stage asks of one under it
/// lies within that one's video, where nothing is folded; what is asked of the source is folded when frames are looked
/// up, but where nothing is read, weights are others.
bool SampleReads::isShared(const Moment& displaced) const {
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

SampleReads::Key SampleReads::keyOf(const std::optional<Moment>& displaced) const {
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

/// Numbers that a shared program has are mixed with the next one each; others have a lane for each of two frames.
std::size_t SampleReads::lanesOf(const Key& key) const {
  return mixes() && (key.kind == Key::Kind::Whole || key.kind == Key::Kind::Own) ? 2 : 1;
}

void SampleReads::pickWhole(const Key& key, RowPicks& picks) const {
  const auto fill = [](RowPicks::Lane& lane, bool there, std::int32_t number, std::uint32_t weight) {
    std::fill(lane.frame.begin(), lane.frame.end(), there ? number : noFrame);
    std::fill(lane.weight.begin(), lane.weight.end(), there ? weight : 0);
  };
  // Numbers 0 and 1 stand for the moment's own two frames.
  fill(picks.lanes[0], key.first, 0, wholeWeight - key.weight);
  if (picks.lanes.size() > 1) fill(picks.lanes[1], key.second, 1, key.weight);
}

/// From pictures of the source's video to frames of its clock. A shared program counts from the moment's own frame.
void SampleReads::toFrames(RowReads& reads, const std::optional<std::int64_t>& ownFrame) const {
  if (framesAPicture_ == Rational(1)) return;
  const Ticks base = ticksOf({reads.base});
  const std::int64_t from = ownFrame.value_or(base.whole);
  const double shift = base.part + static_cast<double>(base.whole - from);
  for (double& offset : reads.offsets) offset = offset * perPicture_ + shift;
  reads.base = from;
}

void SampleReads::pickShared(const RowReads& reads, RowPicks::Lane& lane) const {
  const auto count = static_cast<int>(reads.offsets.size());
  if (mixes())
    framesBelow(reads.offsets.data(), lane.frame.data(), lane.weight.data(), count);
  else
    nearestFrames(reads.offsets.data(), lane.frame.data(), count);
}

/// Frames of a constant rate, a row at once; what lies outside is folded one by one.
void SampleReads::pickEven(const RowReads& reads, RowPicks::Lane& lane) const {
  const auto count = static_cast<int>(reads.offsets.size());
  const std::int64_t frames = source_.clock.frameCount();
  const PastTheEnds past = reading_.ends(0);
  nearestFrames(reads.offsets.data(), lane.frame.data(), count);
  const auto base = static_cast<std::int32_t>(reads.base);
  for (std::int32_t& frame : lane.frame) {
    frame += base;
    if (frame < 0 || frame >= frames) frame = foldFrame(frame, frames, past);
  }
}

/// Each sample by the clock; where a lane reads nothing, it weighs nothing.
void SampleReads::pickOwn(const RowReads& reads, RowPicks& picks) const {
  // Neither nothing nor what a whole number cannot hold.
  const auto plain = [](double offset) { return std::abs(offset) < 1e9; };
  if (!mixes() && !source_.clock.varying() && std::abs(static_cast<double>(reads.base)) < 1e9 &&
      std::all_of(reads.offsets.begin(), reads.offsets.end(), plain))
    return pickEven(reads, picks.lanes[0]);
  const PastTheEnds past = reading_.ends(0);
  RowPicks::Lane& first = picks.lanes[0];
  double known = std::numeric_limits<double>::quiet_NaN();
  FramePick pick;
  for (std::size_t x = 0; x < reads.offsets.size(); ++x) {
    const double offset = reads.offsets[x];
    if (std::isnan(offset))
      pick = {noFrame, noFrame, 0}, known = offset;
    else if (offset != known)
      known = offset, pick = source_.clock.pick(reads.base, offset, past, between());
    first.frame[x] = pick.first;
    if (picks.lanes.size() == 1) continue;
    RowPicks::Lane& second = picks.lanes[1];
    second.frame[x] = pick.weight > 0 ? pick.second : noFrame;
    second.weight[x] = second.frame[x] == noFrame ? 0 : pick.weight;
    first.weight[x] = pick.first == noFrame ? 0 : wholeWeight - pick.weight;
  }
}

void SampleReads::pickRow(const Key& key, const Moment& moment, const PlaneSites& sites, int row,
                          RowPicks& picks) const {
  const auto width = static_cast<std::size_t>(sites.width);
  picks.lanes.resize(lanesOf(key));
  for (auto& lane : picks.lanes) lane.frame.resize(width), lane.weight.resize(width);
  // Nothing is a whole picture of neither frame.
  if (key.kind == Key::Kind::Whole || key.kind == Key::Kind::Nothing) return pickWhole(key, picks);
  thread_local RowReads buffer;
  RowReads reads = std::move(buffer);  // stages may come here again for what their fields are made of
  reading_.row(moment, sites, row, reads);
  if (key.kind == Key::Kind::Shared) {
    toFrames(reads, ticksOf(*displacedMoment(moment)).whole);
    pickShared(reads, picks.lanes[0]);
  } else {
    toFrames(reads, std::nullopt);
    pickOwn(reads, picks);
  }
  buffer = std::move(reads);
}

Gathering::Meaning SampleReads::meaningOf(const Key& key, const std::optional<Moment>& at) const {
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

}  // namespace molten
