#include "core/stages/shutter.h"

#include <algorithm>
#include <cmath>
#include <map>
#include <mutex>

#include "core/number_text.h"
#include "core/stages/common_parameters.h"
#include "core/stages/material.h"
#include "core/stages/moving_values.h"
#include "core/stages/weighted_mixture.h"

namespace molten {
namespace {

enum class Falls { Before, Around, After };
enum class BuiltFrom { Moments, Motion };

struct Parameters {
  ParameterList list;
  ParameterHandle<double> open =
      list.number({"open", "Open", "Shutter", "How long it is open: 100 % is as long as a picture lasts.", true},
                  {Unit::Percent, 0, 10, 0.5, 0.05, 1, 1, Tense::None});
  ChoiceHandle<Falls> falls = list.choice<Falls>(
      {"falls", "Falls", "Shutter", "Where the time that it is open lies beside the picture's moment."},
      {{Falls::Before, {"before", "Before", "It ends at the moment: the blur trails behind."}},
       {Falls::Around, {"around", "Around", "The moment lies in its middle."}},
       {Falls::After, {"after", "After", "It begins at the moment, as in a camera."}}},
      Falls::After);
  ParameterHandle<double> offset =
      list.number({"offset", "Offset", "Shutter", "How much later it opens, in parts of a picture's time.", true},
                  {Unit::Percent, -20, 20, 0, 0.05, 1, 1, Tense::None, false, "none"});
  ParameterHandle<double> fps =
      list.number({"fps", "fps", "Shutter", "How many times a second it opens; video: once a picture."},
                  {Unit::PerSecond, 0, 1000, 0, 1, 30, 2, Tense::None, false, "video"});
  ChoiceHandle<BuiltFrom> builtFrom = list.choice<BuiltFrom>(
      {"built-from", "Built from", "Blur", "Of what the average is made."},
      {{BuiltFrom::Moments, {"moments", "Moments", "Pictures as they enter; a Pace gives those that lie between."}},
       {BuiltFrom::Motion, {"motion", "Motion", "Pictures made along the motion between two."}}},
      BuiltFrom::Moments);
  ParameterHandle<double> moments =
      list.number({"moments", "Moments", "Blur", "How many are averaged; automatic: as many as the motion asks for."},
                  {Unit::None, 0, 128, 0, 1, 32, 0, Tense::None, true, "automatic"});
  ChoiceHandle<Light> reckoned = reckonedIn(list, "Blur", Light::Linear);
};
const Parameters& of() {
  static const Parameters parameters;
  return parameters;
}

/// So that a blur shows no steps: one moment for each two pixels that something moves by while the shutter is open.
constexpr double pixelsAMoment = 2;
constexpr std::int64_t fewestMoments = 2, mostMoments = 64, usualMoments = 16;

/// How long a picture lasts to the shutter, in pictures of what enters.
Rational turnOf(const StageValues& values, const VideoDescription& in) {
  const double own = of().fps(values);
  return own > 0 ? in.rate / Rational::near(own) : Rational(1);
}

/// When it opens beside the picture's moment, in parts of a picture's time.
Rational opensAt(const StageValues& values) {
  const Rational open = Rational::near(of().open(values)), offset = Rational::near(of().offset(values));
  switch (of().falls(values)) {
    case Falls::Before:
      return offset - open;
    case Falls::Around:
      return offset - open / 2;
    case Falls::After:
      break;
  }
  return offset;
}

class ShutterMap : public MovingMap, public Mixing {
 public:
  ShutterMap(const Stage& stage, const VideoDescription& in, const Surroundings& around)
      : MovingMap([&] {
          VideoDescription out = in;
          out.endless = in.endless && !stage.varies();
          return out;
        }()),
        stage_(stage),
        moving_(stage, in, around),
        in_(in),
        around_(around) {}

  PastTheEnds pastTheEnds() const override { return PastTheEnds::StandStill; }
  Reach reach() const override {
    const StageValues values = stage_.widestValues();
    const double turn = turnOf(values, in_).toDouble(), opens = opensAt(values).toDouble();
    return {std::min(0.0, opens * turn), std::max(0.0, (opens + of().open(values)) * turn)};
  }

  const Mixing* mixing() const override { return this; }
  /// Moments between pictures go on to the stages before as they are, so that a Pace reads what lies between.
  std::vector<MixWay> ways() const override {
    if (of().builtFrom(stage_.values) == BuiltFrom::Motion) return {{{}, InBetween::Flow}};
    return {MixWay{}};
  }
  std::vector<MixSource> sources(const Moment& moment) const override { return mixAt(moment).sources; }
  /// Only what it is open for at two of them.
  bool sharesSources() const override {
    const StageValues values = stage_.widestValues();
    return of().open(values) * turnOf(values, in_).toDouble() > 1;
  }
  std::unique_ptr<Mixture> mixture(const Moment& moment, const MixShapes& shapes) const override {
    return weightedMixture(mixAt(moment), shapes, sums_);
  }

 private:
  /// By the fastest motion of what enters, where it can be looked at.
  std::int64_t countAt(const Moment& moment, const StageValues& values) const {
    if (of().moments(values) > 0) return static_cast<std::int64_t>(of().moments(values));
    if (!around_.material || !around_.upstream) return usualMoments;
    {
      const std::scoped_lock lock(mutex_);
      if (const auto known = counts_.find(moment); known != counts_.end()) return known->second;
    }
    std::int64_t count = usualMoments;
    if (const auto motion = around_.material->ofVideo(*around_.upstream, moment, Measured::Motion)) {
      // A few places apart, that the search may have got wrong.
      std::vector<float> speeds = motion->samples;
      const auto fast = speeds.begin() + static_cast<std::ptrdiff_t>(speeds.size() * 98 / 100);
      std::nth_element(speeds.begin(), fast, speeds.end());
      const double open = of().open(values) * turnOf(values, in_).toDouble() / in_.rate.toDouble();
      const double pixels = static_cast<double>(*fast) * open * in_.size.height;
      count = static_cast<std::int64_t>(std::ceil(
          std::clamp(pixels / pixelsAMoment, static_cast<double>(fewestMoments), static_cast<double>(mostMoments))));
    }
    const std::scoped_lock lock(mutex_);
    if (counts_.size() > 4096) counts_.clear();
    return counts_.emplace(moment, count).first->second;
  }
  WeightedSources mixAt(const Moment& moment) const {
    const StageValues values = moving_.at(moment);
    const Rational turn = turnOf(values, in_), opens = opensAt(values), open = Rational::near(of().open(values));
    const std::int64_t count = countAt(moment, values);
    WeightedSources mix;
    for (std::int64_t i = 0; i < count; ++i) {
      const Rational off = (opens + open * Rational(2 * i + 1, 2 * count)) * turn;
      Moment read = Moment::ofPictures(moment.exact() + off, moment.off);
      if (!in_.endless && read.pictures() < 0) read = {};
      if (!in_.endless && read.pictures() >= static_cast<double>(in_.length)) read = {in_.length - 1};
      mix.sources.push_back({0, read});
      mix.weights.push_back(1);
    }
    mix.recipe = {BlendMode::Mean, of().reckoned(values)};
    return mix;
  }

  Stage stage_;
  MovingValues moving_;
  VideoDescription in_;
  Surroundings around_;
  mutable RunningSums sums_;
  mutable std::mutex mutex_;
  mutable std::map<Moment, std::int64_t> counts_;  ///< by the motion, as far as it was looked at
};

class Shutter : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "shutter",
        "Shutter",
        "The average over the time that a shutter is open: what moves is blurred as if filmed.",
        of().list.described(),
        {},
        {{"Shutter", false, 1}, {"Blur", false, 2}}};
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings& around) const override {
    return std::make_unique<ShutterMap>(stage, incoming, around);
  }

  std::string summary(const StageValues& values, const VideoDescription& in) const override {
    const double open = of().open(values) * turnOf(values, in).toDouble() / in.rate.toDouble();
    return "open " + secondsText(open) + (of().builtFrom(values) == BuiltFrom::Motion ? " · from motion" : "");
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in, Rational) const override {
    const double open = of().open(values) * turnOf(values, in).toDouble();
    std::vector<StageNote> found;
    found.push_back({"Shutter", "Open for " + secondsText(open / in.rate.toDouble(), 4) + ": " + fixedText(open, 2) + " pictures of what enters."});
    if (of().builtFrom(values) == BuiltFrom::Moments && open < 1.5 && in.between == InBetween::Whole)
      found.push_back({"Blur",
                       "Footage has no pictures between two frames: this shows where a Pace runs fast, with fewer fps, "
                       "or built from motion."});
    return found;
  }
};

}  // namespace

const StageKind& shutter() {
  static const Shutter kind;
  return kind;
}

}  // namespace molten
