#include "core/stages/echoes.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

#include "core/stages/common_parameters.h"
#include "core/stages/through.h"
#include "core/stages/weighted_mixture.h"

namespace molten {
namespace {

enum Parameter : std::size_t {
  Repeats,
  Spacing,
  Direction,
  Drift,
  OwnRate,
  Falloff,
  Lead,
  Combine,
  LightIn,
  ExposureHold,
  UntilFull,
  Between
};
enum Directions : std::size_t { Behind, Ahead, Both };
enum Fillings : std::size_t { Trim, HoldEnds, FadeIn, LeaveOut };

constexpr double sameFrame = 1e-6;

/// How far from the present the farthest repeat is, in pictures of what enters, at a position in it.
double farthest(const StageValues& values, const VideoDescription& in, double position) {
  const double rate = in.rate.toDouble();
  return numberIn(values, Repeats) * (numberIn(values, Spacing) * rate + numberIn(values, Drift) * position);
}

/// The pictures of what enters for which there is enough on all sides.
struct Full {
  std::int64_t first = 0, last = 0;
};
Full fullOf(const StageValues& values, const VideoDescription& in) {
  Full full{0, in.length - 1};
  if (in.endless) return full;
  const double n = numberIn(values, Repeats), drift = numberIn(values, Drift), far = farthest(values, in, 0);
  const auto last = static_cast<double>(in.length - 1);
  if (choiceIn(values, Direction) != Ahead)
    full.first = n * drift < 1 ? static_cast<std::int64_t>(std::min(std::ceil(far / (1 - n * drift) - sameFrame), last))
                               : in.length - 1;
  if (choiceIn(values, Direction) != Behind)
    full.last = static_cast<std::int64_t>(std::max(0.0, std::floor((last - far) / (1 + n * drift) + sameFrame)));
  full.last = std::max(full.last, full.first);
  return full;
}

VideoDescription echoed(const Stage& stage, const VideoDescription& in) {
  VideoDescription out = in;
  const StageValues values = stage.widestValues();
  if (choiceIn(values, UntilFull) == Trim) {
    const Full full = fullOf(values, in);
    out.length = full.last - full.first + 1;
  }
  const double own = numberIn(values, OwnRate);
  out.endless = in.endless && stage.keys.empty() && numberIn(values, Drift) == 0 &&
                (own == 0 || (in.seconds() * Rational::near(own)).den() == 1);
  return out;
}

class EchoesMap : public TimeMap, public Mixing {
 public:
  EchoesMap(const Stage& stage, const VideoDescription& in)
      : TimeMap(echoed(stage, in)),
        stage_(stage),
        in_(in),
        first_(choiceIn(stage.values, UntilFull) == Trim ? fullOf(stage.widestValues(), in).first : 0) {}

  bool wholePicture() const override { return true; }
  MomentRead readAt(const Moment& moment) const override {
    return {{moment.whole + first_, moment.rest.toDouble()}, {}, 0};
  }
  double roughly(double position) const override { return position + static_cast<double>(first_); }
  PastTheEnds pastTheEnds() const override { return PastTheEnds::Hold; }
  Reach reach() const override {
    const double far = farthest(stage_.widestValues(), in_, static_cast<double>(in_.length - 1));
    const std::size_t direction = choiceIn(stage_.values, Direction);
    return {direction == Ahead ? 0 : -far, direction == Behind ? 0 : far};
  }
  std::vector<double> taps(double position) const override {
    std::vector<double> found;
    for (const Echo& echo : echoesAt(position + static_cast<double>(first_))) found.push_back(echo.position);
    return found;
  }

  const Mixing* mixing() const override { return this; }
  std::vector<Chain> ways() const override {
    return {{through(inBetweenOf(stage_.values[Between]), PastTheEnds::Hold)}};
  }
  std::vector<MixSource> sources(const Moment& moment) const override { return mixAt(moment).sources; }
  std::unique_ptr<Mixture> mixture(const Moment& moment, const MixShapes& shapes) const override {
    return weightedMixture(mixAt(moment), shapes, sums_);
  }

 private:
  struct Echo {
    double position;  ///< in pictures of what enters
    float weight;
  };
  /// Those that count; nearer ones first.
  std::vector<Echo> echoesAt(double position) const {
    const double rate = in_.rate.toDouble(), seconds = position / rate;
    const StageValues values = stage_.keys.empty() ? stage_.values : stage_.valuesAt(seconds);
    const auto repeats = static_cast<int>(numberIn(values, Repeats));
    const double spacing = numberIn(values, Spacing) * rate + numberIn(values, Drift) * position;
    const double own = numberIn(values, OwnRate);
    const std::size_t direction = choiceIn(values, Direction), filling = choiceIn(values, UntilFull);
    const auto last = static_cast<double>(in_.length - 1);
    std::vector<Echo> found;
    double weight = 1;
    for (int k = 1; k <= repeats; ++k) {
      weight *= numberIn(values, Falloff);
      for (const int side : {-1, 1}) {
        if ((side < 0 && direction == Ahead) || (side > 0 && direction == Behind)) continue;
        double at = position + side * k * spacing, counts = weight;
        if (own > 0) at = std::floor(at / rate * own + sameFrame) / own * rate;
        if (!in_.endless && filling != HoldEnds) {
          const double within = side < 0 ? at : last - at;
          if (within < -sameFrame) {
            if (filling != Trim) continue;
          } else if (filling == FadeIn && spacing > 0) {
            counts *= std::clamp(within / spacing, 0.0, 1.0);
          }
        }
        found.push_back({at, static_cast<float>(counts)});
      }
    }
    return found;
  }
  WeightedSources mixAt(const Moment& moment) const {
    const double position = static_cast<double>(moment.whole + first_) + moment.rest.toDouble();
    const StageValues values = stage_.keys.empty() ? stage_.values : stage_.valuesAt(position / in_.rate.toDouble());
    WeightedSources mix;
    mix.sources.push_back({0, {moment.whole + first_, moment.rest}});
    mix.weights.push_back(static_cast<float>(numberIn(values, Lead)));
    for (const Echo& echo : echoesAt(position)) {
      mix.sources.push_back({0, momentNear(echo.position)});
      mix.weights.push_back(echo.weight);
    }
    mix.recipe.combining = static_cast<Combining>(choiceIn(values, Combine));
    mix.recipe.light = static_cast<Light>(choiceIn(values, LightIn));
    if (std::get<bool>(values[ExposureHold])) mix.recipe.brightnessOf = 0;
    return mix;
  }

  Stage stage_;
  VideoDescription in_;
  std::int64_t first_;
  mutable RunningSums sums_;
};

class Echoes : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "echoes",
        "Echoes",
        "The picture together with other moments, each weaker than the last.",
        {
            {"repeats", "Repeats", "Repeats", "How many moments are added on each side.", false,
             NumberDescription{Unit::None, 1, 60, 6, 1, 24, 0, Tense::None, true}},
            {"spacing", "Spacing", "Repeats", "Time from one repeat to the next.", true,
             NumberDescription{Unit::Seconds, 0, 3600, 0.1, 0.01, 1, 3, Tense::None}},
            {"direction", "Direction", "Repeats", "Which moments are repeated.", false,
             ChoicesDescription{{{"behind", "Behind", "Moments that have been."},
                                 {"ahead", "Ahead", "Moments that are to come."},
                                 {"both", "Both", "As many on either side."}},
                                Behind}},
            {"drift", "Drift", "Repeats", "How much the spacing grows with time: at 1 % a repeat runs at 99 % speed.",
             false, NumberDescription{Unit::Percent, 0, 0.5, 0, 0.001, 0.05, 2, Tense::None}},
            {"own-rate", "Own rate", "Repeats", "Pictures a second of the repeats, each held until the next.", false,
             NumberDescription{Unit::PerSecond, 0, 1000, 0, 1, 30, 2, Tense::None, false, "off"}},
            {"falloff", "Falloff", "Weights", "What is left of the weight from one repeat to the next.", true,
             NumberDescription{Unit::Percent, 0, 1, 0.75, 0.01, 1, 1, Tense::None}},
            {"lead", "Lead", "Weights", "Weight of the present moment.", true,
             NumberDescription{Unit::Percent, 0, 4, 1, 0.05, 1, 1, Tense::None}},
            {"combine", "Combine", "Mix", "How the moments become one picture.", false,
             ChoicesDescription{{{"add", "Add", "Light on light: what moves leaves its light behind."},
                                 {"screen", "Screen", "Light on light, never beyond white."},
                                 {"lighten", "Lighten", "The brightest of all moments at each place."},
                                 {"darken", "Darken", "The darkest of all moments at each place."},
                                 {"average", "Average", "All moments in one exposure."},
                                 {"over", "Over", "Each repeat laid over those nearer to now."},
                                 {"under", "Under", "Each repeat laid under those nearer to now."}},
                                2}},
            {"light", "Light", "Mix", "What is reckoned with.", false,
             ChoicesDescription{{{"display", "Display", "Values as they are shown."},
                                 {"linear", "Linear", "Amounts of light, as a lens would add them up."}},
                                0}},
            {"exposure-hold", "Exposure hold", "Mix", "Keeps the mean brightness that the picture had without repeats.",
             false, ToggleDescription{false}},
            {"until-full", "Until full", "Until full", "What is done where there are too few moments for all repeats.",
             false,
             ChoicesDescription{{{"trim", "Trim", "These pictures are left off."},
                                 {"hold", "Hold", "The first or last frame stands in."},
                                 {"fade-in", "Fade in", "Repeats come in one after another, softly."},
                                 {"leave-out", "Leave out", "Repeats that are not there are not counted."}},
                                FadeIn}},
            inBetweenParameter(),
        },
        {},
    };
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings&) const override {
    return std::make_unique<EchoesMap>(stage, incoming);
  }

  std::string summary(const StageValues& values, const VideoDescription&) const override {
    static constexpr const char* sides[] = {"behind", "ahead", "on both sides"};
    char text[96];
    std::snprintf(text, sizeof text, "%.0f × %s %s", numberIn(values, Repeats),
                  secondsText(numberIn(values, Spacing)).c_str(), sides[choiceIn(values, Direction)]);
    return text;
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in, Rational) const override {
    std::vector<StageNote> found;
    const double rate = in.rate.toDouble(), frames = numberIn(values, Spacing) * rate;
    char text[200];
    if (numberIn(values, Drift) > 0) {
      std::snprintf(text, sizeof text, "The spacing grows from %s to %s at the end.",
                    secondsText(numberIn(values, Spacing)).c_str(),
                    secondsText(numberIn(values, Spacing) + numberIn(values, Drift) * in.seconds().toDouble()).c_str());
      found.push_back({"Repeats", text});
    } else if (std::abs(frames - std::round(frames)) > sameFrame) {
      std::snprintf(text, sizeof text, "A spacing is %.2f frames: in-between frames say what lies between two.",
                    frames);
      found.push_back({"Repeats", text});
    }
    const std::size_t combining = choiceIn(values, Combine);
    double sum = numberIn(values, Lead), weight = 1;
    for (int k = 1; k <= static_cast<int>(numberIn(values, Repeats)); ++k) {
      weight *= numberIn(values, Falloff);
      sum += weight * (choiceIn(values, Direction) == Both ? 2 : 1);
    }
    if (combining == 0 && sum > 1.01 && !std::get<bool>(values[ExposureHold])) {
      std::snprintf(text, sizeof text, "What stands still becomes %.1f times as bright: exposure hold keeps it.", sum);
      found.push_back({"Mix", text});
    }
    found.push_back({"Until full", untilFull(values, in)});
    return found;
  }

 private:
  static std::string untilFull(const StageValues& values, const VideoDescription& in) {
    if (in.endless) return "The clip goes round: there are moments enough everywhere.";
    const Full full = fullOf(values, in);
    const double rate = in.rate.toDouble();
    const double before = static_cast<double>(full.first) / rate,
                 after = static_cast<double>(in.length - 1 - full.last) / rate;
    if (before == 0 && after == 0) return "There are moments enough everywhere.";
    std::string where;
    if (before > 0) where = "the first " + secondsText(before, 2);
    if (after > 0) where += (where.empty() ? "the last " : " and the last ") + secondsText(after, 2);
    static constexpr const char* done[] = {" are left off: the result is that much shorter.",
                                           " hold an end frame for what is missing.", " fade the repeats in.",
                                           " have fewer repeats."};
    where[0] = static_cast<char>(where[0] - 'a' + 'A');
    return where + done[choiceIn(values, UntilFull)];
  }
};

}  // namespace

const StageKind& echoes() {
  static const Echoes kind;
  return kind;
}

}  // namespace molten
