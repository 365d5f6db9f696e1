#include "core/stages/pace.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

#include "core/stages/common_parameters.h"
#include "core/time/pace_text.h"

namespace molten {
namespace {

enum Parameter : std::size_t { From, Spans, PastEnds, Between };
static_assert(From == paceFrom && Spans == paceSpans);

VideoDescription paced(const VideoDescription& in, const PaceCurve& curve) {
  VideoDescription out = in;
  out.length = picturesBefore(curve.length() * in.rate);
  out.endless = false;
  return out;
}

class PaceMap : public TimeMap {
 public:
  PaceMap(PaceCurve curve, const StageValues& values, const VideoDescription& in)
      : TimeMap(paced(in, curve)),
        curve_(std::move(curve)),
        rate_(in.rate),
        past_(pastTheEndsOf(values[PastEnds])),
        between_(inBetweenOf(values[Between])) {}

  bool wholePicture() const override { return true; }
  MomentRead readAt(const Moment& moment) const override {
    const PaceCurve::Moment source = curve_.at(moment.seconds(rate_));
    const Rational frames = source.exact * rate_;
    return {{frames.floor(), frames.part().toDouble() + source.glide * rate_.toDouble()}, {}, 0};
  }
  double roughly(double position) const override {
    return curve_.roughly(position / rate_.toDouble()) * rate_.toDouble();
  }
  PastTheEnds pastTheEnds() const override { return past_; }
  InBetween inBetween() const override { return between_; }

 private:
  PaceCurve curve_;
  Rational rate_;
  PastTheEnds past_;
  InBetween between_;
};

class Pace : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "pace",
        "Pace",
        "How fast the source runs: spans of a speed each, forwards, backwards or standing still, with glides between.",
        {
            {"from", "From", "Source", "The source's moment at the beginning.", false,
             NumberDescription{Unit::Seconds, -3600, 86400, 0, 0.1, 10, 3, Tense::None}},
            {"spans", "Spans", "Spans",
             "Spans in the order of the output, length@speed each, ~ the glide that follows: 2s@100%~0.4s+1.5s@35%.",
             false, SpansDescription{}},
            pastTheEndsParameter(),
            inBetweenParameter(),
        },
        {},
    };
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings&) const override {
    return std::make_unique<PaceMap>(paceCurve(stage.values, incoming), stage.values, incoming);
  }

  std::string summary(const StageValues& values, const VideoDescription& in) const override {
    const PaceCurve curve = paceCurve(values, in);
    char text[96];
    if (curve.spans().size() == 1)
      std::snprintf(text, sizeof text, "%.1f s → %.1f s · %s", in.seconds().toDouble(), curve.length().toDouble(),
                    speedText(curve.spans()[0].speed).c_str());
    else
      std::snprintf(text, sizeof text, "%.1f s → %.1f s · %zu spans", in.seconds().toDouble(),
                    curve.length().toDouble(), curve.spans().size());
    return text;
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in,
                               Rational outputRate) const override {
    const PaceCurve curve = paceCurve(values, in);
    int slow = 0, fast = 0;
    for (const PaceSpan& span : curve.spans()) {
      const SpanLook look = lookOf(span.speed, in.rate, outputRate);
      slow += look == SpanLook::Repeats;
      fast += look == SpanLook::Skips;
    }
    std::vector<StageNote> notes;
    const std::string clean = "Slowest clean speed: " + speedText(slowestCleanSpeed(in.rate, outputRate)) + " (" +
                              rateText(in.rate) + " fps in " + rateText(outputRate) + ").";
    notes.push_back({"Source", clean});
    const auto spansText = [](int count) { return std::to_string(count) + (count == 1 ? " span" : " spans"); };
    if (slow > 0) {
      const InBetween between = inBetweenOf(values[Between]);
      notes.push_back({"In-between frames", spansText(slow) + (slow == 1 ? " plays" : " play") + " slower: " +
                                                (between == InBetween::Nearest ? "frames repeat."
                                                 : between == InBetween::Blend ? "frames between are blended."
                                                                               : "frames between are made by flow.")});
    }
    if (fast > 0)
      notes.push_back(
          {"Spans", spansText(fast) + (fast == 1 ? " passes" : " pass") + " over frames: motion may look choppy."});
    return notes;
  }
};

}  // namespace

PaceCurve paceCurve(const StageValues& values, const VideoDescription& incoming) {
  PaceSpans spans = std::get<PaceSpans>(values[Spans]);
  if (spans.empty()) spans = {{incoming.seconds(), 1, 0, 0}};
  return {Rational::near(std::get<double>(values[From])), std::move(spans)};
}

Rational slowestCleanSpeed(Rational footageRate, Rational outputRate) {
  return outputRate / footageRate;
}

SpanLook lookOf(Rational speed, Rational footageRate, Rational outputRate) {
  if (speed == Rational(0)) return SpanLook::Freeze;
  const double frames = std::abs((speed / slowestCleanSpeed(footageRate, outputRate)).toDouble());
  // Rates like 29.97 on 30 are what the trade calls the same.
  if (frames < 0.998) return SpanLook::Repeats;
  // At 100 % motion is as it was shot, however many frames the output leaves out.
  const bool faster = speed > Rational(1) || speed < Rational(-1);
  return faster && frames > 2.002 ? SpanLook::Skips : SpanLook::Clean;
}

const StageKind& pace() {
  static const Pace kind;
  return kind;
}

}  // namespace molten
