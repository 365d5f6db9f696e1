#include "core/stages/shutter.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

#include "core/stages/common_parameters.h"
#include "core/stages/through.h"
#include "core/stages/weighted_mixture.h"

namespace molten {
namespace {

enum Parameter : std::size_t { Angle, Phase, ShutterRate, Made, Samples, LightIn };
enum Makings : std::size_t { ByMoments, AlongMotion };

/// Pictures of what enters that a full turn of the shutter lasts.
double turnOf(const StageValues& values, const VideoDescription& in) {
  const double own = numberIn(values, ShutterRate);
  return own > 0 ? in.rate.toDouble() / own : 1;
}

class ShutterMap : public TimeMap, public Mixing {
 public:
  ShutterMap(const Stage& stage, const VideoDescription& in)
      : TimeMap([&] {
          VideoDescription out = in;
          out.endless = in.endless && stage.keys.empty();
          return out;
        }()),
        stage_(stage),
        in_(in) {}

  bool wholePicture() const override { return true; }
  PastTheEnds pastTheEnds() const override { return PastTheEnds::Hold; }
  Reach reach() const override {
    const StageValues values = stage_.widestValues();
    const double turn = turnOf(values, in_) / 360, opens = numberIn(values, Phase) * turn;
    return {std::min(0.0, opens), std::max(0.0, opens + numberIn(values, Angle) * turn)};
  }

  const Mixing* mixing() const override { return this; }
  /// Moments between pictures go on to the stages below as they are, so that a Pace reads what lies between.
  std::vector<Chain> ways() const override {
    if (choiceIn(stage_.values, Made) == AlongMotion) return {{through(InBetween::Flow, PastTheEnds::Hold)}};
    return {Chain{}};
  }
  std::vector<MixSource> sources(const Moment& moment) const override { return mixAt(moment).sources; }
  std::unique_ptr<Mixture> mixture(const Moment& moment, const MixShapes& shapes) const override {
    return weightedMixture(mixAt(moment), shapes, sums_);
  }

 private:
  WeightedSources mixAt(const Moment& moment) const {
    const StageValues values =
        stage_.keys.empty() ? stage_.values : stage_.valuesAt(moment.seconds(in_.rate).toDouble());
    const Rational turn =
        numberIn(values, ShutterRate) > 0 ? in_.rate / Rational::near(numberIn(values, ShutterRate)) : 1;
    const auto samples = static_cast<std::int64_t>(numberIn(values, Samples));
    const Rational phase = Rational::near(numberIn(values, Phase)), angle = Rational::near(numberIn(values, Angle));
    WeightedSources mix;
    for (std::int64_t i = 0; i < samples; ++i) {
      const Rational off = (phase + angle * Rational(2 * i + 1, 2 * samples)) * turn / 360;
      Rational at = moment.rest + off;
      Moment read{moment.whole + at.floor(), at.part()};
      if (!in_.endless && read.whole < 0) read = {0, 0};
      if (!in_.endless && read.whole >= in_.length) read = {in_.length - 1, 0};
      mix.sources.push_back({0, read});
      mix.weights.push_back(1);
    }
    mix.recipe = {Combining::Average, static_cast<Light>(choiceIn(values, LightIn))};
    return mix;
  }

  Stage stage_;
  VideoDescription in_;
  mutable RunningSums sums_;
};

class Shutter : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "shutter",
        "Shutter",
        "The average over the time that a shutter is open: what moves is blurred as if filmed.",
        {
            {"angle", "Angle", "Shutter", "How long it is open: 360° is as long as a picture lasts.", true,
             NumberDescription{Unit::Degrees, 0, 3600, 180, 5, 360, 1, Tense::None}},
            {"phase", "Phase", "Shutter", "When it opens, before or after the picture's own moment.", true,
             NumberDescription{Unit::Degrees, -3600, 3600, -90, 5, 360, 1, Tense::None}},
            {"rate", "Rate", "Shutter", "Turns of the shutter a second; video: one a picture.", false,
             NumberDescription{Unit::PerSecond, 0, 1000, 0, 1, 30, 2, Tense::None, false, "video"}},
            {"made", "Made", "Samples", "Of what the average is made.", false,
             ChoicesDescription{
                 {{"moments", "Of moments", "Pictures as they enter; a Pace gives those that lie between."},
                  {"motion", "Along motion", "Pictures made along the motion between two."}},
                 ByMoments}},
            {"samples", "Samples", "Samples", "Moments that are averaged.", false,
             NumberDescription{Unit::None, 2, 128, 16, 1, 32, 0, Tense::None, true}},
            {"light", "Light", "Samples", "What is averaged.", false,
             ChoicesDescription{{{"display", "Display", "Values as they are shown."},
                                 {"linear", "Linear", "Amounts of light, as film gathers them."}},
                                1}},
        },
        {},
    };
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings&) const override {
    return std::make_unique<ShutterMap>(stage, incoming);
  }

  std::string summary(const StageValues& values, const VideoDescription& in) const override {
    const double open = numberIn(values, Angle) / 360 * turnOf(values, in) / in.rate.toDouble();
    char text[96];
    std::snprintf(text, sizeof text, "%.4g° · open %s%s", numberIn(values, Angle), secondsText(open).c_str(),
                  choiceIn(values, Made) == AlongMotion ? " · along motion" : "");
    return text;
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in, Rational) const override {
    const double open = numberIn(values, Angle) / 360 * turnOf(values, in);
    char text[200];
    std::vector<StageNote> found;
    std::snprintf(text, sizeof text, "Open for %s: %.2f pictures of what enters.",
                  secondsText(open / in.rate.toDouble(), 4).c_str(), open);
    found.push_back({"Shutter", text});
    if (choiceIn(values, Made) == ByMoments && open < 1.5)
      found.push_back({"Samples",
                       "Footage has no pictures between two frames: this shows where a Pace runs fast, with a lower "
                       "rate, or made along motion."});
    return found;
  }
};

}  // namespace

const StageKind& shutter() {
  static const Shutter kind;
  return kind;
}

}  // namespace molten
