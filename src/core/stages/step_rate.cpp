#include "core/stages/step_rate.h"

#include <cmath>
#include <cstdio>

#include "core/stages/common_parameters.h"

namespace molten {
namespace {

enum Parameter : std::size_t { Rate, Phase, PastEnds, Between };

struct Steps {
  Rational rate, phase;
  explicit Steps(const StageValues& values)
      : rate(Rational::near(std::get<double>(values[Rate]))), phase(Rational::near(std::get<double>(values[Phase]))) {}
};

/// It repeats as before if a round holds a whole number of steps.
VideoDescription stepped(const VideoDescription& in, Rational rate, bool keyed) {
  VideoDescription out = in;
  out.endless = in.endless && !keyed && (in.seconds() * rate).den() == 1;
  return out;
}

class StepRateMap : public TimeMap {
 public:
  StepRateMap(const Stage& stage, const VideoDescription& in)
      : TimeMap(stepped(in, Steps(stage.values).rate, !stage.keys.empty())),
        stage_(stage),
        steps_(stage.values),
        past_(pastTheEndsOf(stage.values[PastEnds])),
        between_(inBetweenOf(stage.values[Between])) {}

  bool wholePicture() const override { return true; }
  MomentRead readAt(const Moment& moment) const override {
    const Rational incoming = outgoing().rate, at = moment.seconds(incoming);
    const Steps now = stage_.keys.empty() ? steps_ : Steps(stage_.valuesAt(at.toDouble()));
    const Rational steps = (at - now.phase) * now.rate;
    const Rational frames = (Rational(steps.floor()) / now.rate + now.phase) * incoming;
    return {{frames.floor(), frames.part().toDouble()}, {}, 0};
  }
  double roughly(double position) const override {
    const double in = outgoing().rate.toDouble();
    const Steps now = stage_.keys.empty() ? steps_ : Steps(stage_.valuesAt(position / in));
    const double r = now.rate.toDouble(), phase = now.phase.toDouble();
    return (std::floor((position / in - phase) * r + 1e-9) / r + phase) * in;
  }
  PastTheEnds pastTheEnds() const override { return past_; }
  InBetween inBetween() const override { return between_; }

 private:
  Stage stage_;
  Steps steps_;
  PastTheEnds past_;
  InBetween between_;
};

class StepRate : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "step-rate",
        "Step Rate",
        "Fewer pictures a second, each held until the next.",
        {
            {"rate", "Rate", "Steps", "Different pictures a second.", true,
             NumberDescription{Unit::PerSecond, 0.01, 1000, 12, 1, 30, 3, Tense::None}},
            {"phase", "Phase", "Steps", "How much later the steps fall.", true,
             NumberDescription{Unit::Seconds, 0, 3600, 0, 0.01, 0.5, 3, Tense::None}},
            pastTheEndsParameter(),
            inBetweenParameter(),
        },
        {},
    };
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings&) const override {
    return std::make_unique<StepRateMap>(stage, incoming);
  }

  std::string summary(const StageValues& values, const VideoDescription&) const override {
    return rateText(Rational::near(std::get<double>(values[Rate]))) + " pictures a second";
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in,
                               Rational outputRate) const override {
    const double rate = std::get<double>(values[Rate]), held = outputRate.toDouble() / rate;
    char text[128];
    if (rate > in.rate.toDouble() + 1e-9)
      std::snprintf(text, sizeof text, "The video has %s pictures a second: there is nothing to hold.",
                    rateText(in.rate).c_str());
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
