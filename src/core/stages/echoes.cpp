#include "core/stages/echoes.h"

#include <algorithm>
#include <cmath>

#include "core/number_text.h"
#include "core/stages/common_parameters.h"
#include "core/stages/moving_values.h"
#include "core/stages/weighted_mixture.h"

namespace molten {
namespace {

enum class Direction { Behind, Ahead, Both };
enum class Mix { Light, Wins, Mean, Layers };
enum class Winner { Brightest, Darkest };
enum class Top { Newest, Oldest };
enum class Missing { Trim, StandStill, FadeIn, LeaveOut };
using When = ParameterDescription::Condition;

NumberDescription percent(double least, double most, double initial, double step, double usual, int decimals) {
  return {Unit::Percent, least, most, initial, step, usual, decimals, Tense::None};
}

struct Parameters {
  ParameterList list;
  ParameterHandle<double> repeats =
      list.number({"repeats", "Repeats", "Repeats", "How many moments are added on each side."},
                  {Unit::None, 1, 60, 6, 1, 24, 0, Tense::None, true});
  ParameterHandle<double> spacing =
      list.number({"spacing", "Spacing", "Repeats", "Time from one repeat to the next.", true},
                  secondsNumber(0, 3600, 0.1, 0.01, 1));
  ChoiceHandle<Direction> direction =
      list.choice<Direction>({"direction", "Direction", "Repeats", "Which moments are repeated."},
                             {{Direction::Behind, {"behind", "Behind", "Moments that have been."}},
                              {Direction::Ahead, {"ahead", "Ahead", "Moments that are to come."}},
                              {Direction::Both, {"both", "Both", "As many on either side."}}},
                             Direction::Behind);
  ParameterHandle<double> copySpeed =
      list.number({"copy-speed", "Copy speed", "Repeats",
                   "How fast the first repeat runs beside the picture; each further one loses as much."},
                  percent(0.5, 1, 1, 0.001, 1, 2));
  ParameterHandle<double> copiesFps = list.number({"copies-fps", "Copies fps", "Repeats",
                                                   "Different pictures a second of the repeats, each held "
                                                   "until the next; all: as many as the footage has."},
                                                  {Unit::PerSecond, 0, 1000, 0, 1, 30, 2, Tense::None, false, "all"});
  ParameterHandle<double> present = list.number(
      {"present", "Present", "Strength", "Strength of the present moment.", true}, percent(0, 4, 1, 0.05, 1, 1));
  ParameterHandle<double> nearest = list.number(
      {"nearest", "Nearest", "Strength", "Strength of the nearest repeat.", true}, percent(0, 4, 0.7, 0.01, 1, 1));
  ParameterHandle<double> farthest = list.number(
      {"farthest", "Farthest", "Strength", "Strength of the farthest repeat; those between fall off evenly.", true},
      percent(0, 4, 0.15, 0.01, 1, 1));
  ChoiceHandle<Mix> mix =
      list.choice<Mix>({"mix", "Mix", "Mix", "How the moments become one picture."},
                       {{Mix::Light, {"light", "Light", "Light adds up: what moves leaves its light behind."}},
                        {Mix::Wins, {"wins", "Wins", "At each place one moment wins: the brightest or the darkest."}},
                        {Mix::Mean, {"mean", "Mean", "All moments in one exposure."}},
                        {Mix::Layers, {"layers", "Layers", "Each laid over the next by its strength."}}},
                       Mix::Wins);
  ParameterHandle<bool> belowWhite = list.toggle(
      {"below-white", "Below white", "Mix", "Light that adds up never burns out.", false, When{"mix", {"light"}}},
      true);
  ChoiceHandle<Winner> winner =
      list.choice<Winner>({"winner", "Winner", "Mix", "Which moment wins.", false, When{"mix", {"wins"}}},
                          {{Winner::Brightest, {"brightest", "Brightest", "The brightest of all moments."}},
                           {Winner::Darkest, {"darkest", "Darkest", "The darkest of all moments."}}},
                          Winner::Brightest);
  ChoiceHandle<Top> top =
      list.choice<Top>({"top", "Top", "Mix", "Which layer lies on top.", false, When{"mix", {"layers"}}},
                       {{Top::Newest, {"newest", "Newest", "The latest moment."}},
                        {Top::Oldest, {"oldest", "Oldest", "The earliest moment."}}},
                       Top::Newest);
  ParameterHandle<bool> onlyWhatMoves = list.toggle(
      {"only-what-moves", "Only what moves", "Mix", "What stands still stays as sharp and as bright as it is now."});
  ParameterHandle<bool> keepBrightness = list.toggle(
      {"keep-brightness", "Keep brightness", "Mix", "Keeps the mean brightness that the picture had without repeats."});
  ChoiceHandle<Light> reckoned = reckonedIn(list, "Mix", Light::Display);
  ChoiceHandle<Missing> missing = list.choice<Missing>(
      {"where-moments-are-missing", "Where moments are missing", "Where moments are missing",
       "What is done where there are too few moments for all repeats."},
      {{Missing::FadeIn, {"fade-in", "Fade in", "Repeats come in one after another, softly."}},
       {Missing::LeaveOut, {"leave-out", "Leave out", "Repeats that are not there are not counted."}},
       {Missing::StandStill, {"stand-still", "Stand still", "The first or last frame stands in."}},
       {Missing::Trim, {"trim", "Trim", "These pictures are left off."}}},
      Missing::FadeIn);
};
const Parameters& of() {
  static const Parameters parameters;
  return parameters;
}

/// By how much a spacing grows from moment to moment.
Rational driftOf(const StageValues& values) {
  return Rational(1) - Rational::near(of().copySpeed(values));
}

/// How far from the present the farthest repeat is, in pictures of what enters, at a position in it.
double farOff(const StageValues& values, const VideoDescription& in, double position) {
  const double rate = in.rate.toDouble();
  return of().repeats(values) * (of().spacing(values) * rate + driftOf(values).toDouble() * position);
}

/// The pictures of what enters for which there is enough on all sides.
struct Full {
  std::int64_t first = 0, last = 0;
};
Full fullOf(const StageValues& values, const VideoDescription& in) {
  Full full{0, in.length - 1};
  if (in.endless) return full;
  const double n = of().repeats(values), drift = driftOf(values).toDouble(), far = farOff(values, in, 0);
  const auto last = static_cast<double>(in.length - 1);
  if (of().direction(values) != Direction::Ahead)
    full.first = n * drift < 1
                     ? static_cast<std::int64_t>(std::min(std::ceil(far / (1 - n * drift) - samePosition), last))
                     : in.length - 1;
  if (of().direction(values) != Direction::Behind)
    full.last = static_cast<std::int64_t>(std::max(0.0, std::floor((last - far) / (1 + n * drift) + samePosition)));
  full.last = std::max(full.last, full.first);
  return full;
}

VideoDescription echoed(const Stage& stage, const VideoDescription& in) {
  VideoDescription out = in;
  const StageValues values = stage.widestValues();
  if (of().missing(values) == Missing::Trim) {
    const Full full = fullOf(values, in);
    out.setLength(full.last - full.first + 1);
    if (in.course)
      out.course = courseAfter(in.course, {[first = full.first](double position) { return position + static_cast<double>(first); }});
  }
  const double own = of().copiesFps(values);
  out.endless = in.endless && !stage.varies() && driftOf(values) == Rational(0) &&
                (own == 0 || (in.seconds() * Rational::near(own)).den() == 1);
  return out;
}

/// The strengths of the repeats, nearest first: nearest·(farthest/nearest)^((k − 1)/(n − 1)).
std::vector<double> strengthsOf(const StageValues& values) {
  const auto n = static_cast<int>(of().repeats(values));
  const double nearest = of().nearest(values), farthest = of().farthest(values);
  std::vector<double> all;
  for (int k = 1; k <= n; ++k)
    all.push_back(nearest > 0 && n > 1 ? nearest * std::pow(farthest / nearest, static_cast<double>(k - 1) / (n - 1))
                                       : nearest);
  return all;
}

class EchoesMap : public MovingMap, public Mixing {
 public:
  EchoesMap(const Stage& stage, const VideoDescription& in, const Surroundings& around)
      : MovingMap(echoed(stage, in)),
        stage_(stage),
        moving_(stage, in, around),
        in_(in),
        first_(of().missing(stage.values) == Missing::Trim ? fullOf(stage.widestValues(), in).first : 0) {}

  Moment readAt(const Moment& moment) const override { return {moment.whole + first_, moment.rest, moment.off}; }
  double positionAt(double position) const override { return position + static_cast<double>(first_); }
  Reach readsBetween(double from, double to) const override { return {positionAt(from), positionAt(to)}; }
  PastTheEnds pastTheEnds() const override { return PastTheEnds::StandStill; }
  Reach reach() const override {
    const double far = farOff(stage_.widestValues(), in_, static_cast<double>(in_.length - 1));
    const Direction direction = of().direction(stage_.values);
    return {direction == Direction::Ahead ? 0 : -far, direction == Direction::Behind ? 0 : far};
  }
  std::vector<double> taps(double position) const override {
    std::vector<double> found;
    for (const Echo& echo : echoesAt(readAt(Moment::near(position)))) found.push_back(echo.moment.pictures());
    return found;
  }

  const Mixing* mixing() const override { return this; }
  std::vector<MixSource> sources(const Moment& moment) const override { return mixAt(moment).sources; }
  std::unique_ptr<Mixture> mixture(const Moment& moment, const MixShapes& shapes) const override {
    return weightedMixture(mixAt(moment), shapes, sums_);
  }

 private:
  struct Echo {
    Moment moment;  ///< of what enters, within it
    float weight;
    int rank = 0;  ///< −k behind, k ahead
  };
  StageValues valuesAt(const Moment& read) const {
    return moving_.at(read);
  }
  /// Those that count; nearer ones first. `read`: the present moment of what enters.
  std::vector<Echo> echoesAt(const Moment& read) const {
    const StageValues values = valuesAt(read);
    const Rational drift = driftOf(values), present = read.exact();
    const Rational spacing = Rational::near(of().spacing(values)) * in_.rate + drift * present;
    const double moreSpacing = drift.toDouble() * read.off;
    const Rational own = Rational::near(of().copiesFps(values));
    const Direction direction = of().direction(values);
    const Missing missing = of().missing(values);
    const auto last = static_cast<double>(in_.length - 1);
    std::vector<Echo> found;
    int k = 0;
    for (const double strength : strengthsOf(values)) {
      ++k;
      for (const int side : {-1, 1}) {
        if ((side < 0 && direction == Direction::Ahead) || (side > 0 && direction == Direction::Behind)) continue;
        Moment at = Moment::ofPictures(present + spacing * Rational(side * k), read.off + side * k * moreSpacing);
        if (own > Rational(0)) {
          const Rational steps = at.exact() / in_.rate * own;
          const double off = at.off / in_.rate.toDouble() * own.toDouble();
          const std::int64_t whole =
              off == 0 ? steps.floor() : steps.floor() + wholeBelow(steps.part().toDouble() + off);
          at = Moment::ofPictures(Rational(whole) / own * in_.rate);
        }
        double counts = strength;
        if (!in_.endless && missing != Missing::StandStill) {
          const double within = side < 0 ? at.pictures() : last - at.pictures();
          if (within < -samePosition) {
            if (missing != Missing::Trim) continue;
          } else if (const double apart = spacing.toDouble() + moreSpacing; missing == Missing::FadeIn && apart > 0) {
            counts *= std::clamp(within / apart, 0.0, 1.0);
          }
        }
        at = *foldMoment(at, in_.length, in_.endless ? PastTheEnds::GoRound : PastTheEnds::StandStill);
        found.push_back({at, static_cast<float>(counts), side * k});
      }
    }
    return found;
  }
  static BlendMode blendOf(const StageValues& values) {
    switch (of().mix(values)) {
      case Mix::Light:
        return of().belowWhite(values) ? BlendMode::BelowWhite : BlendMode::Sum;
      case Mix::Wins:
        return of().winner(values) == Winner::Brightest ? BlendMode::Brightest : BlendMode::Darkest;
      case Mix::Mean:
        return BlendMode::Mean;
      case Mix::Layers:
        // They are listed from the earliest on.
        return of().top(values) == Top::Newest ? BlendMode::Over : BlendMode::Under;
    }
    return BlendMode::Mean;
  }
  WeightedSources mixAt(const Moment& moment) const {
    const Moment read = readAt(moment);
    const StageValues values = valuesAt(read);
    std::vector<Echo> all{{read, static_cast<float>(of().present(values))}};
    for (const Echo& echo : echoesAt(read)) all.push_back(echo);
    // Layers are listed from the earliest on; where moments go round an end, by the repeats.
    if (of().mix(values) == Mix::Layers)
      std::stable_sort(all.begin(), all.end(), [](const Echo& a, const Echo& b) { return a.rank < b.rank; });
    const auto present = static_cast<std::size_t>(
        std::find_if(all.begin(), all.end(), [](const Echo& echo) { return echo.rank == 0; }) - all.begin());
    WeightedSources mix;
    for (const Echo& echo : all) {
      mix.sources.push_back({0, echo.moment});
      mix.weights.push_back(echo.weight);
    }
    mix.present = present;
    mix.onlyWhatMoves = of().onlyWhatMoves(values);
    mix.recipe.blend = blendOf(values);
    mix.recipe.light = of().reckoned(values);
    if (of().keepBrightness(values)) mix.recipe.brightnessOf = present;
    return mix;
  }

  Stage stage_;
  MovingValues moving_;
  VideoDescription in_;
  std::int64_t first_;
  mutable RunningSums sums_;
};

class Echoes : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {"echoes",
                                               "Echoes",
                                               "The picture together with other moments, each of its own strength.",
                                               of().list.described(),
                                               {},
                                               {{"Repeats", false, 2}, {"Mix", false, 2}, {"Where moments are missing", false, 2}}};
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings& around) const override {
    return std::make_unique<EchoesMap>(stage, incoming, around);
  }

  std::optional<std::string> liveTrouble(const Stage& stage) const override {
    if (of().missing(stage.values) == Missing::Trim)
      return "Trimming leaves a beginning out; a camera has none. Let it fade in where moments are missing: use “fade in”.";
    if (of().copySpeed(stage.leastValues()) == 1) return std::nullopt;
    return "Slower copies fall ever further behind, beyond what the ring holds. Leave the copy speed at 100 % on a camera.";
  }

  std::string summary(const StageValues& values, const VideoDescription&) const override {
    return fixedText(of().repeats(values), 0) + " × " + secondsText(of().spacing(values)) + " " + sideOf(of().direction(values));
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in, Rational) const override {
    std::vector<StageNote> found;
    const double rate = in.rate.toDouble(), frames = of().spacing(values) * rate, drift = driftOf(values).toDouble();
    if (drift > 0)
      found.push_back({"Repeats", "The spacing grows from " + secondsText(of().spacing(values)) + " to " +
                                      secondsText(of().spacing(values) + drift * in.seconds().toDouble()) + " at the end."});
    else if (std::abs(frames - std::round(frames)) > samePosition)
      found.push_back({"Repeats", "A spacing is " + fixedText(frames, 2) + " frames: the footage's in-between says what lies between two."});
    double sum = of().present(values);
    for (const double strength : strengthsOf(values))
      sum += strength * (of().direction(values) == Direction::Both ? 2 : 1);
    if (of().mix(values) == Mix::Light && !of().belowWhite(values) && sum > 1.01 && !of().keepBrightness(values) &&
        !of().onlyWhatMoves(values))
      found.push_back({"Mix", "What stands still becomes " + fixedText(sum, 1) + " times as bright: keep brightness, or only what moves."});
    found.push_back({"Where moments are missing", whatIsMissing(values, in)});
    return found;
  }

 private:
  static std::string whatIsMissing(const StageValues& values, const VideoDescription& in) {
    if (in.endless) return "The clip goes round: there are moments enough everywhere.";
    const Full full = fullOf(values, in);
    const double rate = in.rate.toDouble();
    const double before = static_cast<double>(full.first) / rate,
                 after = static_cast<double>(in.length - 1 - full.last) / rate;
    if (before == 0 && after == 0) return "There are moments enough everywhere.";
    std::string where;
    if (before > 0) where = "the first " + secondsText(before, 2);
    if (after > 0) where += (where.empty() ? "the last " : " and the last ") + secondsText(after, 2);
    where[0] = static_cast<char>(where[0] - 'a' + 'A');
    switch (of().missing(values)) {
      case Missing::Trim:
        return where + " are left off: the result is that much shorter.";
      case Missing::StandStill:
        return where + " take an end frame for what is missing.";
      case Missing::FadeIn:
        return where + " fade the repeats in.";
      case Missing::LeaveOut:
        return where + " have fewer repeats.";
    }
    return where;
  }

  static const char* sideOf(Direction direction) {
    switch (direction) {
      case Direction::Behind:
        return "behind";
      case Direction::Ahead:
        return "ahead";
      case Direction::Both:
        return "on both sides";
    }
    return "";
  }
};

}  // namespace

const StageKind& echoes() {
  static const Echoes kind;
  return kind;
}

}  // namespace molten
