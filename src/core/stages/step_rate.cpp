#include "core/stages/step_rate.h"

#include <algorithm>
#include <cmath>

#include "core/number_text.h"
#include "core/stages/common_parameters.h"
#include "core/stages/moving_values.h"

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
  /// Of the step that a position lies in; both in incoming pictures.
  double begin(double position, Rational incoming) const {
    const double in = incoming.toDouble(), r = rate.toDouble(), after = phase.toDouble();
    return (static_cast<double>(wholeBelow((position / in - after) * r)) / r + after) * in;
  }
};

/// It repeats as before if a round holds a whole number of steps.
VideoDescription stepped(const Stage& stage, const VideoDescription& in, const Surroundings& around) {
  VideoDescription out = in;
  out.endless = in.endless && !stage.varies() && (in.seconds() * Steps(stage.values).rate).den() == 1;
  const auto moving = std::make_shared<const MovingValues>(stage, in, around);
  out.course = courseAfter(in.course, {[moving, rate = in.rate](double position) {
                                         return Steps(moving->at(position)).begin(position, rate);
                                       },
                                       nullptr, true});
  return out;
}

class StepRateMap : public MovingMap {
 public:
  StepRateMap(const Stage& stage, const VideoDescription& in, const Surroundings& around)
      : MovingMap(stepped(stage, in, around)),
        moving_(stage, in, around),
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
  double positionAt(double position) const override { return at(position).begin(position, outgoing().rate); }
  double heardAt(double position) const override { return position; }
  Reach readsBetween(double from, double to) const override {
    if (!moving_.vary()) return {positionAt(from), positionAt(to)};
    const double slowest = of().rate(moving_.stage().leastValues());
    return {from - outgoing().rate.toDouble() / std::max(slowest, 0.01) - 1, to};
  }
  PastTheEnds pastTheEnds() const override { return past_; }

 private:
  Steps at(double position) const {
    return moving_.vary() ? Steps(moving_.at(position)) : steps_;
  }

  MovingValues moving_;
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
                                   const Surroundings& around) const override {
    return std::make_unique<StepRateMap>(stage, incoming, around);
  }

  std::string summary(const StageValues& values, const VideoDescription&) const override {
    return rateText(Rational::near(of().rate(values))) + " fps";
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in,
                               Rational outputRate) const override {
    const double rate = of().rate(values), held = outputRate.toDouble() / rate;
    if (rate > in.rate.toDouble() + 1e-9) return {{"Steps", "The video has " + rateText(in.rate) + " fps: there is nothing to hold."}};
    if (std::abs(held - std::round(held)) < 1e-6) return {{"Steps", "Each is held for " + fixedText(held, 0) + " pictures of the output."}};
    return {{"Steps", "Held for " + fixedText(std::floor(held), 0) + " or " + fixedText(std::ceil(held), 0) + " pictures of the output in turn: " +
                          shortText(held, 3) + " on average."}};
  }
};

}  // namespace

const StageKind& stepRate() {
  static const StepRate kind;
  return kind;
}

}  // namespace molten
