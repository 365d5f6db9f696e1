#include "core/stages/step_rate.h"

#include <cmath>
#include <cstdio>

#include "core/stages/common_parameters.h"

namespace molten {
namespace {

enum Parameter : std::size_t { Rate, Phase, PastEnds, Between };

/// It repeats as before if a round holds a whole number of steps.
VideoDescription stepped(const VideoDescription& in, Rational rate) {
  VideoDescription out = in;
  out.endless = in.endless && (in.seconds() * rate).den() == 1;
  return out;
}

class StepRateMap : public TimeMap {
 public:
  StepRateMap(const StageValues& values, const VideoDescription& in)
      : TimeMap(stepped(in, Rational::near(std::get<double>(values[Rate])))),
        rate_(Rational::near(std::get<double>(values[Rate]))),
        phase_(Rational::near(std::get<double>(values[Phase]))),
        incoming_(in.rate),
        past_(pastTheEndsOf(values[PastEnds])),
        between_(inBetweenOf(values[Between])) {}

  bool wholePicture() const override { return true; }
  MomentRead readAt(const Moment& moment) const override {
    const Rational steps = (moment.seconds(incoming_) - phase_) * rate_;
    const Rational frames = (Rational(steps.floor()) / rate_ + phase_) * incoming_;
    return {{frames.floor(), frames.part().toDouble()}, {}, 0};
  }
  double roughly(double position) const override {
    const double r = rate_.toDouble(), phase = phase_.toDouble(), in = incoming_.toDouble();
    return (std::floor((position / in - phase) * r + 1e-9) / r + phase) * in;
  }
  PastTheEnds pastTheEnds() const override { return past_; }
  InBetween inBetween() const override { return between_; }

 private:
  Rational rate_, phase_, incoming_;
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
        {},
    };
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const StageValues& values, const VideoDescription& incoming) const override {
    return std::make_unique<StepRateMap>(values, incoming);
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
