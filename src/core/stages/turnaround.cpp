#include "core/stages/turnaround.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

namespace molten {
namespace {

enum Parameter : std::size_t { Way, Ends, Dissolve, SkipStart, SkipEnd };
enum Ways : std::size_t { ThereAndBack, Wrap, WrapWithDissolve };
enum EndFrames : std::size_t { Once, Doubled };

std::int64_t wholeFrames(const ParameterValue& seconds, Rational rate) {
  return (Rational::near(std::get<double>(seconds)) * rate + Rational(1, 2)).floor();
}

/// Pictures in which the end turns into the beginning: at most half of those that there are.
std::int64_t dissolveOf(const StageValues& values, std::int64_t count, Rational rate) {
  if (std::get<std::size_t>(values[Way]) != WrapWithDissolve) return 0;
  return std::min(wholeFrames(values[Dissolve], rate), count / 2);
}

std::int64_t periodOf(const StageValues& values, const VideoDescription& in) {
  const std::int64_t count = roundOf(values, in).count();
  if (std::get<std::size_t>(values[Way]) != ThereAndBack) return count - dissolveOf(values, count, in.rate);
  if (std::get<std::size_t>(values[Ends]) == Doubled) return 2 * count;
  return std::max<std::int64_t>(1, 2 * count - 2);
}

VideoDescription turned(const StageValues& values, const VideoDescription& in) {
  VideoDescription out = in;
  out.length = periodOf(values, in);
  out.endless = true;
  return out;
}

class TurnaroundMap : public TimeMap {
 public:
  TurnaroundMap(const StageValues& values, const VideoDescription& in)
      : TimeMap(turned(values, in)),
        round_(roundOf(values, in)),
        back_(std::get<std::size_t>(values[Way]) == ThereAndBack),
        doubled_(std::get<std::size_t>(values[Ends]) == Doubled),
        dissolve_(dissolveOf(values, round_.count(), in.rate)) {}

  bool wholePicture() const override { return true; }
  bool dissolves() const override { return dissolve_ > 0; }
  MomentRead readAt(const Moment& moment) const override {
    // Pictures pass as they are: a moment between two is the nearer one.
    const std::int64_t n = moment.whole + (moment.rest >= Rational(1, 2) ? 1 : 0), period = outgoing().length;
    const std::int64_t at = (n % period + period) % period;
    if (back_) return {{round_.first + there(at), 0}, {}, 0};
    if (at >= dissolve_) return {{round_.first + at, 0}, {}, 0};
    // The tail goes on under the head: weights rise from one that is not 0 to one that is not 1, so that neither end
    // of the dissolve stands for two pictures.
    const double share = static_cast<double>(dissolve_ - at) / static_cast<double>(dissolve_ + 1);
    return {{round_.first + at, 0}, {round_.first + at + period, 0}, share};
  }
  double roughly(double position) const override {
    return static_cast<double>(readAt({static_cast<std::int64_t>(std::floor(position + 0.5)), 0}).first.whole);
  }
  PastTheEnds pastTheEnds() const override { return PastTheEnds::Hold; }

 private:
  std::int64_t there(std::int64_t at) const {
    const std::int64_t count = round_.count();
    if (at < count) return at;
    return doubled_ ? 2 * count - 1 - at : 2 * count - 2 - at;
  }

  Round round_;
  bool back_, doubled_;
  std::int64_t dissolve_;
};

class Turnaround : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "turnaround",
        "Turnaround",
        "Makes a clip endless: there and back, or round and round. The result is one round of a loop.",
        {
            {"way", "Way", "Way", "How the clip goes round.", false,
             ChoicesDescription{{{"there-and-back", "There and back", "To the end, and back to the beginning."},
                                 {"wrap", "Wrap", "From the end straight to the beginning."},
                                 {"dissolve", "Dissolve", "The end dissolves into the beginning."}},
                                ThereAndBack}},
            {"end-frames", "End frames", "Way", "There and back: how often the frames at the turns are shown.", false,
             ChoicesDescription{{{"once", "Ends once", "Each turn shows its frame once: motion goes on evenly."},
                                 {"doubled", "Ends doubled", "Each turn shows its frame twice: a short rest."}},
                                Once}},
            {"dissolve", "Dissolve", "Round", "How long the end takes to become the beginning, with way Dissolve.",
             false, NumberDescription{Unit::Seconds, 0, 3600, 0.5, 0.05, 4, 3, Tense::None}},
            {"skip-start", "Skip start", "Round", "How much of the beginning is left out.", false,
             NumberDescription{Unit::Seconds, 0, 86400, 0, 0.05, 4, 3, Tense::None}},
            {"skip-end", "Skip end", "Round", "How much of the end is left out.", false,
             NumberDescription{Unit::Seconds, 0, 86400, 0, 0.05, 4, 3, Tense::None}},
        },
        {{"find-a-loop", "Find a loop", "Round",
          "Looks for the start and end near the present ones that go into each other best."}},
    };
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings&) const override {
    return std::make_unique<TurnaroundMap>(stage.values, incoming);
  }

  std::string summary(const StageValues& values, const VideoDescription& in) const override {
    const auto& ways = std::get<ChoicesDescription>(description().parameters[Way].kind).choices;
    std::string way = ways[std::get<std::size_t>(values[Way])].label;
    way[0] = static_cast<char>(way[0] - 'A' + 'a');
    char text[96];
    std::snprintf(text, sizeof text, "%s · loop of %.2f s", way.c_str(), turned(values, in).seconds().toDouble());
    return text;
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in, Rational) const override {
    const Round round = roundOf(values, in);
    std::vector<StageNote> notes;
    notes.push_back({"Round", "Frames " + std::to_string(round.first) + " to " + std::to_string(round.last) + " of " +
                                  std::to_string(in.length) + "; a loop of " + std::to_string(periodOf(values, in)) +
                                  " pictures."});
    const bool dissolving = std::get<std::size_t>(values[Way]) == WrapWithDissolve;
    if (dissolving && wholeFrames(values[Dissolve], in.rate) > round.count() / 2)
      notes.push_back({"Way", "The dissolve is cut to half of the round."});
    return notes;
  }
};

}  // namespace

Round roundOf(const StageValues& values, const VideoDescription& in) {
  // A period is a number of pictures like any other: far below what 32 bits hold.
  constexpr std::int64_t longest = 1 << 29;
  Round round;
  round.first = std::clamp<std::int64_t>(wholeFrames(values[SkipStart], in.rate), 0, in.length - 1);
  round.last = std::clamp<std::int64_t>(in.length - 1 - wholeFrames(values[SkipEnd], in.rate), round.first,
                                        std::min(in.length - 1, round.first + longest - 1));
  return round;
}

StageValues withRound(StageValues values, const Round& round, const VideoDescription& in) {
  values[SkipStart] = (Rational(round.first) / in.rate).toDouble();
  values[SkipEnd] = (Rational(in.length - 1 - round.last) / in.rate).toDouble();
  return values;
}

const StageKind& turnaround() {
  static const Turnaround kind;
  return kind;
}

}  // namespace molten
