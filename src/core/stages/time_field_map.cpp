#include "core/stages/time_field_map.h"

#include <algorithm>
#include <cmath>
#include <deque>
#include <mutex>

#include "core/field/field_shaping.h"
#include "core/field/noise_field.h"
#include "core/stages/common_parameters.h"
#include "core/wide.h"

namespace molten {
namespace {

using Of = TimeFieldValues;

ShapeParameters firstShape() {
  return ShapeParameters(Of::shape);
}
ShapeParameters secondShape() {
  return ShapeParameters(Of::SecondShape);
}

double number(const StageValues& values, std::size_t parameter) {
  return std::get<double>(values[parameter]);
}
bool isOn(const StageValues& values, std::size_t parameter) {
  return std::get<bool>(values[parameter]);
}
std::size_t choice(const StageValues& values, std::size_t parameter) {
  return std::get<std::size_t>(values[parameter]);
}

/// d = least + f·reach, in frames.
MOLTEN_WIDE void toFrames(const float* f, double least, double reach, double rate, double* out, int count) {
  for (int i = 0; i < count; ++i) out[i] = (least + static_cast<double>(f[i]) * reach) * rate;
}

/// Even in 0…1, from 16 bits each of a hash: their difference is triangular.
void addDither(const PlaneSites& sites, int row, double frames, std::uint32_t seed, std::span<double> out) {
  const auto y = static_cast<std::uint32_t>(std::floor(sites.y0 + row * sites.stepY));
  const std::uint32_t line = scrambled(seed ^ scrambled(y + 0x51ed270bU));
  for (std::size_t i = 0; i < out.size(); ++i) {
    const auto x = static_cast<std::uint32_t>(std::floor(sites.x0 + static_cast<double>(i) * sites.stepX));
    const std::uint32_t hash = scrambled(line + x);
    const int difference = static_cast<int>(hash >> 16) - static_cast<int>(hash & 0xffff);
    out[i] += frames * (difference / 65536.0);
  }
}

FieldShaping shapingOf(const StageValues& values) {
  FieldShaping shaping;
  shaping.inLow = number(values, Of::LevelsFrom), shaping.inHigh = number(values, Of::LevelsTo);
  shaping.outLow = number(values, Of::OutFrom), shaping.outHigh = number(values, Of::OutTo);
  shaping.setResponse(std::get<CurvePoints>(values[Of::Response]));
  shaping.repeat = number(values, Of::Repeat);
  shaping.mirror = isOn(values, Of::Mirror);
  shaping.steps = static_cast<int>(number(values, Of::Steps));
  shaping.flip = isOn(values, Of::Flip);
  const auto kind = firstShape().shape(values);
  shaping.clamp = kind == ShapeParameters::Picture || kind == ShapeParameters::Footage;
  return shaping;
}

/// d = least + f·reach in seconds, at a moment.
struct Span {
  double least, reach;
};
Span spanAt(const StageValues& values, double seconds) {
  const double back = number(values, Of::Back), reach = back + number(values, Of::Ahead);
  const double hold = pinHold(values, seconds), way = number(values, Of::PinnedMoment) - seconds;
  if (hold == 0) return {-back, reach};
  return {hold * way - (1 - hold) * back, (1 - hold) * reach - hold * way};
}

class FieldAtMoment : public Displacement {
 public:
  FieldAtMoment(const StageValues& values, const Moment& moment, const VideoDescription& video,
                const Surroundings& around)
      : shaping_(shapingOf(values)),
        span_(spanAt(values, moment.seconds(video.rate).toDouble())),
        rate_(video.rate.toDouble()),
        dither_(number(values, Of::Dither)),
        seed_(static_cast<std::uint32_t>(number(values, Of::DitherSeed)) * 0x9e3779b9U) {
    first_ = firstShape().make(values, moment, video, around);
    if (choice(values, Of::Combine) != Of::Alone) second_ = secondShape().make(values, moment, video, around);
    masked_ = choice(values, Of::Combine) == Of::MaskedBy;
    if (!masked_) combining_ = static_cast<Combining>(choice(values, Of::Combine));
    if (isOn(values, Of::Fresh)) seed_ += static_cast<std::uint32_t>(moment.whole) * 0x85ebca6bU;
  }

  void row(const PlaneSites& sites, int row, std::span<double> out) const override {
    thread_local std::vector<float> f, g;
    f.resize(out.size());
    first_->row(sites, row, f);
    if (second_) {
      g.resize(out.size());
      second_->row(sites, row, g);
      for (float& value : g) value = std::clamp(value, 0.0f, 1.0f);
      if (!masked_) combine(combining_, f, g);
    }
    shaping_.apply(f);
    toFrames(f.data(), span_.least, span_.reach, rate_, out.data(), static_cast<int>(out.size()));
    if (dither_ > 0) addDither(sites, row, dither_, seed_, out);
    if (masked_)
      for (std::size_t i = 0; i < out.size(); ++i) out[i] *= static_cast<double>(g[i]);
  }

 private:
  std::unique_ptr<FieldShape> first_, second_;
  FieldShaping shaping_;
  Span span_;
  double rate_, dither_;
  std::uint32_t seed_;
  Combining combining_ = Combining::Alone;
  bool masked_ = false;
};

class TimeFieldMap : public TimeMap {
 public:
  TimeFieldMap(const Stage& stage, const VideoDescription& in, const Surroundings& around)
      : TimeMap(in),
        stage_(stage),
        around_(around),
        past_(pastTheEndsOf(stage.values[Of::PastEnds])),
        between_(inBetweenOf(stage.values[Of::Between])) {
    const StageValues& values = stage_.values;
    const bool combined = choice(values, Of::Combine) != Of::Alone;
    steady_ = stage_.keys.empty() && !firstShape().moves(values) && !(combined && secondShape().moves(values)) &&
              choice(values, Of::Anchor) == Of::MovesWithNow &&
              !(number(values, Of::Dither) > 0 && isOn(values, Of::Fresh));
    field_ = allOfField();
    bounds_ = allBounds();
  }

  bool steady() const override { return steady_; }
  std::shared_ptr<const Displacement> displacement(const Moment& at) const override {
    const Moment moment = steady_ ? Moment{} : at;
    const std::scoped_lock lock(mutex_);
    for (const auto& [known, made] : made_)
      if (known == moment) return made;
    auto made = std::make_shared<const FieldAtMoment>(valuesAt(moment), moment, outgoing(), around_);
    made_.emplace_front(moment, made);
    if (made_.size() > kept) made_.pop_back();
    return made;
  }
  Reach reach() const override { return bounds_; }
  Reach reachAt(const Moment& moment) const override {
    if (steady_) return bounds_;
    const StageValues values = valuesAt(moment);
    return boundsOf(values, {spanAt(values, moment.seconds(outgoing().rate).toDouble())});
  }
  PastTheEnds pastTheEnds() const override { return past_; }
  InBetween inBetween() const override { return between_; }

 private:
  static constexpr std::size_t kept = 4;

  StageValues valuesAt(const Moment& moment) const {
    return stage_.keys.empty() ? stage_.values : stage_.valuesAt(moment.seconds(outgoing().rate).toDouble());
  }

  /// What f can be, after all shaping. With keys it is not followed more closely than that.
  std::pair<float, float> allOfField() const {
    if (!stage_.keys.empty()) return {0.0f, 1.0f};
    auto [low, high] = firstShape().bounds(stage_.values, outgoing());
    // Two combined are less, or more, than one.
    if (choice(stage_.values, Of::Combine) != Of::Alone) low = 0, high = 1;
    return shapingOf(stage_.values).range(low, high);
  }
  Reach boundsOf(const StageValues& values, const std::vector<Span>& spans) const {
    return boundsOf(values, spans, field_.first, field_.second);
  }
  Reach boundsOf(const StageValues& values, const std::vector<Span>& spans, float low, float high) const {
    Reach bounds{1e300, -1e300};
    const double rate = outgoing().rate.toDouble(), dither = number(values, Of::Dither);
    for (const Span& span : spans)
      for (const float f : {low, high}) {
        const double frames = (span.least + static_cast<double>(f) * span.reach) * rate;
        bounds.least = std::min(bounds.least, frames - dither);
        bounds.most = std::max(bounds.most, frames + dither);
      }
    if (choice(values, Of::Combine) == Of::MaskedBy)
      bounds.least = std::min(bounds.least, 0.0), bounds.most = std::max(bounds.most, 0.0);
    return bounds;
  }
  /// Keys keep within the greatest and least of themselves; a pin reaches furthest at the ends of the clip.
  Reach allBounds() const {
    if (stage_.keys.empty()) return boundsOf(stage_.values, allSpans(stage_.values));
    StageValues widest = stage_.values;
    const auto most = [&](std::size_t parameter) {
      const auto at = stage_.keys.find(parameter);
      if (at == stage_.keys.end()) return;
      double& value = std::get<double>(widest[parameter]);
      for (const Key& key : at->second) value = std::max(value, key.value[0]);
    };
    for (const auto parameter : {Of::Back, Of::Ahead, Of::Dither}) most(parameter);
    return boundsOf(widest, allSpans(widest));
  }
  std::vector<Span> allSpans(const StageValues& values) const {
    std::vector<Span> spans;
    const double end = outgoing().seconds().toDouble();
    if (choice(values, Of::Anchor) == Of::Pinned) {
      spans = {spanAt(values, 0), spanAt(values, end)};
      if (const double letGo = number(values, Of::LetGo); letGo > 0) {
        // While it lets go, what it holds back is bounded by what it held.
        for (const double at : {letGo, letGo + number(values, Of::EaseOut)})
          spans.push_back(spanAt(values, std::min(at, end)));
        const double back = number(values, Of::Back), reach = back + number(values, Of::Ahead);
        const double way = number(values, Of::PinnedMoment) - std::min(letGo + number(values, Of::EaseOut), end);
        spans.push_back({-back, reach});
        spans.push_back({std::min(way, 0.0) - back, 0});
        spans.push_back({std::max(way, 0.0) + reach, 0});
      }
    } else {
      spans = {spanAt(values, 0)};
    }
    return spans;
  }

  Stage stage_;
  Surroundings around_;
  PastTheEnds past_;
  InBetween between_;
  bool steady_ = true;
  std::pair<float, float> field_;  ///< bounds of f
  Reach bounds_;
  mutable std::mutex mutex_;
  mutable std::deque<std::pair<Moment, std::shared_ptr<const Displacement>>> made_;  ///< of late
};

}  // namespace

double pinHold(const StageValues& values, double seconds) {
  if (choice(values, Of::Anchor) != Of::Pinned) return 0;
  const double letGo = number(values, Of::LetGo), ease = number(values, Of::EaseOut);
  if (letGo <= 0 || seconds <= letGo) return 1;
  if (seconds >= letGo + ease) return 0;
  const double s = (seconds - letGo) / ease;
  return 1 - s * s * (3 - 2 * s);
}

std::unique_ptr<TimeMap> timeFieldMap(const Stage& stage, const VideoDescription& incoming,
                                      const Surroundings& around) {
  return std::make_unique<TimeFieldMap>(stage, incoming, around);
}

}  // namespace molten
