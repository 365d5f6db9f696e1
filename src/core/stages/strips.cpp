#include "core/stages/strips.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

#include "core/stages/common_parameters.h"
#include "core/stages/strips_mixture.h"

namespace molten {
namespace {

enum Parameter : std::size_t {
  Shape,
  CutBy,
  Count,
  Width,
  Rows,
  Angle,
  Centre,
  Offset,
  Spacing,
  Stagger,
  Order,
  Seed,
  Curve,
  Feather,
  Rule,
  RuleColour,
  PastEnds,
  Between
};
enum Cutting : std::size_t { ByCount, ByWidth };
enum Spacings : std::size_t { Each, Spread };

StripLayout layoutOf(const StageValues& values, const VideoDescription& in) {
  StripLayout::Cut cut;
  cut.shape = static_cast<StripShape>(choiceIn(values, Shape));
  cut.count = static_cast<int>(numberIn(values, Count));
  cut.rows = static_cast<int>(numberIn(values, Rows));
  if (choiceIn(values, CutBy) == ByWidth) cut.width = numberIn(values, Width);
  cut.degrees = numberIn(values, Angle);
  cut.centre = std::get<Place>(values[Centre]);
  cut.offset = numberIn(values, Offset);
  return {cut, in};
}

std::vector<double> ranksOf(const StageValues& values, int count) {
  return stripRanks(count, static_cast<StripOrder>(choiceIn(values, Order)),
                    static_cast<std::uint32_t>(numberIn(values, Seed)), std::get<CurvePoints>(values[Curve]));
}

/// In frames of what enters.
double staggerOf(const StageValues& values, const VideoDescription& in, const std::vector<double>& ranks) {
  if (choiceIn(values, Spacing) == Each) return numberIn(values, Stagger) * in.rate.toDouble();
  return static_cast<double>(in.length) / (*std::max_element(ranks.begin(), ranks.end()) + 1);
}

class StripsAt : public Displacement {
 public:
  StripsAt(const StageValues& values, const VideoDescription& in, bool other)
      : layout_(layoutOf(values, in)), other_(other) {
    const auto ranks = ranksOf(values, layout_.count());
    const double stagger = staggerOf(values, in, ranks);
    for (const double rank : ranks) displaced_.push_back(rank == 0 ? 0 : -rank * stagger);
  }
  void row(const PlaneSites& sites, int row, std::span<double> out) const override {
    const double y = sites.y0 + row * sites.stepY;
    for (int i = 0; i < sites.width; ++i) {
      const double x = sites.x0 + i * sites.stepX;
      int strip;
      if (other_) {
        const auto at = layout_.at(x, y);
        strip = at.other < 0 ? at.strip : at.other;
      } else {
        strip = layout_.stripAt(x, y);
      }
      out[static_cast<std::size_t>(i)] = displaced_[static_cast<std::size_t>(strip)];
    }
  }

 private:
  StripLayout layout_;
  bool other_;
  std::vector<double> displaced_;
};

class StripsMap : public TimeMap, public Mixing {
 public:
  StripsMap(const Stage& stage, const VideoDescription& in, bool other)
      : TimeMap([&] {
          VideoDescription out = in;
          out.endless = in.endless && stage.keys.empty();
          return out;
        }()),
        stage_(stage),
        other_(other),
        mixes_(!other && (numberIn(stage.values, Feather) > 0 || numberIn(stage.values, Rule) > 0)) {
    if (steady()) still_ = std::make_shared<StripsAt>(stage.values, outgoing(), other);
    // Keys may move the strips and change the stagger, not their ranks.
    const auto ranks = ranksOf(stage.values, layoutOf(stage.values, in).count());
    const double most = *std::max_element(ranks.begin(), ranks.end()),
                 far = most * staggerOf(stage.widestValues(), in, ranks);
    reach_ = {std::min(0.0, -far), std::max(0.0, -far)};
    if (!steady()) reach_ = {-std::abs(far), std::abs(far)};
  }

  std::shared_ptr<const Displacement> displacement(const Moment& moment) const override {
    if (still_) return still_;
    return std::make_shared<StripsAt>(valuesAt(moment), outgoing(), other_);
  }
  bool steady() const override { return stage_.keys.empty(); }
  Reach reach() const override { return reach_; }
  PastTheEnds pastTheEnds() const override { return pastTheEndsOf(stage_.values[PastEnds]); }
  InBetween inBetween() const override { return inBetweenOf(stage_.values[Between]); }

  const Mixing* mixing() const override { return mixes_ ? this : nullptr; }
  std::vector<Chain> ways() const override {
    Stage plain = stage_, beyond = neighboursOf(stage_);
    plain.values[Feather] = 0.0, plain.values[Rule] = 0.0;
    if (numberIn(stage_.values, Feather) > 0) return {{plain}, {beyond}};
    return {{plain}};
  }
  std::vector<MixSource> sources(const Moment& moment) const override {
    std::vector<MixSource> both{{0, moment}, {1, moment}};
    if (numberIn(stage_.values, Feather) <= 0) both.pop_back();
    return both;
  }
  std::unique_ptr<Mixture> mixture(const Moment& moment, const MixShapes& shapes) const override {
    const StageValues values = valuesAt(moment);
    const StripLayout layout = layoutOf(values, outgoing());
    const StripBorders borders{numberIn(values, Feather) * layout.width(), numberIn(values, Rule),
                               std::get<Colour>(values[RuleColour])};
    return stripsMixture(sources(moment), layout, borders, shapes);
  }

 private:
  StageValues valuesAt(const Moment& moment) const {
    return stage_.keys.empty() ? stage_.values : stage_.valuesAt(moment.seconds(outgoing().rate).toDouble());
  }

  Stage stage_;
  bool other_, mixes_;
  std::shared_ptr<const StripsAt> still_;
  Reach reach_;
};

class Strips : public StageKind {
 public:
  explicit Strips(bool other) : other_(other) {}
  const StageDescription& description() const override {
    static const StageDescription described = {
        "strips",
        "Strips",
        "The frame cut into strips, each at a moment of its own.",
        {
            {"shape", "Shape", "Strips", "How the frame is cut.", false,
             ChoicesDescription{{{"bars", "Bars", "Straight strips, at any angle."},
                                 {"rings", "Rings", "Rings about a centre."},
                                 {"grid", "Grid", "Columns and rows."}},
                                0}},
            {"cut-by", "Cut by", "Strips", "What says how wide a strip is.", false,
             ChoicesDescription{{{"count", "Count", "So many strips share the frame."},
                                 {"width", "Width", "Each is so many pixels wide; the last one has what is left."}},
                                ByCount}},
            {"count", "Count", "Strips", "How many strips, or columns of a grid.", false,
             NumberDescription{Unit::None, 1, 4000, 20, 1, 60, 0, Tense::None, true},
             ParameterDescription::Condition{"cut-by", {"count"}}},
            {"width", "Width", "Strips", "Of a strip.", false,
             NumberDescription{Unit::Pixels, 1, 16384, 64, 1, 400, 0, Tense::None},
             ParameterDescription::Condition{"cut-by", {"width"}}},
            {"rows", "Rows", "Strips", "Of a grid.", false,
             NumberDescription{Unit::None, 1, 1000, 6, 1, 20, 0, Tense::None, true},
             ParameterDescription::Condition{"shape", {"grid"}}},
            {"angle", "Angle", "Strips", "Which way the strips follow each other: 0° to the right, 90° down.", false,
             NumberDescription{Unit::Degrees, -360, 360, 0, 5, 180, 1, Tense::None},
             ParameterDescription::Condition{"shape", {"bars"}}},
            {"centre", "Centre", "Strips", "Of the rings.", false, PlaceDescription{{0.5, 0.5}},
             ParameterDescription::Condition{"shape", {"rings"}}},
            {"offset", "Offset", "Strips", "How far the strips have travelled; 100 % is once round.", true,
             NumberDescription{Unit::Percent, -100, 100, 0, 0.01, 1, 1, Tense::None}},
            {"spacing", "Spacing", "Time", "What says how far apart neighbours are in time.", false,
             ChoicesDescription{
                 {{"each", "Each", "By the stagger."}, {"spread", "Over the clip", "Evenly over all that there is."}},
                 Each}},
            {"stagger", "Stagger", "Time", "How far each strip is behind the one before; below 0 it is ahead.", true,
             NumberDescription{Unit::Seconds, -3600, 3600, 0.1, 0.01, 1, 3, Tense::None},
             ParameterDescription::Condition{"spacing", {"each"}}},
            {"order", "Order", "Time", "Which strip comes first.", false,
             ChoicesDescription{{{"left", "Left", "The first strip is at now."},
                                 {"right", "Right", "The last strip is at now."},
                                 {"from-middle", "From middle", "The middle is at now."},
                                 {"to-middle", "To middle", "The outer ones are at now."},
                                 {"shuffled", "Shuffled", "By lot, as the seed says."},
                                 {"curve", "Curve", "As far behind as the curve is high."}},
                                0}},
            {"seed", "Seed", "Time", "Another number, another order.", false,
             NumberDescription{Unit::None, 0, 9999, 1, 1, 100, 0, Tense::None, true},
             ParameterDescription::Condition{"order", {"shuffled"}}},
            {"curve", "Curve", "Time", "From the first strip to the last: how far behind.", false, CurveDescription{},
             ParameterDescription::Condition{"order", {"curve"}}},
            {"feather", "Feather", "Edges", "How softly neighbours go into each other, in widths of a strip.", false,
             NumberDescription{Unit::Percent, 0, 1, 0, 0.05, 1, 0, Tense::None}},
            {"rule", "Rule", "Edges", "Width of a line between strips.", false,
             NumberDescription{Unit::Pixels, 0, 200, 0, 1, 20, 0, Tense::None, false, "none"}},
            {"rule-colour", "Rule colour", "Edges", "Of the lines.", false, ColourDescription{{0, 0, 0}}},
            pastTheEndsParameter(),
            inBetweenParameter(),
        },
        {},
    };
    static const StageDescription neighbours = [] {
      StageDescription same = described;
      same.id = "strip-neighbours";
      return same;
    }();
    return other_ ? neighbours : described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings&) const override {
    return std::make_unique<StripsMap>(stage, incoming, other_);
  }

  std::optional<Stage> contrast(const Stage& stage) const override {
    if (layoutOf(stage.values, {{1920, 1080}}).count() < 2) return std::nullopt;
    return neighboursOf(stage);
  }

  std::string summary(const StageValues& values, const VideoDescription& in) const override {
    const int count = layoutOf(values, in).count();
    if (choiceIn(values, Spacing) == Spread) return std::to_string(count) + " strips over the clip";
    return std::to_string(count) + " × " + secondsText(numberIn(values, Stagger));
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in, Rational) const override {
    const StripLayout layout = layoutOf(values, in);
    const auto ranks = ranksOf(values, layout.count());
    const double stagger = staggerOf(values, in, ranks), rate = in.rate.toDouble();
    const double most = *std::max_element(ranks.begin(), ranks.end());
    std::vector<StageNote> found;
    char text[240];
    if (layout.count() > 1) {
      std::snprintf(text, sizeof text, "%d strips, %.4g px each.", layout.count(), layout.width());
      found.push_back({"Strips", text});
    }
    std::snprintf(text, sizeof text, "Neighbours are %.4g frames apart; the last one is %s %s.", std::abs(stagger),
                  secondsText(std::abs(most * stagger / rate), 2).c_str(), stagger < 0 ? "ahead" : "behind");
    found.push_back({"Time", text});
    if (std::abs(stagger) < 0.5 && layout.count() > 1)
      found.push_back({"Time", "Less than half a frame from one strip to the next: some show the same frame."});
    if (choiceIn(values, Spacing) == Spread && !in.endless)
      found.push_back({"Time", "With a Turnaround before it the strips go round without a seam."});
    else if (in.endless)
      found.push_back(
          {"Time", "The clip goes round: the result is a loop of " + secondsText(in.seconds().toDouble(), 2) + "."});
    return found;
  }

  std::vector<StageHandle> handles(const StageValues& values, const VideoDescription&) const override {
    if (choiceIn(values, Shape) != static_cast<std::size_t>(StripShape::Rings)) return {};
    return {{std::get<Place>(values[Centre]), {}, "centre", {}}};
  }
  StageValues withHandle(StageValues values, std::size_t, Place place, const VideoDescription&) const override {
    values[Centre] = place;
    return values;
  }

 private:
  bool other_;
};

const StageKind& neighbouring() {
  static const Strips kind(true);
  return kind;
}

}  // namespace

const StageKind& strips() {
  static const Strips kind(false);
  return kind;
}

Stage neighboursOf(const Stage& strips) {
  Stage stage = strips;
  stage.kind = &neighbouring();
  return stage;
}

}  // namespace molten
