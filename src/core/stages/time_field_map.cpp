#include "core/stages/time_field_map.h"

#include <algorithm>
#include <cmath>
#include <deque>
#include <future>
#include <limits>
#include <mutex>

#include "core/field/field_shaping.h"
#include "core/field/noise_field.h"
#include "core/parallel.h"
#include "core/stages/moving_values.h"
#include "core/wide.h"

namespace molten {
namespace {

const TimeFieldParameters& of() {
  return timeFieldParameters();
}

/// d = least + f·reach, in pictures.
MOLTEN_WIDE void toPictures(const float* f, double least, double reach, double rate, double* out, int count) {
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
  shaping.inLow = of().levelsFrom(values), shaping.inHigh = of().levelsTo(values);
  shaping.outLow = of().outFrom(values), shaping.outHigh = of().outTo(values);
  shaping.setResponse(of().response(values));
  shaping.repeat = of().repeat(values);
  shaping.mirror = of().mirror(values);
  shaping.panes = static_cast<int>(of().panes(values));
  shaping.flip = of().flip(values);
  const auto kind = of().shape.shape(values);
  shaping.clamp = kind == ShapeParameters::Shape::Picture || kind == ShapeParameters::Shape::Footage;
  return shaping;
}

/// d = least + f·reach in seconds, at a moment.
struct Span {
  double least, reach;
};
Span spanAt(const StageValues& values, double seconds) {
  const double back = of().back(values), reach = back + of().ahead(values);
  const double hold = pinHold(values, seconds), way = of().pinnedMoment(values) - seconds;
  if (hold == 0) return {-back, reach};
  return {hold * way - (1 - hold) * back, (1 - hold) * reach - hold * way};
}

/// The field of a moment: what all shaping makes of its shapes, and the dither.
class FieldAtMoment : public Displacement {
 public:
  FieldAtMoment(StageValues values, const Moment& moment, const VideoDescription& video, const Surroundings& around)
      : values_(std::move(values)),
        shaping_(shapingOf(values_)),
        rate_(video.rate.toDouble()),
        span_(spanAt(values_, moment.pictures() / rate_)),
        dither_(of().dither(values_)),
        seed_(static_cast<std::uint32_t>(of().ditherSeed(values_)) * 0x9e3779b9U),
        combining_(of().combine(values_)) {
    first_ = of().shape.make(values_, moment, video, around);
    if (combining_ != SecondShape::Alone) second_ = of().second.make(values_, moment, video, around);
    if (of().fresh(values_)) seed_ += static_cast<std::uint32_t>(moment.whole) * 0x85ebca6bU;
  }

  std::size_t bytes() const { return first_->bytes() + (second_ ? second_->bytes() : 0); }

  void row(const PlaneSites& sites, int row, std::span<double> out) const override {
    makeRow(sites, row, out, [&](std::span<const float> f) {
      toPictures(f.data(), span_.least, span_.reach, rate_, out.data(), static_cast<int>(out.size()));
    });
  }
  /// Each pixel at a moment of its own, as far as time itself is followed; NaN is left out.
  void rowAt(std::span<const double> positions, const PlaneSites& sites, int row, std::span<double> out) const {
    makeRow(sites, row, out, [&](std::span<const float> f) {
      double last = std::numeric_limits<double>::quiet_NaN();
      Span span{};
      for (std::size_t i = 0; i < f.size(); ++i) {
        if (positions[i] != last) last = positions[i], span = spanAt(values_, last / rate_);
        out[i] = (span.least + static_cast<double>(f[i]) * span.reach) * rate_;
      }
    });
  }

 private:
  template <class ToPictures>
  void makeRow(const PlaneSites& sites, int row, std::span<double> out, ToPictures toPictures) const {
    thread_local std::vector<float> f, g;
    f.resize(out.size());
    first_->row(sites, row, f);
    if (second_) {
      g.resize(out.size());
      second_->row(sites, row, g);
      for (float& value : g) value = std::clamp(value, 0.0f, 1.0f);
      combine(combining_, f, g);
    }
    shaping_.apply(f);
    toPictures(std::span<const float>(f));
    if (dither_ > 0) addDither(sites, row, dither_, seed_, out);
    if (combining_ == SecondShape::OnlyWhere)
      for (std::size_t i = 0; i < out.size(); ++i) out[i] *= static_cast<double>(g[i]);
  }

  StageValues values_;
  std::unique_ptr<FieldShape> first_, second_;
  FieldShaping shaping_;
  double rate_;
  Span span_;
  double dither_;
  std::uint32_t seed_;
  SecondShape combining_;
};

/// Displacements of late, by their moment. Each is made once and outside of any lock; whoever wants one that is being
/// made waits for that one alone.
class KeptFields {
 public:
  using Field = std::shared_ptr<const FieldAtMoment>;
  /// `mostBytes`: that all may take together.
  template <class Make>
  Field find(const Moment& moment, std::size_t mostBytes, Make make) {
    std::promise<Field> promise;
    {
      std::unique_lock lock(mutex_);
      for (const auto& [known, made] : made_)
        if (known == moment) {
          const std::shared_future<Field> field = made;
          lock.unlock();
          return field.get();
        }
      made_.emplace_front(moment, promise.get_future().share());
      const std::size_t fit = bytes_ == 0 ? most : std::clamp(mostBytes / bytes_, fewest, most);
      while (made_.size() > fit) made_.pop_back();
    }
    Field field;
    isolated([&] { field = make(); });
    promise.set_value(field);
    const std::scoped_lock lock(mutex_);
    bytes_ = field->bytes();
    return field;
  }

 private:
  static constexpr std::size_t fewest = 4, most = 64;
  std::mutex mutex_;
  std::size_t bytes_ = 0;  ///< of the last one made; the others are mostly like it
  std::deque<std::pair<Moment, std::shared_future<Field>>> made_;
};

class TimeFieldMap : public DisplacingMap {
 public:
  TimeFieldMap(const Stage& stage, const VideoDescription& in, const Surroundings& around)
      : DisplacingMap(in), stage_(stage), moving_(stage, in, around), around_(around), past_(of().pastTheEnds(stage.values)) {
    const StageValues& values = stage_.values;
    const bool combined = of().combine(values) != SecondShape::Alone;
    steady_ = !stage_.varies() && !of().shape.moves(values) && !(combined && of().second.moves(values)) &&
              of().startHolds(values) == StartHolds::MovesWithNow && !(of().dither(values) > 0 && of().fresh(values));
    field_ = allOfField();
    bounds_ = allBounds();
  }

  bool steady() const override { return steady_; }
  std::shared_ptr<const Displacement> displacement(const Moment& moment) const override { return fieldAt(moment); }
  void displaceEach(std::span<const double> positions, const PlaneSites& sites, int row,
                    std::span<double> out) const override {
    overPictures(
        positions, sites,
        [&](std::int64_t picture, const PlaneSites& stretch, std::span<const double> at, std::span<double> part) {
          fieldAt({picture})->rowAt(at, stretch, row, part);
        },
        out);
  }
  Reach reach() const override { return bounds_; }
  Reach reachAt(const Moment& moment) const override {
    if (steady_) return bounds_;
    const StageValues values = valuesAt(moment);
    return boundsOf(values, {spanAt(values, moment.seconds(outgoing().rate))});
  }
  PastTheEnds pastTheEnds() const override { return past_; }

 private:
  std::shared_ptr<const FieldAtMoment> fieldAt(const Moment& at) const {
    const Moment moment = steady_ ? Moment{} : at;
    return kept_.find(
        moment, around_.material ? around_.material->mostKept() : 0, [&] { return std::make_shared<const FieldAtMoment>(valuesAt(moment), moment, outgoing(), around_); });
  }
  StageValues valuesAt(const Moment& moment) const {
    return moving_.at(moment);
  }

  /// What f can be, after all shaping. Where values move it is not followed more closely than that.
  std::pair<float, float> allOfField() const {
    if (stage_.varies()) return {0.0f, 1.0f};
    auto [low, high] = of().shape.bounds(stage_.values, outgoing());
    // Two combined are less, or more, than one.
    if (of().combine(stage_.values) != SecondShape::Alone) low = 0, high = 1;
    return shapingOf(stage_.values).range(low, high);
  }
  Reach boundsOf(const StageValues& values, const std::vector<Span>& spans) const {
    return boundsOf(values, spans, field_.first, field_.second);
  }
  Reach boundsOf(const StageValues& values, const std::vector<Span>& spans, float low, float high) const {
    Reach bounds{1e300, -1e300};
    const double rate = outgoing().rate.toDouble(), dither = of().dither(values);
    for (const Span& span : spans)
      for (const float f : {low, high}) {
        const double frames = (span.least + static_cast<double>(f) * span.reach) * rate;
        bounds.least = std::min(bounds.least, frames - dither);
        bounds.most = std::max(bounds.most, frames + dither);
      }
    if (of().combine(values) == SecondShape::OnlyWhere)
      bounds.least = std::min(bounds.least, 0.0), bounds.most = std::max(bounds.most, 0.0);
    return bounds;
  }
  /// A pin reaches furthest at the ends of the clip.
  Reach allBounds() const {
    const StageValues widest = stage_.mostValues();
    return boundsOf(widest, allSpans(widest));
  }
  std::vector<Span> allSpans(const StageValues& values) const {
    std::vector<Span> spans;
    const double end = outgoing().seconds().toDouble();
    if (of().startHolds(values) == StartHolds::Pinned) {
      spans = {spanAt(values, 0), spanAt(values, end)};
      const double over = of().letGoOver(values), takeHold = of().takeHold(values), letGo = of().letGo(values);
      // While it takes hold, or lets go, what it holds is bounded by what it would hold by itself.
      for (const double change : {takeHold, letGo}) {
        if (change <= 0) continue;
        for (const double at : {change, change + over}) {
          spans.push_back(spanAt(values, std::min(at, end)));
          const double back = of().back(values), reach = back + of().ahead(values);
          const double way = of().pinnedMoment(values) - std::min(at, end);
          spans.push_back({-back, reach});
          spans.push_back({std::min(way, 0.0) - back, 0});
          spans.push_back({std::max(way, 0.0) + reach, 0});
        }
      }
    } else {
      spans = {spanAt(values, 0)};
    }
    return spans;
  }

  Stage stage_;
  MovingValues moving_;
  Surroundings around_;
  PastTheEnds past_;
  bool steady_ = true;
  std::pair<float, float> field_;  ///< bounds of f
  Reach bounds_;
  mutable KeptFields kept_;
};

}  // namespace

double pinHold(const StageValues& values, double seconds) {
  if (of().startHolds(values) != StartHolds::Pinned) return 0;
  const double over = of().letGoOver(values), takeHold = of().takeHold(values), letGo = of().letGo(values);
  // 0 before a moment, 1 when `over` has passed since, easily between.
  const auto after = [&](double moment) {
    if (seconds <= moment) return 0.0;
    if (seconds >= moment + over) return 1.0;
    const double s = (seconds - moment) / over;
    return s * s * (3 - 2 * s);
  };
  return (takeHold > 0 ? after(takeHold) : 1.0) * (letGo > 0 ? 1 - after(letGo) : 1.0);
}

std::unique_ptr<TimeMap> timeFieldMap(const Stage& stage, const VideoDescription& incoming,
                                      const Surroundings& around) {
  return std::make_unique<TimeFieldMap>(stage, incoming, around);
}

}  // namespace molten
