#include "core/stages/step_rate.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

#include "core/stages/common_parameters.h"

namespace molten {
namespace {

struct Parameters {
  ParameterList list;
  ParameterHandle<double> rate = list.number({"rate", "Rate", "Steps", "Different pictures a second.", true},
                                             {Unit::PerSecond, 0.01, 1000, 12, 1, 30, 3, Tense::None});
  ParameterHandle<double> phase = list.number({"phase", "Phase", "Steps", "How much later the steps fall.", true},
                                              secondsNumber(0, 3600, 0, 0.01, 0.5));
  ChoiceHandle<PastTheEnds> pastTheEnds = pastTheEndsIn(list);
};
const Parameters& of() {
  static const Parameters parameters;
  return parameters;
}

struct Steps {
  Rational rate, phase;
  explicit Steps(const StageValues& values)
      : rate(Rational::near(of().rate(values))), phase(Rational::near(of().phase(values))) {}
};

/// It repeats as before if a round holds a whole number of steps.
VideoDescription stepped(const VideoDescription& in, Rational rate, bool keyed) {
  VideoDescription out = in;
  out.endless = in.endless && !keyed && (in.seconds() * rate).den() == 1;
  return out;
}

class StepRateMap : public MovingMap {
 public:
  StepRateMap(const Stage& stage, const VideoDescription& in)
      : MovingMap(stepped(in, Steps(stage.values).rate, !stage.keys.empty())),
        stage_(stage),
        steps_(stage.values),
        past_(of().pastTheEnds(stage.values)) {}

  Moment readAt(const Moment& moment) const override {
    const Rational incoming = outgoing().rate;
    const Steps now = at(moment.pictures());
    const Rational exact = (moment.exact() / incoming - now.phase) * now.rate;
    const double off = moment.off / incoming.toDouble() * now.rate.toDouble();
    const std::int64_t steps = off == 0 ? exact.floor() : exact.floor() + wholeBelow(exact.part().toDouble() + off);
    return Moment::ofPictures((Rational(steps) / now.rate + now.phase) * incoming);
  }
  double positionAt(double position) const override {
    const double in = outgoing().rate.toDouble();
    const Steps now = at(position);
    const double r = now.rate.toDouble(), phase = now.phase.toDouble();
    return (static_cast<double>(wholeBelow((position / in - phase) * r)) / r + phase) * in;
  }
  Reach readsBetween(double from, double to) const override {
    if (stage_.keys.empty()) return {positionAt(from), positionAt(to)};
    double slowest = steps_.rate.toDouble();
    if (const auto keyed = stage_.keys.find(of().rate.index()); keyed != stage_.keys.end())
      for (const Key& key : keyed->second) slowest = std::min(slowest, key.value[0]);
    return {from - outgoing().rate.toDouble() / std::max(slowest, 0.01) - 1, to};
  }
  PastTheEnds pastTheEnds() const override { return past_; }

 private:
  Steps at(double position) const {
    return stage_.keys.empty() ? steps_ : Steps(stage_.valuesAt(position / outgoing().rate.toDouble()));
  }

  Stage stage_;
  Steps steps_;
  PastTheEnds past_;
};

class StepRate : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "step-rate", "Step Rate", "Fewer pictures a second, each held until the next.", of().list.described(), {},
        {{"Steps", false, 2}, {"Past the ends", false, 2}}};
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings&) const override {
    return std::make_unique<StepRateMap>(stage, incoming);
  }

  std::string summary(const StageValues& values, const VideoDescription&) const override {
    return rateText(Rational::near(of().rate(values))) + " fps";
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in,
                               Rational outputRate) const override {
    const double rate = of().rate(values), held = outputRate.toDouble() / rate;
    char text[128];
    if (rate > in.rate.toDouble() + 1e-9)
      std::snprintf(text, sizeof text, "The video has %s fps: there is nothing to hold.", rateText(in.rate).c_str());
    else if (std::abs(held - std::round(held)) < 1e-6)
      std::snprintf(text, sizeof text, "Each is held for %.0f pictures of the output.", held);
    else
      std::snprintf(text, sizeof text, "Held for %.0f or %.0f pictures of the output in turn: %.3g on average.",
                    std::floor(held), std::ceil(held), held);
    return {{"Steps", text}};
  }
};

}  // namespace

const StageKind& stepRate() {
  static const StepRate kind;
  return kind;
}

}  // namespace molten
