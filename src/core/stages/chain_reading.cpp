#include "core/stages/chain_reading.h"

#include <algorithm>
#include <cmath>
#include <limits>

#include "core/stages/frame_work.h"
#include "core/stages/mixing.h"
#include "core/wide.h"

namespace molten {
namespace {

constexpr double nothing = std::numeric_limits<double>::quiet_NaN();

/// out[i] = map(in[i]), neighbours that are alike asked once. None stays none.
template <class Map>
void mapEach(std::span<double> values, Map map) {
  double last = nothing, made = nothing;
  for (double& value : values) {
    if (std::isnan(value)) continue;
    if (value != last) last = value, made = map(value);
    value = made;
  }
}

MOLTEN_WIDE void addEach(const double* d, int count, double* offsets) {
  for (int i = 0; i < count; ++i) offsets[i] += d[i];
}

/// foldPosition() of shift + offset, where ends stand still.
MOLTEN_WIDE void standStillEach(double shift, double last, int count, double* offsets) {
  for (int i = 0; i < count; ++i) {
    const double position = shift + offsets[i];
    const double held = position < 0 ? 0.0 - shift : offsets[i];
    offsets[i] = position > last ? last - shift : held;
  }
}

/// What is heard of a video lasts until its last picture ends.
double heardWithin(double position, const VideoDescription& video, PastTheEnds past) {
  const double length = video.pictures().toDouble();
  if (position > -samePosition && position < length - samePosition) return position;
  if (past == PastTheEnds::GoRound) {
    const double at = std::fmod(position, length);
    return at < -samePosition ? at + length : at;
  }
  if (past == PastTheEnds::TurnBack) return foldPosition(position, video.length, past).value_or(nothing);
  return nothing;
}

Place moved(const Affine& way, Place place) {
  return {way.x(place.x, place.y), way.y(place.x, place.y)};
}

}  // namespace

ChainReading::ChainReading(const Chain& chain, const VideoDescription& source,
                           const std::shared_ptr<Material>& material, const Chain& under,
                           const std::optional<FrameClock>& clock)
    : maps_(timeMaps(chain, source, material, under)),
      clock_(clock.value_or(FrameClock::constant(source.rate, source.length))) {
  for (const Stage& stage : chain)
    if (stage.on) stages_.push_back(stage);
  videos_.push_back(source);
  for (const auto& map : maps_) videos_.push_back(map->outgoing());
  displacedUntil_ = maps_.size();
  while (displacedUntil_ > 0 && maps_[displacedUntil_ - 1]->moving()) --displacedUntil_;
}

PastTheEnds ChainReading::ends(std::size_t stage) const {
  if (videos_[stage].endless) return PastTheEnds::GoRound;
  return stage < maps_.size() ? maps_[stage]->pastTheEnds() : PastTheEnds::StandStill;
}

std::optional<Moment> ChainReading::into(std::size_t stage, const Moment& moment) const {
  std::optional<Moment> at = moment;
  for (std::size_t k = maps_.size(); k-- > stage && at;) {
    at = maps_[k]->readAt(*at);
    if (k > 0) at = foldMoment(*at, videos_[k].length, ends(k));
  }
  return at;
}

Moment ChainReading::present(std::size_t stage, const Moment& moment) const {
  Moment at = moment;
  for (std::size_t k = maps_.size(); k-- > stage;)
    // Where nothing is, the end is what is meant.
    at = foldMoment(maps_[k]->readAt(at), videos_[k].length,
                    ends(k) == PastTheEnds::Transparent ? PastTheEnds::StandStill : ends(k))
             .value_or(Moment{});
  return at;
}

bool ChainReading::warps() const {
  return std::any_of(maps_.begin(), maps_.end(), [](const auto& map) { return map->warp() != nullptr; });
}

Place ChainReading::placeInto(std::size_t stage, Place place, const Moment& moment) const {
  for (std::size_t k = maps_.size(); k-- > stage;)
    if (const Warp* const warp = maps_[k]->warp()) place = moved(warp->toIncoming(present(k + 1, moment)), place);
  return place;
}

Place ChainReading::placeOutOf(std::size_t stage, Place place, const Moment& moment) const {
  for (std::size_t k = stage; k < maps_.size(); ++k)
    if (const Warp* const warp = maps_[k]->warp())
      place = moved(warp->toIncoming(present(k + 1, moment)).inverse(), place);
  return place;
}

/// Site by site: each stands where the stages above have laid it.
void ChainReading::rowThroughWarps(const Moment& moment, const PlaneSites& sites, int row, RowReads& out) const {
  const auto count = static_cast<std::size_t>(sites.width);
  std::vector<Place> places(count);
  const Size full = outgoing().size;
  for (std::size_t i = 0; i < count; ++i)
    places[i] = {(sites.x0 + static_cast<double>(i) * sites.stepX) / full.width,
                 (sites.y0 + row * sites.stepY) / full.height};
  out.base = 0;
  out.offsets.assign(count, moment.pictures());
  for (std::size_t k = maps_.size(); k-- > 0;) {
    const DisplacingMap* const displacing = maps_[k]->displacing();
    const std::shared_ptr<const Displacement> steady =
        displacing && displacing->steady() ? displacing->displacement({}) : nullptr;
    const Warp* const warp = maps_[k]->warp();
    Affine way;
    double wayOf = nothing;  ///< the position that it is of: neighbours are mostly of one
    const Size size = videos_[k + 1].size;
    for (std::size_t i = 0; i < count; ++i) {
      double& position = out.offsets[i];
      if (std::isnan(position)) continue;
      if (displacing) {
        PlaneSites site;
        site.width = site.height = 1;
        site.x0 = places[i].x * size.width, site.y0 = places[i].y * size.height;
        double by = 0;
        if (steady)
          steady->row(site, 0, {&by, 1});
        else
          displacing->displaceEach({&position, 1}, site, 0, {&by, 1});
        position += by;
      } else {
        if (warp) {
          if (position != wayOf) way = warp->toIncoming(Moment::near(position)), wayOf = position;
          places[i] = moved(way, places[i]);
        }
        position = maps_[k]->positionAt(position);
      }
      if (k > 0) position = foldPosition(position, videos_[k].length, ends(k)).value_or(nothing);
    }
  }
}

void ChainReading::row(const Moment& moment, const PlaneSites& sites, int row, RowReads& out) const {
  if (warps()) return rowThroughWarps(moment, sites, row, out);
  out.offsets.resize(static_cast<std::size_t>(sites.width));
  const auto at = into(displacedUntil_, moment);
  out.base = at ? at->whole : 0;
  std::fill(out.offsets.begin(), out.offsets.end(), at ? at->part() : nothing);
  if (!at) return;
  thread_local std::vector<double> buffer;
  std::vector<double> d = std::move(buffer);  // stages may come here again for what their fields are made of
  d.resize(out.offsets.size());
  for (std::size_t k = displacedUntil_; k-- > 0;) {
    const auto base = static_cast<double>(out.base);
    const DisplacingMap* const map = maps_[k]->displacing();
    if (!map) {
      mapEach(out.offsets, [&](double offset) { return maps_[k]->positionAt(base + offset); });
      out.base = 0;
    } else if (k + 1 == displacedUntil_ || map->steady()) {
      map->displacement(*at)->row(sites, row, d);
      addEach(d.data(), static_cast<int>(d.size()), out.offsets.data());
    } else {
      std::vector<double> positions = out.offsets;
      for (double& position : positions) position += base;
      map->displaceEach(positions, sites, row, d);
      for (std::size_t i = 0; i < d.size(); ++i)
        out.offsets[i] = std::isnan(out.offsets[i]) ? nothing : out.offsets[i] + d[i];
    }
    if (k == 0) break;
    const std::int64_t length = videos_[k].length;
    const PastTheEnds past = ends(k);
    const auto shift = static_cast<double>(out.base);
    if (past == PastTheEnds::StandStill) {
      standStillEach(shift, static_cast<double>(length - 1), static_cast<int>(d.size()), out.offsets.data());
      continue;
    }
    for (double& offset : out.offsets)
      if (!std::isnan(offset) && !liesWithin(shift + offset, length, past))
        offset = foldPosition(shift + offset, length, past).value_or(nothing) - shift;
  }
  buffer = std::move(d);
}

/// Where the last picture stands still, nothing is seen of an end as long as it lasts.
bool ChainReading::lastsToTheEnd(std::size_t stage) const {
  return maps_[stage]->pastTheEnds() == PastTheEnds::StandStill;
}

ChainReading::Bounds ChainReading::bounds(PositionSpans from, std::size_t stage,
                                          std::span<const Reach* const> known) const {
  Bounds bounds{std::move(from), false, false};
  // Whole frames go over an end from half a frame on, in-betweens from any part of one.
  const double slack = source().between == InBetween::Whole ? 0.5 - samePosition : samePosition;
  for (std::size_t k = stage; k-- > 0 && !bounds.spans.empty();) {
    const MovingMap* const moving = maps_[k]->moving();
    const DisplacingMap* const displacing = maps_[k]->displacing();
    PositionSpans read;
    for (const auto& [low, high] : bounds.spans) {
      if (moving) {
        const Reach reads = moving->readsBetween(low, high);
        read.add(reads.least, reads.most);
      } else {
        const Reach reach = !known.empty() && known[k] ? *known[k]
                            : low == high              ? displacing->reachAt(Moment::near(low))
                                                       : displacing->reachBetween(low, high);
        read.add(low + reach.least, high + reach.most);
      }
    }
    if (!videos_[k].endless) {
      const auto last = static_cast<double>(videos_[k].length - 1);
      bounds.beforeFirst = bounds.beforeFirst || read.least() < -slack - samePosition;
      bounds.pastLast = bounds.pastLast || read.most() > last + (lastsToTheEnd(k) ? 1 - samePosition : slack);
    }
    bounds.spans = k == 0 ? std::move(read) : read.folded(videos_[k].length, ends(k));
  }
  return bounds;
}

/// Through one stage, for drawing.
double ChainReading::down(std::size_t stage, double position) const {
  const double read = maps_[stage]->positionAt(position);
  if (stage == 0) return read;
  // Where nothing is, what is drawn stays at the end.
  return foldPosition(read, videos_[stage].length, ends(stage))
      .value_or(std::clamp(read, 0.0, static_cast<double>(videos_[stage].length - 1)));
}

double ChainReading::sourceOf(std::size_t stage, double position) const {
  for (std::size_t k = stage; k-- > 0;) position = down(k, position);
  return position;
}

double ChainReading::heardAt(double position) const {
  if (maps_.empty()) return heardWithin(position, source(), ends(0));
  for (std::size_t k = maps_.size(); k-- > 0 && !std::isnan(position);)
    position = heardWithin(maps_[k]->heardAt(position), videos_[k], ends(k));
  return position;
}

MomentReads ChainReading::at(double position) const {
  MomentReads reads;
  const Bounds bounds = this->bounds({position, position}, maps_.size());
  reads.now = position;
  for (std::size_t k = maps_.size(); k-- > 0;) {
    for (double& tap : reads.taps) tap = down(k, tap);
    if (const Mixing* const mixing = maps_[k]->mixing()) {
      const auto more = mixing->taps(reads.now);
      reads.taps.insert(reads.taps.end(), more.begin(), more.end());
    }
    reads.now = down(k, reads.now);
  }
  reads.least = bounds.spans.empty() ? reads.now : bounds.spans.least();
  reads.most = bounds.spans.empty() ? reads.now : bounds.spans.most();
  reads.beforeFirst = bounds.beforeFirst, reads.pastLast = bounds.pastLast;
  return reads;
}

PlaceReads ChainReading::at(const Moment& moment, double x, double y) const {
  PlaneSites pixel;
  pixel.width = pixel.height = 1;
  pixel.x0 = std::floor(x) + 0.5, pixel.y0 = std::floor(y) + 0.5;
  RowReads read;
  row(moment, pixel, 0, read);
  PlaceReads reads{read.at(0), noFrame};
  if (std::isnan(reads.position))
    reads.position = 0;
  else
    reads.frame = clock_.pick(read.base, read.offsets[0], ends(0), InBetween::Whole).first;
  return reads;
}

}  // namespace molten
