#include "core/stages/strips.h"

#include <algorithm>
#include <cmath>

#include "core/number_text.h"
#include "core/stages/common_parameters.h"
#include "core/stages/direction_handle.h"
#include "core/stages/moving_values.h"
#include "core/stages/kept_displacements.h"
#include "core/stages/strips_mixture.h"
#include "core/stages/tiles_mixture.h"

namespace molten {
namespace {

enum class CutBy { Count, Width };
enum class Gap { ByLength, OverTheClip };
using When = ParameterDescription::Condition;

constexpr int mostTaps = 12;

struct Parameters {
  ParameterList list;
  ChoiceHandle<StripShape> shape = list.choice<StripShape>(
      {"shape", "Shape", "Strips", "How the frame is cut."},
      {{StripShape::Bars, {"bars", "Bars", "Straight strips, at any angle."}},
       {StripShape::Rings, {"rings", "Rings", "Rings about a centre."}},
       {StripShape::Grid, {"grid", "Grid", "Columns and rows."}},
       {StripShape::Tiles, {"tiles", "Tiles", "Each cell shows the whole picture, smaller, at its own moment."}}},
      StripShape::Bars);
  ChoiceHandle<CutBy> cutBy = list.choice<CutBy>(
      {"cut-by", "Cut by", "Strips", "What says how wide a strip is.", false, When{"shape", {"bars", "rings", "grid"}}},
      {{CutBy::Count, {"count", "Count", "So many strips share the frame."}},
       {CutBy::Width, {"width", "Width", "Each is so many pixels wide; the last one has what is left."}}},
      CutBy::Count);
  ParameterHandle<double> count = list.number(
      {"count", "Count", "Strips", "How many strips, or columns of a grid.", false, When{"cut-by", {"count"}}},
      {Unit::None, 1, 4000, 20, 1, 60, 0, Tense::None, true});
  ParameterHandle<double> width =
      list.number({"width", "Width", "Strips", "Of a strip.", false, When{"cut-by", {"width"}}},
                  {Unit::Pixels, 1, 16384, 64, 1, 400, 0, Tense::None});
  ParameterHandle<double> rows =
      list.number({"rows", "Rows", "Strips", "Of a grid or of tiles.", false, When{"shape", {"grid", "tiles"}}},
                  {Unit::None, 1, 1000, 6, 1, 20, 0, Tense::None, true});
  ParameterHandle<double> angle =
      list.number({"angle", "Angle", "Strips", "Which way the strips follow each other: 0° to the right, 90° down.",
                   false, When{"shape", {"bars"}}},
                  {Unit::Degrees, -360, 360, 0, 5, 180, 1, Tense::None});
  ParameterHandle<Place> centre =
      list.place({"centre", "Centre", "Strips", "Of the rings.", false, When{"shape", {"rings"}}}, {0.5, 0.5});
  ParameterHandle<double> offset =
      list.number({"offset", "Offset", "Strips", "How far the strips have travelled; 100 % is once round.", true,
                   When{"shape", {"bars", "rings", "grid"}}},
                  {Unit::Percent, -100, 100, 0, 0.01, 1, 1, Tense::None});
  ChoiceHandle<Gap> gap =
      list.choice<Gap>({"gap", "Gap", "Time", "What says how far apart neighbours are in time.", false,
                        When{"delays", {"typed"}, true}, Figure::Borders},
                       {{Gap::ByLength, {"by-length", "By length", "As long as the stagger says."}},
                        {Gap::OverTheClip, {"over-the-clip", "Over the clip", "Evenly over all that there is."}}},
                       Gap::ByLength);
  ParameterHandle<double> stagger =
      list.number({"stagger", "Stagger", "Time", "How far each strip is behind the one before; below 0 it is ahead.",
                   true, When{"gap", {"by-length"}}},
                  {Unit::Frames, -100000, 100000, 3, 1, 30, 2, Tense::None});
  ChoiceHandle<NowStandsAt> nowStandsAt = list.choice<NowStandsAt>(
      {"now-stands-at", "Now stands at", "Time", "Which strip shows the present moment.", false,
       When{"delays", {"even", "drawn"}}},
      {{NowStandsAt::First, {"first", "First strip", "The first strip."}},
       {NowStandsAt::Last, {"last", "Last strip", "The last strip."}},
       {NowStandsAt::Middle, {"middle", "Middle", "The middle; both sides are behind."}},
       {NowStandsAt::BothEdges, {"both-edges", "Both edges", "The outer ones; the middle is behind."}}},
      NowStandsAt::First);
  ChoiceHandle<StripDelays> delays =
      list.choice<StripDelays>({"delays", "Delays", "Time", "How the delay goes on from there."},
                               {{StripDelays::Even, {"even", "Even", "By one stagger from strip to strip."}},
                                {StripDelays::ByLot, {"by-lot", "By lot", "By lot, as the seed says."}},
                                {StripDelays::Drawn, {"drawn", "Drawn", "As far behind as the curve is high."}},
                                {StripDelays::Typed, {"typed", "Typed", "Each by its own tap."}}},
                               StripDelays::Even);
  ParameterHandle<double> seed =
      list.number({"seed", "Seed", "Time", "Another number, another lot.", false, When{"delays", {"by-lot"}}},
                  {Unit::None, 0, 9999, 1, 1, 100, 0, Tense::None, true});
  ParameterHandle<CurvePoints> curve =
      list.curve({"curve", "Curve", "Time", "From the strip at now to the farthest one: how far behind.", false,
                  When{"delays", {"drawn"}}});
  ParameterHandle<double> tapCount = list.number(
      {"taps", "Taps", "Time", "How many delays are typed; strips take them in turn.", false, When{"delays", {"typed"}}},
      {Unit::None, 1, mostTaps, 4, 1, mostTaps, 0, Tense::None, true});
  std::vector<ParameterHandle<double>> taps = [this] {
    std::vector<ParameterHandle<double>> all;
    for (int k = 1; k <= mostTaps; ++k) {
      const std::string number = std::to_string(k);
      all.push_back(list.number({"tap-" + number, "Tap " + number, "Time", "How far behind now.", true, When{"taps", {}, false, double(k)}},
                                secondsNumber(0, 3600, k - 1, 0.1, 10)));
    }
    return all;
  }();
  ParameterHandle<double> feather =
      list.number({"feather", "Feather", "Edges", "How softly neighbours go into each other, in widths of a strip.",
                   false, When{"shape", {"bars", "rings", "grid"}}},
                  {Unit::Percent, 0, 1, 0, 0.05, 1, 0, Tense::None});
  ParameterHandle<double> line =
      list.number({"divider-line", "Divider line", "Edges", "Width of a line between strips."},
                  {Unit::Pixels, 0, 200, 0, 1, 20, 0, Tense::None, false, "none"});
  ParameterHandle<Colour> lineColour = list.colour(
      {"line-colour", "Line colour", "Edges", "Of the divider lines.", true, When{"divider-line"}}, {0, 0, 0});
  ChoiceHandle<PastTheEnds> pastTheEnds = pastTheEndsIn(list);
};
const Parameters& of() {
  static const Parameters parameters;
  return parameters;
}

bool tiled(const StageValues& values) {
  return of().shape(values) == StripShape::Tiles;
}
bool feathered(const StageValues& values) {
  return !tiled(values) && of().feather(values) > 0;
}

StripLayout layoutOf(const StageValues& values, const VideoDescription& in) {
  StripLayout::Cut cut;
  cut.shape = of().shape(values);
  cut.count = static_cast<int>(of().count(values));
  cut.rows = static_cast<int>(of().rows(values));
  if (!tiled(values)) {
    if (of().cutBy(values) == CutBy::Width) cut.width = of().width(values);
    cut.offset = of().offset(values);
  }
  cut.degrees = of().angle(values);
  cut.centre = of().centre(values);
  return {cut, in};
}

bool typed(const StageValues& values) {
  return of().delays(values) == StripDelays::Typed;
}

/// In staggers; of typed delays in pictures of what enters.
std::vector<double> ranksOf(const StageValues& values, const VideoDescription& in, int count) {
  if (typed(values)) {
    std::vector<double> ranks;
    for (int i = 0; i < count; ++i)
      ranks.push_back(of().taps[static_cast<std::size_t>(i) % static_cast<std::size_t>(of().tapCount(values))](values) * in.rate.toDouble());
    return ranks;
  }
  return stripRanks(count, of().nowStandsAt(values), of().delays(values), static_cast<std::uint32_t>(of().seed(values)),
                    of().curve(values));
}

double farthestTap(const StageValues& values) {
  double most = 0;
  for (int k = 0; k < static_cast<int>(of().tapCount(values)); ++k) most = std::max(most, of().taps[static_cast<std::size_t>(k)](values));
  return most;
}

/// In pictures of what enters.
double staggerOf(const StageValues& values, const VideoDescription& in, const std::vector<double>& ranks) {
  if (typed(values)) return 1;
  if (of().gap(values) == Gap::ByLength) return of().stagger(values);
  return in.pictures().toDouble() / (*std::max_element(ranks.begin(), ranks.end()) + 1);
}

/// Of each strip, in pictures of what enters.
std::vector<double> displacementsOf(const StageValues& values, const VideoDescription& in, int count) {
  std::vector<double> displaced = ranksOf(values, in, count);
  const double stagger = staggerOf(values, in, displaced);
  for (double& rank : displaced) rank = rank == 0 ? 0 : -rank * stagger;
  return displaced;
}

class StripsAt : public Displacement {
 public:
  StripsAt(const StageValues& values, const VideoDescription& in, bool other)
      : layout_(layoutOf(values, in)), other_(other), displaced_(displacementsOf(values, in, layout_.count())) {}
  void row(const PlaneSites& sites, int row, std::span<double> out) const override {
    if (!other_) {
      layout_.stripsOf(sites, row, {1, 1}, [&](int i, int strip) {
        out[static_cast<std::size_t>(i)] = displaced_[static_cast<std::size_t>(strip)];
      });
      return;
    }
    const double y = sites.y0 + row * sites.stepY;
    for (int i = 0; i < sites.width; ++i) {
      const auto at = layout_.at(sites.x0 + i * sites.stepX, y);
      out[static_cast<std::size_t>(i)] = displaced_[static_cast<std::size_t>(at.other < 0 ? at.strip : at.other)];
    }
  }

 private:
  StripLayout layout_;
  bool other_;
  std::vector<double> displaced_;
};

class StripsMap : public DisplacingMap, public Mixing {
 public:
  StripsMap(const Stage& stage, const VideoDescription& in, const Surroundings& around, bool other)
      : DisplacingMap([&] {
          VideoDescription out = in;
          out.endless = in.endless && !stage.varies();
          return out;
        }()),
        stage_(stage),
        moving_(stage, in, around),
        in_(in),
        other_(other),
        tiled_(tiled(stage.values)),
        mixes_(tiled_ || (!other && (feathered(stage.values) || of().line(stage.values) > 0))) {
    if (steady()) still_ = std::make_shared<StripsAt>(stage.values, outgoing(), other);
    for (const StageValues& values : {stage.leastValues(), stage.mostValues()}) {
      const auto ranks = ranksOf(values, in, layoutOf(stage.values, in).count());
      const double far = *std::max_element(ranks.begin(), ranks.end()) * staggerOf(values, in, ranks);
      reach_ = {std::min(reach_.least, -far), std::max(reach_.most, -far)};
    }
  }

  std::shared_ptr<const Displacement> displacement(const Moment& moment) const override {
    if (still_) return still_;
    return kept_.find(moment, [&] { return std::make_shared<StripsAt>(valuesAt(moment), outgoing(), other_); });
  }
  bool steady() const override { return !stage_.varies(); }
  Reach reach() const override { return reach_; }
  PastTheEnds pastTheEnds() const override { return of().pastTheEnds(stage_.values); }

  const Mixing* mixing() const override { return mixes_ ? this : nullptr; }
  std::vector<MixWay> ways() const override {
    if (tiled_) return {MixWay{}};
    Stage plain = stage_, beyond = neighboursOf(stage_);
    of().feather.set(plain.values, 0), of().line.set(plain.values, 0);
    if (feathered(stage_.values)) return {{{plain}}, {{beyond}}};
    return {{{plain}}};
  }
  std::vector<MixSource> sources(const Moment& moment) const override {
    if (tiled_) return tilesAt(moment).sources;
    std::vector<MixSource> both{{0, moment}, {1, moment}};
    if (!feathered(stage_.values)) both.pop_back();
    return both;
  }
  std::unique_ptr<Mixture> mixture(const Moment& moment, const MixShapes& shapes) const override {
    const StageValues values = valuesAt(moment);
    const StripLayout layout = layoutOf(values, outgoing());
    const StripBorders borders{feathered(values) ? of().feather(values) * layout.width() : 0, of().line(values),
                               of().lineColour(values)};
    if (tiled_) return tilesMixture(tilesAt(moment), layout, borders, shapes);
    return stripsMixture(sources(moment), layout, borders, shapes);
  }
  bool sharesSources() const override { return tiled_; }
  bool mayBeClear() const override { return tiled_ && pastTheEnds() == PastTheEnds::Transparent && !in_.endless; }

 private:
  StageValues valuesAt(const Moment& moment) const {
    return moving_.at(moment);
  }
  /// What each tile shows: cells of one moment share a source.
  TilePicture tilesAt(const Moment& moment) const {
    TilePicture made;
    const StageValues values = valuesAt(moment);
    const PastTheEnds past = in_.endless ? PastTheEnds::GoRound : pastTheEnds();
    for (const double displaced : displacementsOf(values, outgoing(), layoutOf(values, outgoing()).count())) {
      const auto read =
          foldMoment(Moment::ofPictures(moment.exact() + Rational::near(displaced), moment.off), in_.length, past);
      if (!read) {
        made.ofCell.push_back(TilePicture::nothing);
        continue;
      }
      const auto known = std::find_if(made.sources.begin(), made.sources.end(),
                                      [&](const MixSource& source) { return source.moment == *read; });
      made.ofCell.push_back(static_cast<int>(known - made.sources.begin()));
      if (known == made.sources.end()) made.sources.push_back({0, *read});
    }
    if (made.sources.empty()) made.sources.push_back({0, Moment{}});
    return made;
  }

  Stage stage_;
  MovingValues moving_;
  VideoDescription in_;
  bool other_, tiled_, mixes_;
  std::shared_ptr<const StripsAt> still_;
  mutable KeptDisplacements kept_;
  Reach reach_;
};

class Strips : public StageKind {
 public:
  explicit Strips(bool other) : other_(other) {}
  const StageDescription& description() const override {
    static const StageDescription described = {
        "strips", "Strips", "The frame cut into strips, each at a moment of its own.", of().list.described(), {},
        {{"Strips", false, 1}, {"Time", false, 4}, {"Edges", true, 0}, {"Past the ends", false, 2}}};
    static const StageDescription neighbours = [] {
      StageDescription same = described;
      same.id = "strip-neighbours";
      return same;
    }();
    return other_ ? neighbours : described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings& around) const override {
    return std::make_unique<StripsMap>(stage, incoming, around, other_);
  }

  std::optional<Stage> contrast(const Stage& stage) const override {
    if (tiled(stage.values) || layoutOf(stage.values, {{1920, 1080}}).count() < 2) return std::nullopt;
    return neighboursOf(stage);
  }

  std::optional<std::string> liveTrouble(const Stage& stage) const override {
    if (typed(stage.values) || of().gap(stage.values) != Gap::OverTheClip) return std::nullopt;
    return "Strips over the clip need its length; a camera has none. Set the gap by length.";
  }

  std::string summary(const StageValues& values, const VideoDescription& in) const override {
    const int count = layoutOf(values, in).count();
    const std::string what = std::to_string(count) + (tiled(values) ? " tiles" : " strips");
    if (typed(values)) return what + " · up to " + secondsText(farthestTap(values), 2);
    if (of().gap(values) == Gap::OverTheClip) return what + " over the clip";
    return what + " · " + valueLabel(description().parameters[of().stagger.index()], of().stagger(values));
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in, Rational) const override {
    const StripLayout layout = layoutOf(values, in);
    const auto ranks = ranksOf(values, in, layout.count());
    const double stagger = staggerOf(values, in, ranks), rate = in.rate.toDouble();
    const double most = *std::max_element(ranks.begin(), ranks.end());
    std::vector<StageNote> found;
    const std::string count = std::to_string(layout.count());
    if (tiled(values))
      found.push_back({"Strips", std::to_string(layout.columns()) + " × " + std::to_string(layout.rows()) + " tiles."});
    else if (layout.count() > 1)
      found.push_back({"Strips", count + " strips, " + shortText(layout.width(), 4) + " px each."});
    if (typed(values)) {
      const int taps = static_cast<int>(of().tapCount(values));
      found.push_back({"Time", layout.count() < taps ? "There is room for " + count + " of the " + std::to_string(taps) + " taps."
                                                     : "The farthest is " + secondsText(farthestTap(values), 2) + " behind."});
      return found;
    }
    found.push_back({"Time", "Neighbours are " + secondsText(std::abs(stagger) / rate) + " apart, the last one " +
                                 secondsText(std::abs(most * stagger / rate), 2) + (stagger < 0 ? " ahead." : " behind.")});
    if (std::abs(stagger) < 0.5 && layout.count() > 1)
      found.push_back({"Time", "Less than half a frame from one strip to the next: some show the same frame."});
    if (of().gap(values) == Gap::OverTheClip && !in.endless)
      found.push_back({"Time", "With a Loop before it the strips go round without a seam."});
    else if (in.endless)
      found.push_back(
          {"Time", "The clip goes round: a loop of " + secondsText(in.seconds().toDouble(), 2) + "."});
    return found;
  }

  std::vector<StageHandle> handles(const StageValues& values, const VideoDescription& in) const override {
    if (of().shape(values) == StripShape::Rings) return {{of().centre(values), {}, "centre", {}}};
    if (of().shape(values) != StripShape::Bars) return {};
    return {{directionPlace({0.5, 0.5}, of().angle(values), in.size), {}, "way", {}}};
  }
  std::vector<FieldLine> lines(const StageValues& values, const VideoDescription& in) const override {
    if (of().shape(values) != StripShape::Bars) return {};
    return {directionLine({0.5, 0.5}, of().angle(values), in.size)};
  }
  StageValues withHandle(StageValues values, std::size_t, Place place, const VideoDescription& in) const override {
    if (of().shape(values) == StripShape::Bars)
      of().angle.set(values, directionDegrees({0.5, 0.5}, place, in.size));
    else
      of().centre.set(values, place);
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
