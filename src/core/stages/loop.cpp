#include "core/stages/loop.h"

#include <algorithm>
#include <cmath>

#include "core/number_text.h"
#include "core/stages/common_parameters.h"
#include "core/stages/weighted_mixture.h"
#include "core/time/position_spans.h"

namespace molten {
namespace {

enum class LoopCourse { ThereAndBack, Round, Dissolve };
enum class EndFrames { Once, Twice };

struct Parameters {
  ParameterList list;
  ChoiceHandle<LoopCourse> kindOfLoop = list.choice<LoopCourse>(
      ParameterWords{"kind-of-loop", "Kind of loop", "Loop", "How the end becomes the beginning."}.formerly("way"),
      {{LoopCourse::ThereAndBack, {"there-and-back", "There and back", "To the end, and back to the beginning."}},
       {LoopCourse::Round, {"round", "Round", "From the end straight to the beginning."}},
       {LoopCourse::Dissolve, {"dissolve", "Dissolve", "The end dissolves into the beginning."}}},
      LoopCourse::ThereAndBack);
  ParameterHandle<double> ease =
      list.number({"ease", "Ease", "Loop",
                   "How long time slows down before each turn, and comes up to "
                   "speed after it.",
                   false, ParameterDescription::Condition{"kind-of-loop", {"there-and-back"}}},
                  secondsNumber(0, 3600, 0, 0.05, 4, Tense::None, "at once"));
  ChoiceHandle<EndFrames> endFrames = list.choice<EndFrames>(
      {"end-frames",
       "End frames",
       "Loop",
       "How often the frames at the turns are shown, where time turns at once.",
       false,
       {{"kind-of-loop", {"there-and-back"}}, {"ease", {}, true}}},
      {{EndFrames::Once, {"once", "Ends once", "Each turn shows its frame once: motion goes on evenly."}},
       {EndFrames::Twice, {"twice", "Ends twice", "Each turn shows its frame twice: a short rest."}}},
      EndFrames::Once);
  ParameterHandle<double> dissolve = list.number({"dissolve", "Dissolve", "Loop length",
                                                  "How long the end takes to become the "
                                                  "beginning.",
                                                  false, ParameterDescription::Condition{"kind-of-loop", {"dissolve"}}},
                                                 secondsNumber(0, 3600, 0.5, 0.05, 4));
  ParameterHandle<double> skipStart = list.number(
      {"skip-start", "Skip start", "Loop length", "How much of the beginning is left out.", false, {}, Figure::Round},
      secondsNumber(0, 86400, 0, 0.05, 4));
  ParameterHandle<double> skipEnd = list.number(
      {"skip-end", "Skip end", "Loop length", "How much of the end is left out."}, secondsNumber(0, 86400, 0, 0.05, 4));
};
const Parameters& of() {
  static const Parameters parameters;
  return parameters;
}

std::int64_t wholePictures(double seconds, Rational rate) {
  return (Rational::near(seconds) * rate + Rational(1, 2)).floor();
}

Round roundOf(const StageValues& values, const VideoDescription& in) {
  // A period is a number of pictures like any other: far below what 32 bits hold.
  constexpr std::int64_t longest = 1 << 28;
  Round round;
  round.first = std::clamp<std::int64_t>(wholePictures(of().skipStart(values), in.rate), 0, in.length - 1);
  round.last = std::clamp<std::int64_t>(in.length - 1 - wholePictures(of().skipEnd(values), in.rate), round.first,
                                        std::min(in.length - 1, round.first + longest - 1));
  return round;
}

/// Pictures in which the end turns into the beginning: at most half of those that there are.
std::int64_t dissolveOf(const StageValues& values, std::int64_t count, Rational rate) {
  if (of().kindOfLoop(values) != LoopCourse::Dissolve) return 0;
  return std::min(wholePictures(of().dissolve(values), rate), count / 2);
}

/// In half pictures, so that a period is a whole number of them; at most all of the way.
std::int64_t easeOf(const StageValues& values, std::int64_t count, Rational rate) {
  if (of().kindOfLoop(values) != LoopCourse::ThereAndBack) return 0;
  return std::min(wholePictures(of().ease(values), rate * 2), 2 * (count - 1));
}

std::int64_t periodOf(const StageValues& values, const VideoDescription& in) {
  const std::int64_t count = roundOf(values, in).count();
  if (of().kindOfLoop(values) != LoopCourse::ThereAndBack) return count - dissolveOf(values, count, in.rate);
  if (const std::int64_t ease = easeOf(values, count, in.rate); ease > 0) return 2 * (count - 1) + ease;
  if (of().endFrames(values) == EndFrames::Twice) return 2 * count;
  return std::max<std::int64_t>(1, 2 * count - 2);
}

VideoDescription looped(const StageValues& values, const VideoDescription& in) {
  VideoDescription out = in;
  out.setLength(periodOf(values, in));
  out.endless = true;
  return out;
}

/// C(u) of the header, its value at 1 being 1/2.
double comingUp(double u) {
  return u * u * u * (1 - u / 2);
}

class LoopMap : public MovingMap, public Mixing {
 public:
  LoopMap(const StageValues& values, const VideoDescription& in, const VideoDescription& out)
      : MovingMap(out),
        round_(roundOf(values, in)),
        back_(of().kindOfLoop(values) == LoopCourse::ThereAndBack),
        twice_(of().endFrames(values) == EndFrames::Twice),
        dissolve_(dissolveOf(values, round_.count(), in.rate)),
        ease_(easeOf(values, round_.count(), in.rate), 2) {}

  Moment readAt(const Moment& moment) const override {
    const Moment at = within(moment), read = back_ ? there(at) : at;
    return {read.whole + round_.first, read.rest, read.off};
  }
  double positionAt(double position) const override { return readAt(Moment::near(position)).pictures(); }
  Reach readsBetween(double from, double to) const override {
    const auto period = static_cast<double>(outgoing().length), first = static_cast<double>(round_.first);
    const auto far = static_cast<double>(round_.last - round_.first);
    if (!back_) {
      const PositionSpans spans = PositionSpans(from, to).folded(outgoing().length, PastTheEnds::GoRound);
      // While it dissolves the end is read as well; that is told by the sources.
      return {first + std::max(0.0, spans.least()), first + spans.most()};
    }
    if (to - from >= period) return {first, first + far};
    Reach reads{positionAt(from), positionAt(from)};
    const auto take = [&](double at) { reads = {std::min(reads.least, at), std::max(reads.most, at)}; };
    take(positionAt(to));
    // Between its turns it goes one way.
    const double half = static_cast<double>(outgoing().length) / 2;
    for (double turn = std::floor(from / half) - 1; turn * half <= to + 1; ++turn)
      if (turn * half >= from - 1) take(std::fmod(turn, 2) == 0 ? first : first + far);
    return reads;
  }
  PastTheEnds pastTheEnds() const override { return PastTheEnds::StandStill; }

  const Mixing* mixing() const override { return dissolve_ > 0 ? this : nullptr; }
  std::vector<double> taps(double position) const override {
    const MixSources mix = mixAt(Moment::near(position));
    if (mix.sources.size() < 2) return {};
    return {mix.sources[1].moment.pictures()};
  }
  std::vector<MixSource> sources(const Moment& moment) const override { return mixAt(moment).sources; }
  std::unique_ptr<Mixture> mixture(const Moment& moment, const MixShapes& shapes) const override {
    return weightedMixture(mixAt(moment), shapes, sums_);
  }

 private:
  using MixSources = WeightedSources;

  Moment within(const Moment& moment) const { return *foldMoment(moment, outgoing().length, PastTheEnds::GoRound); }
  /// The position in the round of a moment of the way there and back.
  Moment there(const Moment& at) const {
    const std::int64_t far = round_.count() - 1;
    if (far == 0) return {};
    const Rational period = outgoing().length, half = period / 2;
    const bool returns = at.pictures() > half.toDouble();
    const Moment on = returns ? Moment::ofPictures(period - at.exact(), -at.off) : at;
    if (ease_ == Rational(0)) {
      // With the ends twice half a period is a picture longer than the way: at the far turn, which lasts from the last
      // picture on, and on the way back at the near one.
      if (!twice_) return on;
      const Moment shifted = returns ? Moment{on.whole - 1, on.rest, on.off} : on;
      if (shifted.pictures() <= 0) return {};
      return shifted.pictures() >= static_cast<double>(far) ? Moment{far} : shifted;
    }
    const double ease = ease_.toDouble(), t = on.pictures();
    if (t < ease) return {0, 0, ease * comingUp(std::max(0.0, t) / ease)};
    if (t > half.toDouble() - ease) return {far, 0, -ease * comingUp(std::max(0.0, half.toDouble() - t) / ease)};
    return Moment::ofPictures(on.exact() - ease_ / 2, on.off);
  }
  MixSources mixAt(const Moment& moment) const {
    const Moment at = within(moment);
    const std::int64_t period = outgoing().length;
    // From a picture before the seam on: there the end stands alone, and the beginning comes in.
    const Moment head =
        at.pictures() > static_cast<double>(period - 1) ? Moment{at.whole - period, at.rest, at.off} : at;
    const auto share = static_cast<float>(
        std::clamp((static_cast<double>(dissolve_) - head.pictures()) / static_cast<double>(dissolve_ + 1), 0.0, 1.0));
    const auto readAt = [&](const Moment& m) {
      const std::int64_t whole = round_.first + m.whole;
      return whole < 0 ? Moment{} : Moment{whole, m.rest, m.off};
    };
    MixSources mix;
    mix.recipe.blend = BlendMode::Mean;
    const auto add = [&](const Moment& m, float weight) {
      if (weight <= 0) return;
      mix.sources.push_back({0, readAt(m)});
      mix.weights.push_back(weight);
    };
    add(head, 1 - share);
    add({head.whole + period, head.rest, head.off}, share);
    return mix;
  }

  Round round_;
  bool back_, twice_;
  std::int64_t dissolve_;
  Rational ease_;  ///< in pictures
  mutable RunningSums sums_;
};

/// Pictures of the round in a picture; at a turn, or at the seam, as it goes on or as it came.
double speedIn(const LoopMap& map, double at) {
  constexpr double apart = 1.0 / 64;
  const double here = map.positionAt(at), on = (map.positionAt(at + apart) - here) / apart,
               came = (here - map.positionAt(at - apart)) / apart;
  return std::abs(on) < std::abs(came) ? on : came;
}

class LoopKind : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "loop",
        "Loop",
        "Makes a clip endless: there and back, or round and round. The result is one round of a loop.",
        of().list.described(),
        {{"find-a-loop", "Find a loop", "Loop length",
          "Looks for the start and end near the present ones that go into each other best.",
          StageAction::Wants::BetterRound},
         {"ease-the-turns", "Ease the turns", "Loop", "There and back, slowing down before each turn and out of it.",
          StageAction::Wants::Nothing}},
        {{"Loop", false, 1}, {"Loop length", false, 4}},
    };
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings&) const override {
    VideoDescription out = looped(stage.values, incoming);
    const auto map = std::make_shared<const LoopMap>(stage.values, incoming, out);
    out.course = courseAfter(incoming.course, {[map](double at) { return map->positionAt(at); },
                                               [map](double at) { return speedIn(*map, at); }});
    return std::make_unique<LoopMap>(stage.values, incoming, out);
  }

  std::optional<Round> round(const StageValues& values, const VideoDescription& in) const override {
    return roundOf(values, in);
  }
  /// There and back, with as long an ease as is seen as one, and no longer than the way allows.
  Stage acted(const Stage& stage, std::string_view, const VideoDescription& in) const override {
    Stage loop = stage;
    of().kindOfLoop.set(loop.values, LoopCourse::ThereAndBack);
    const Round round = roundOf(loop.values, in);
    of().ease.set(loop.values, std::min(0.6, (Rational(round.count()) / in.rate).toDouble() / 4));
    return loop;
  }
  StageValues withRound(StageValues values, const Round& round, const VideoDescription& in) const override {
    of().skipStart.set(values, (Rational(round.first) / in.rate).toDouble());
    of().skipEnd.set(values, (Rational(in.length - 1 - round.last) / in.rate).toDouble());
    return values;
  }

  std::optional<std::string> liveTrouble(const Stage&) const override {
    return "A Loop needs an end; a camera has none. Keep the last seconds as footage and loop those.";
  }

  std::string summary(const StageValues& values, const VideoDescription& in) const override {
    static constexpr const char* ways[] = {"there and back", "round", "dissolve"};
    const bool eases = easeOf(values, roundOf(values, in).count(), in.rate) > 0;
    return ways[static_cast<int>(of().kindOfLoop(values))] + std::string(eases ? ", eased" : "") + " · loop of " +
           fixedText(looped(values, in).seconds().toDouble(), 2) + " s";
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in, Rational) const override {
    const Round round = roundOf(values, in);
    std::vector<StageNote> notes;
    notes.push_back({"Loop length", "Frames " + std::to_string(round.first) + " to " + std::to_string(round.last) +
                                        " of " + std::to_string(in.length) + "; a loop of " +
                                        std::to_string(periodOf(values, in)) + " pictures."});
    if (of().kindOfLoop(values) == LoopCourse::Dissolve &&
        wholePictures(of().dissolve(values), in.rate) > round.count() / 2)
      notes.push_back({"Loop length", "The dissolve is cut to half of the round."});
    if (of().kindOfLoop(values) == LoopCourse::ThereAndBack &&
        wholePictures(of().ease(values), in.rate * 2) > 2 * (round.count() - 1))
      notes.push_back({"Loop", "The ease is cut to " +
                                   secondsText((Rational(round.count() - 1) / in.rate).toDouble(), 2) +
                                   ": all of the way."});
    return notes;
  }
};

}  // namespace

const StageKind& loop() {
  static const LoopKind kind;
  return kind;
}

}  // namespace molten
