#include "core/stages/pace.h"

#include <algorithm>
#include <cmath>

#include "core/number_text.h"
#include "core/stages/common_parameters.h"
#include "core/time/pace_text.h"

namespace molten {
namespace {

VideoDescription paced(const VideoDescription& in, const PaceCurve& curve) {
  VideoDescription out = in;
  out.setLength(curve.length() * in.rate);
  out.endless = false;
  const double rate = in.rate.toDouble();
  const auto kept = std::make_shared<const PaceCurve>(curve);
  out.course = courseAfter(in.course, {[kept, rate](double position) { return kept->atSeconds(position / rate) * rate; },
                                       [kept, rate](double position) { return kept->speedAt(position / rate); }});
  return out;
}

class PaceMap : public MovingMap {
 public:
  PaceMap(PaceCurve curve, PastTheEnds past, const VideoDescription& in)
      : MovingMap(paced(in, curve)),
        curve_(std::move(curve)),
        rate_(in.rate),
        past_(past),
        perSecond_(rate_.toDouble()) {}

  Moment readAt(const Moment& moment) const override {
    const PaceCurve::Moment source = curve_.at(moment.exact() / rate_, moment.off / perSecond_);
    return Moment::ofPictures(source.exact * rate_, source.glide * perSecond_);
  }
  double positionAt(double position) const override { return curve_.atSeconds(position / perSecond_) * perSecond_; }
  Reach readsBetween(double from, double to) const override {
    const auto [least, most] = curve_.range(from / perSecond_, to / perSecond_);
    return {least * perSecond_, most * perSecond_};
  }
  PastTheEnds pastTheEnds() const override { return past_; }

 private:
  PaceCurve curve_;
  Rational rate_;
  PastTheEnds past_;
  double perSecond_;
};

class Pace : public StageKind {
 public:
  const PaceParameters* paceHandles() const override { return &paceParameters(); }
  const StageDescription& description() const override {
    static const StageDescription described = {
        "pace",
        "Pace",
        "How fast the source runs: spans of a speed each, forwards, backwards or standing still, with glides between.",
        paceParameters().list.described(),
        {},
        {{"From", true, 0}, {"Spans", false, 3}, {"Past the ends", false, 2}}};
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings&) const override {
    return std::make_unique<PaceMap>(paceCurve(stage.values, incoming), paceParameters().pastTheEnds(stage.values),
                                     incoming);
  }

  std::optional<std::string> liveTrouble(const Stage&) const override {
    return "A Pace needs a clip with an end; a camera has none. Use a Time Field or Strips for a delay, Step Rate for fewer pictures.";
  }

  std::string summary(const StageValues& values, const VideoDescription& in) const override {
    const PaceCurve curve = paceCurve(values, in);
    const std::size_t spans = curve.spans().size();
    return fixedText(in.seconds().toDouble(), 1) + " s → " + fixedText(curve.length().toDouble(), 1) + " s · " +
           (spans == 1 ? speedText(curve.spans()[0].speed) : std::to_string(spans) + " spans");
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
    notes.push_back({"Spans", "Slowest with real frames: " + speedText(slowestCleanSpeed(in.rate, outputRate)) + " (" +
                                  rateText(in.rate) + " fps in " + rateText(outputRate) + ")."});
    const auto spansText = [](int count) { return std::to_string(count) + (count == 1 ? " span" : " spans"); };
    if (slow > 0)
      notes.push_back(
          {"Spans", spansText(slow) + (slow == 1 ? " plays" : " play") + " slower: " +
                        (in.between == InBetween::Whole   ? "frames repeat; the footage's in-between can make more."
                         : in.between == InBetween::Mixed ? "frames between are mixed."
                                                          : "frames between are made by flow.")});
    if (fast > 0)
      notes.push_back(
          {"Spans", spansText(fast) + (fast == 1 ? " passes" : " pass") + " over frames: motion may look choppy."});
    for (std::size_t i = 0; i + 1 < curve.spans().size(); ++i)
      if (curve.isNarrowed(i))
        notes.push_back({"Spans", "The glide after span " + std::to_string(i + 1) + " asks for " +
                                      secondsText(curve.spans()[i].glide.toDouble(), 2) + " and finds room for " +
                                      secondsText(curve.glideAfter(i).length.toDouble(), 2) + "."});
    return notes;
  }
};

}  // namespace

PaceParameters::PaceParameters()
    : from(list.number({"from", "From", "From", "The source's moment at the beginning."},
                       secondsNumber(-3600, 86400, 0, 0.1, 10))),
      spans(list.spans({"spans", "Spans", "Spans",
                        "Spans in the order of the output, length@speed each, ~ the glide that follows, :before or "
                        ":after its mark: 2s@100%~0.4s+1.5s@35%."})),
      pastTheEnds(pastTheEndsIn(list)) {}

const PaceParameters& paceParameters() {
  static const PaceParameters parameters;
  return parameters;
}

PaceCurve paceCurve(const StageValues& values, const VideoDescription& incoming) {
  PaceSpans spans = paceParameters().spans(values);
  if (spans.empty()) spans = {{incoming.seconds(), 1}};
  return {Rational::near(paceParameters().from(values)), std::move(spans)};
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

Stage runningBy(double from, PaceSpans spans) {
  Stage stage = newStage(pace());
  paceParameters().from.set(stage.values, from);
  paceParameters().spans.set(stage.values, std::move(spans));
  return stage;
}

}  // namespace molten
