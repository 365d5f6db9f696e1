#include "core/engine/chain_plan.h"

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/engine/parallel.h"
#include "core/wide.h"

namespace molten {
namespace {

constexpr double sameFrame = 1e-6;

/// floor for values that fit 32 bits, without a call.
inline std::int32_t quickFloor(double value) {
  const auto i = static_cast<std::int32_t>(value);
  return i - (static_cast<double>(i) > value);
}

/// A displacement within 1e-6 of a frame is that frame.
inline double snapped(double frames) {
  const double nearest = quickFloor(frames + 0.5), off = frames - nearest;
  return off <= sameFrame && off >= -sameFrame ? nearest : frames;
}

/// floor(d + 0.5). That a displacement within 1e-6 of a frame is that frame changes nothing here.
MOLTEN_WIDE void nearestFrames(const double* d, std::int32_t* frame, int count) {
  for (int i = 0; i < count; ++i) frame[i] = static_cast<std::int32_t>(__builtin_floor(d[i] + 0.5));
}

/// The frame below each displacement, and the weight in 1/65536 of the one above it.
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

/// One sample from weighted ones. `weights`: in 1/65536, the sum of those that are there; the rest is `black` in a
/// picture without alpha.
template <class Sample>
Sample mixed(double sum, std::uint32_t weights, bool alphaInPicture, std::uint32_t black) {
  if (weights < wholeWeight && !alphaInPicture) {
    sum += static_cast<double>(black) * (wholeWeight - weights);
    weights = wholeWeight;
  }
  if (weights == 0) return static_cast<Sample>(black);
  if constexpr (!std::is_floating_point_v<Sample>)
    if (weights == wholeWeight)
      return static_cast<Sample>((static_cast<std::uint64_t>(sum) + wholeWeight / 2) / wholeWeight);
  if constexpr (std::is_floating_point_v<Sample>) return static_cast<Sample>(sum / weights);
  return static_cast<Sample>((static_cast<std::uint64_t>(sum) + weights / 2) / weights);
}

template <class Sample>
const Sample* samples(const Picture& picture, int plane, int y) {
  return reinterpret_cast<const Sample*>(picture.row(plane, y));
}

}  // namespace

/// What a row of pixels reads: a few frames each, with weights in 1/65536.
struct ChainPlan::Lanes {
  struct Lane {
    std::vector<std::int32_t> frame;
    std::vector<std::uint32_t> weight;
  };
  std::vector<Lane> lanes;
  std::vector<double> displacement;
};

OutputMoment OutputMoment::at(Rational seconds, Rational rate) {
  const Rational frames = seconds * rate;
  return {frames.floor(), frames.part().toDouble()};
}

ChainPlan::ChainPlan(const Chain& stages, const PictureShape& source, const FrameClock& clock, Size fullSize, int scale)
    : source_(source), shape_(source), clock_(clock), scale_(scale) {
  const VideoDescription video{fullSize, source.pixelAspect, clock.rate(), clock.length()};
  for (const Stage& stage : stages) {
    if (!stage.on) continue;
    maps_.push_back(stage.kind->timeMap(stage.values, video));
    const Reach reach = maps_.back()->reach();
    mayBeClear_ =
        mayBeClear_ || (maps_.back()->pastTheEnds() == PastTheEnds::Clear && (reach.least < -0.5 || reach.most > 0.5));
  }
  if (mayBeClear_ && !shape_.format.alpha) {
    shape_.format.alpha = true;
    if (!avFormat(shape_.format) && shape_.format.model != ColourModel::Gray) shape_.format.alpha = false;
  }
  compile();
}

/// A single stage over frames of a constant rate reads every picture at the same distances: they are worked out once.
void ChainPlan::compile() {
  if (maps_.size() != 1 || clock_.varying()) return;
  const TimeMap& map = *maps_[0];
  const bool blend = map.inBetween() == InBetween::Blend;
  std::vector<std::int32_t> offsets;
  for (int p = 0; p < source_.format.planes(); ++p) {
    const PlaneSites sites = planeSites(source_, p, scale_);
    const auto width = static_cast<std::size_t>(sites.width), height = static_cast<std::size_t>(sites.height);
    PlaneRuns plane;
    if (blend) plane.weights.resize(width * height);
    std::vector<std::vector<Run>> rows(height);
    const auto compileRow = [&](std::size_t y, std::vector<double>& displacement, std::vector<std::int32_t>& offset) {
      map.displacements(sites, static_cast<int>(y), displacement);
      const auto count = static_cast<std::int32_t>(width);
      if (blend)
        framesBelow(displacement.data(), offset.data(), plane.weights.data() + y * width, count);
      else
        nearestFrames(displacement.data(), offset.data(), count);
      const std::int32_t* const at = offset.data();
      std::vector<Run>& runs = rows[y];
      for (std::int32_t x = 0; x < count;) {
        const std::int32_t begin = x;
        while (++x < count && at[x] == at[begin]) {
        }
        runs.push_back({begin, x - begin, at[begin]});
      }
    };
    parallelRows(sites.height, 32, [&](int from, int to) {
      std::vector<double> displacement(width);
      std::vector<std::int32_t> offset(width);
      for (int y = from; y < to; ++y) compileRow(static_cast<std::size_t>(y), displacement, offset);
    });
    for (const auto& row : rows) {
      plane.rowStart.push_back(static_cast<std::uint32_t>(plane.runs.size()));
      plane.runs.insert(plane.runs.end(), row.begin(), row.end());
    }
    plane.rowStart.push_back(static_cast<std::uint32_t>(plane.runs.size()));
    const auto [least, most] =
        std::minmax_element(plane.runs.begin(), plane.runs.end(), [](auto& a, auto& b) { return a.offset < b.offset; });
    std::vector<bool> seen(static_cast<std::size_t>(most->offset - least->offset + 2));
    for (const Run& run : plane.runs) {
      seen[static_cast<std::size_t>(run.offset - least->offset)] = true;
      if (blend) seen[static_cast<std::size_t>(run.offset - least->offset + 1)] = true;
    }
    for (std::size_t i = 0; i < seen.size(); ++i)
      if (seen[i]) offsets.push_back(least->offset + static_cast<std::int32_t>(i));
    runs_.push_back(std::move(plane));
  }
  std::sort(offsets.begin(), offsets.end());
  offsets.erase(std::unique(offsets.begin(), offsets.end()), offsets.end());
  offsets_ = std::move(offsets);
}

std::vector<std::int32_t> ChainPlan::framesFor(const OutputMoment& moment) const {
  std::vector<std::int32_t> frames;
  if (!runs_.empty() && moment.rest == 0) {
    for (const std::int32_t offset : offsets_) {
      const auto frame = foldFrame(moment.whole + offset, clock_.frameCount(), maps_[0]->pastTheEnds());
      if (frame != noFrame) frames.push_back(frame);
    }
  } else if (maps_.empty()) {
    frames.push_back(clock_.pick(moment.whole, moment.rest, PastTheEnds::Hold, InBetween::Nearest).first);
  } else {
    // Every whole step between the bounds of each stage, from the last stage down to the footage.
    const FrameClock between = FrameClock::constant(clock_.rate(), clock_.length());
    std::vector<std::int32_t> asked;
    for (std::size_t k = maps_.size(); k-- > 0;) {
      const TimeMap& map = *maps_[k];
      const FrameClock& below = k == 0 ? clock_ : between;
      const auto collect = [&](std::int64_t whole, double rest) {
        const Reach reach = map.reach();
        const auto add = [&](double d) {
          for (const InBetween way : {InBetween::Nearest, map.inBetween()}) {
            const FramePick pick = below.pick(whole, rest + d, map.pastTheEnds(), way);
            frames.push_back(pick.first);
            frames.push_back(pick.second);
          }
        };
        for (double d = reach.least; d < reach.most; d += below.varying() ? 0.125 : 0.5) add(d);
        add(reach.most);
      };
      if (k + 1 == maps_.size())
        collect(moment.whole, moment.rest);
      else
        for (const std::int32_t n : asked) collect(n, 0);
      std::sort(frames.begin(), frames.end());
      frames.erase(std::unique(frames.begin(), frames.end()), frames.end());
      if (!frames.empty() && frames.front() == noFrame) frames.erase(frames.begin());
      if (k > 0) asked = std::exchange(frames, {});
    }
    // Between two stamps that lie closer than the steps above, frames would be passed over.
    if (clock_.varying() && !frames.empty() && maps_[0]->pastTheEnds() != PastTheEnds::Wrap) {
      const auto least = frames.front(), most = frames.back();
      frames.clear();
      for (auto f = least; f <= most; ++f) frames.push_back(f);
    }
  }
  std::sort(frames.begin(), frames.end());
  frames.erase(std::unique(frames.begin(), frames.end()), frames.end());
  return frames;
}

void ChainPlan::picksOfRow(const OutputMoment& moment, const PlaneSites& sites, int row, Lanes& out) const {
  const auto width = static_cast<std::size_t>(sites.width);
  const FrameClock between = FrameClock::constant(clock_.rate(), clock_.length());
  out.lanes.resize(1);
  out.lanes[0].weight.assign(width, wholeWeight);
  out.lanes[0].frame.resize(width);
  if (maps_.empty()) {
    const FramePick pick = clock_.pick(moment.whole, moment.rest, PastTheEnds::Hold, InBetween::Nearest);
    std::fill(out.lanes[0].frame.begin(), out.lanes[0].frame.end(), pick.first);
    return;
  }
  out.displacement.resize(width);
  for (std::size_t k = maps_.size(); k-- > 0;) {
    const TimeMap& map = *maps_[k];
    const FrameClock& below = k == 0 ? clock_ : between;
    const bool top = k + 1 == maps_.size();
    map.displacements(sites, row, out.displacement);
    const std::size_t lanes = out.lanes.size();
    for (std::size_t l = 0; l < lanes; ++l) {
      Lanes::Lane second;
      bool needed = false;
      if (map.inBetween() == InBetween::Blend) {
        second.frame.assign(width, noFrame);
        second.weight.assign(width, 0);
      }
      Lanes::Lane& lane = out.lanes[l];
      if (!below.varying() && map.inBetween() == InBetween::Nearest) {
        // The commonest way, without the clock's other cases.
        const std::int64_t count = below.frameCount();
        const PastTheEnds past = map.pastTheEnds();
        for (std::size_t x = 0; x < width; ++x) {
          if (!top && lane.frame[x] == noFrame) continue;
          const double d = snapped((top ? moment.rest : 0.0) + out.displacement[x]);
          lane.frame[x] = foldFrame((top ? moment.whole : lane.frame[x]) + quickFloor(d + 0.5), count, past);
        }
        continue;
      }
      for (std::size_t x = 0; x < width; ++x) {
        if (!top && lane.frame[x] == noFrame) continue;
        const FramePick pick =
            below.pick(top ? moment.whole : lane.frame[x], (top ? moment.rest : 0.0) + out.displacement[x],
                       map.pastTheEnds(), map.inBetween());
        lane.frame[x] = pick.first;
        if (pick.weight == 0) continue;
        const auto share =
            static_cast<std::uint32_t>((std::uint64_t(lane.weight[x]) * pick.weight + wholeWeight / 2) / wholeWeight);
        second.frame[x] = pick.second;
        second.weight[x] = share;
        lane.weight[x] -= share;
        needed = true;
      }
      if (needed) out.lanes.push_back(std::move(second));
    }
  }
}

template <class Visit>
void ChainPlan::visitSampleType(Visit visit) const {
  if (shape_.format.floating)
    visit(float{});
  else if (shape_.format.bits > 8)
    visit(std::uint16_t{});
  else
    visit(std::uint8_t{});
}

template <class Sample>
void ChainPlan::assembleRuns(std::int64_t n, const FrameTable& table, Picture& out, int plane, int from, int to) const {
  const bool madeAlpha = plane == source_.format.planes();
  const PlaneRuns& runs = runs_[static_cast<std::size_t>(madeAlpha ? 0 : plane)];
  const auto width = static_cast<std::size_t>(out.planeWidth(plane));
  const std::uint32_t black = blackSample(shape_, plane);
  const bool alphaPlane = shape_.format.isAlphaPlane(plane), alphaInPicture = shape_.format.alpha && !alphaPlane;
  const double opaque = shape_.format.floating ? 1.0 : opaqueSample(shape_.format);
  const PastTheEnds past = maps_[0]->pastTheEnds();
  // The frames at all distances, looked up once.
  const std::int32_t least = offsets_.front();
  std::vector<const Picture*> frames(static_cast<std::size_t>(offsets_.back() - least + 1));
  for (const std::int32_t offset : offsets_)
    frames[static_cast<std::size_t>(offset - least)] = table.find(foldFrame(n + offset, clock_.frameCount(), past));
  for (int y = from; y < to; ++y) {
    Sample* const row = reinterpret_cast<Sample*>(out.writableRow(plane, y));
    const std::uint32_t* const weights =
        runs.weights.empty() ? nullptr : runs.weights.data() + static_cast<std::size_t>(y) * width;
    for (auto r = runs.rowStart[static_cast<std::size_t>(y)]; r < runs.rowStart[static_cast<std::size_t>(y) + 1]; ++r) {
      const Run run = runs.runs[r];
      const Picture* const first = frames[static_cast<std::size_t>(run.offset - least)];
      if (!weights) {
        if (!first)
          fillSamples(reinterpret_cast<std::uint8_t*>(row + run.x), run.length, shape_.format, black);
        else if (madeAlpha)
          fillSamples(reinterpret_cast<std::uint8_t*>(row + run.x), run.length, shape_.format,
                      opaqueSample(shape_.format));
        else
          std::memcpy(row + run.x, samples<Sample>(*first, plane, y) + run.x,
                      static_cast<std::size_t>(run.length) * sizeof(Sample));
        continue;
      }
      const Picture* const second = frames[static_cast<std::size_t>(run.offset - least + 1)];
      if (first && second && !madeAlpha && !shape_.format.floating) {
        const Sample* const a = samples<Sample>(*first, plane, y);
        const Sample* const b = samples<Sample>(*second, plane, y);
        for (std::int32_t x = run.x; x < run.x + run.length; ++x)
          row[x] = static_cast<Sample>((static_cast<std::uint32_t>(a[x]) * (wholeWeight - weights[x]) +
                                        static_cast<std::uint32_t>(b[x]) * weights[x] + wholeWeight / 2) /
                                       wholeWeight);
        continue;
      }
      for (std::int32_t x = run.x; x < run.x + run.length; ++x) {
        double sum = 0;
        std::uint32_t present = 0;
        const auto add = [&](const Picture* frame, std::uint32_t weight) {
          if (!frame || weight == 0) return;
          sum += (madeAlpha ? opaque : static_cast<double>(samples<Sample>(*frame, plane, y)[x])) * weight;
          present += weight;
        };
        add(first, wholeWeight - weights[x]);
        add(second, weights[x]);
        row[x] = mixed<Sample>(sum, present, alphaInPicture, black);
      }
    }
  }
}

template <class Sample>
void ChainPlan::assembleLanes(const OutputMoment& moment, const FrameTable& table, Picture& out, int plane, int from,
                              int to, Accumulators* sums) const {
  const bool madeAlpha = plane == source_.format.planes();
  const PlaneSites sites = planeSites(source_, madeAlpha ? 0 : plane, scale_);
  const auto width = static_cast<std::size_t>(sites.width);
  const std::uint32_t black = blackSample(shape_, plane);
  const bool alphaInPicture = shape_.format.alpha && !shape_.format.isAlphaPlane(plane);
  const double opaque = shape_.format.floating ? 1.0 : opaqueSample(shape_.format);
  const std::vector<std::int32_t> named = framesFor(moment);
  if (named.empty() && !mayBeClear_) return;
  // The rows of all frames, by their distance from the first: looked up once a row, not once a sample.
  const std::int32_t least = named.empty() ? 0 : named.front();
  std::vector<const Picture*> frames(named.empty() ? 1 : static_cast<std::size_t>(named.back() - least + 1));
  for (const std::int32_t frame : named) frames[static_cast<std::size_t>(frame - least)] = table.find(frame);
  std::vector<const Sample*> rows(frames.size());
  Lanes picks;
  for (int y = from; y < to; ++y) {
    picksOfRow(moment, sites, y, picks);
    for (std::size_t f = 0; f < rows.size() && !madeAlpha; ++f)
      rows[f] = frames[f] ? samples<Sample>(*frames[f], plane, y) : nullptr;
    Sample* const row = reinterpret_cast<Sample*>(out.writableRow(plane, y));
    double* const rowSums =
        sums ? sums->planes[static_cast<std::size_t>(plane)].data() + static_cast<std::size_t>(y) * width : nullptr;
    for (std::size_t x = 0; x < width; ++x) {
      double sum = 0;
      std::uint32_t present = 0;
      for (const auto& lane : picks.lanes) {
        const std::uint32_t weight = lane.weight[x];
        if (weight == 0 || lane.frame[x] == noFrame) continue;
        present += weight;
        const auto f = static_cast<std::size_t>(lane.frame[x] - least);
        if (madeAlpha)
          sum += frames[f] ? opaque * weight : 0;
        else if (rows[f])
          sum += static_cast<double>(rows[f][x]) * weight;
      }
      if (rowSums) sum = rowSums[x] += sum;
      row[x] = mixed<Sample>(sum, present, alphaInPicture, black);
    }
  }
}

void ChainPlan::beginSums(Accumulators& sums) const {
  sums.planes.clear();
  for (int p = 0; p < shape_.format.planes(); ++p)
    sums.planes.emplace_back(static_cast<std::size_t>(shape_.format.planeWidth(p, shape_.size.width)) *
                             static_cast<std::size_t>(shape_.format.planeHeight(p, shape_.size.height)));
}

void ChainPlan::assemble(const OutputMoment& moment, const FrameTable& table, Picture& out, int plane, int from, int to,
                         Accumulators* sums) const {
  visitSampleType([&](auto sample) {
    using Sample = decltype(sample);
    if (!runs_.empty() && moment.rest == 0 && !sums)
      assembleRuns<Sample>(moment.whole, table, out, plane, from, to);
    else
      assembleLanes<Sample>(moment, table, out, plane, from, to, sums);
  });
}

}  // namespace molten
