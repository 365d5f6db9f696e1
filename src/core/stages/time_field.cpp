#include "core/stages/time_field.h"

#include <algorithm>
#include <cmath>

#include "core/field/field_shaping.h"
#include "core/number_text.h"
#include "core/stages/common_parameters.h"
#include "core/stages/time_field_map.h"

namespace molten {
namespace {

const TimeFieldParameters& of() {
  return timeFieldParameters();
}

const ParameterDescription::Condition pinned{"start-holds", {"pinned"}};
NumberDescription level(double initial, double least, double most) {
  return {Unit::None, least, most, initial, 0.01, 1, 3, Tense::None};
}

class TimeField : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "time-field",
        "Time Field",
        "Each pixel reads its own moment.",
        of().list.described(),
        {{"pin-here", "Pin here", "Reach", "Click a place of the Picture: the moment that is seen there is held.",
          StageAction::Wants::Place}},
        {{"Shape", false, 1},
         {"Clouds", true, 0},
         {"Ellipse", true, 0},
         {"In time", true, 0},
         {"Reach", false, 1},
         {"Pin", true, 0},
         {"Past the ends", false, 2},
         {"Smoothness", false, 2},
         {"Dither", true, 0},
         {"Shaping", true, 0},
         {"Second shape", true, 0}},
    };
    return described;
  }

  double scatter(const StageValues& values) const override { return of().dither(values); }
  Stage withoutScatter(const Stage& stage) const override {
    Stage even = stage;
    of().dither.set(even.values, 0);
    even.keys.erase(of().dither.index()), even.drives.erase(of().dither.index());
    return even;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings& around) const override {
    return timeFieldMap(stage, incoming, around);
  }

  std::optional<std::string> liveTrouble(const Stage& stage) const override {
    if (of().startHolds(stage.values) != StartHolds::Pinned) return std::nullopt;
    return "A pinned moment of a camera is soon older than the ring holds. Let the start hold on to now, or keep the last seconds as footage.";
  }

  std::string summary(const StageValues& values, const VideoDescription&) const override {
    const double back = of().back(values), ahead = of().ahead(values);
    const auto index = of().shape.shape.index();
    const std::string shape = valueText(description().parameters[index], values[index]) + " · ";
    const auto seconds = [](double value) { return shortText(value, 4) + " s"; };
    if (of().startHolds(values) == StartHolds::Pinned) return shape + "pinned at " + seconds(of().pinnedMoment(values));
    if (back > 0 && ahead > 0) return shape + seconds(back) + " back, " + seconds(ahead) + " ahead";
    return ahead > 0 ? shape + seconds(ahead) + " ahead" : shape + seconds(back) + " back";
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in, Rational) const override {
    std::vector<StageNote> notes;
    const ShapeParameters& shape = of().shape;
    const bool isPinned = of().startHolds(values) == StartHolds::Pinned;
    const double frames = (of().back(values) + of().ahead(values)) * in.rate.toDouble();
    switch (shape.shape(values)) {
      case ShapeParameters::Shape::Linear:
        if (shape.start(values) == shape.end(values))
          notes.push_back(
              {"Shape", "Start and end stand on one spot: all of it reads the start."});
        break;
      case ShapeParameters::Shape::Picture:
        if (shape.file(values).empty())
          notes.push_back({"Shape", "Choose a picture; until then all of it reads the start."});
        break;
      case ShapeParameters::Shape::Painted:
        notes.push_back({"Shape", shape.painted(values).picture
                                      ? "Paint on the Picture: white reads the end, black the start."
                                      : "Nothing is painted yet: all of it reads the start."});
        break;
      default:
        break;
    }
    if (isPinned)
      notes.push_back({"Reach", of().letGo(values) > 0      ? "Back and ahead count when the pin has let go."
                                : of().takeHold(values) > 0 ? "Back and ahead count until the pin takes hold."
                                                            : "The pin holds to the end; back and ahead do not count."});
    else if (frames < 0.5)
      notes.push_back({"Reach", "Nothing back or ahead: all pixels read the present."});
    return notes;
  }

  /// Those of the first shape, then those of the second, if it counts.
  std::vector<StageHandle> handles(const StageValues& values, const VideoDescription& in) const override {
    auto handles = firstHandles(values, in);
    if (of().combine(values) == SecondShape::Alone) return handles;
    const std::size_t first = handles.size();
    for (StageHandle& handle : of().second.handles(values, in, whatItIs)) {
      // It has no moments of its own; it says how much of it is there.
      if (handle.moment) handle.label = *handle.moment < 0.5 ? "second 0 %" : "second 100 %";
      handle.moment.reset();
      if (handle.anchor) *handle.anchor += first;
      handles.push_back(std::move(handle));
    }
    return handles;
  }
  std::vector<FieldLine> lines(const StageValues& values, const VideoDescription& in) const override {
    auto lines = of().shape.lines(values, in, momentOf(values));
    if (of().combine(values) == SecondShape::Alone) return lines;
    for (FieldLine& line : of().second.lines(values, in, [](float) { return 0.0; })) lines.push_back(std::move(line));
    return lines;
  }
  StageValues withHandle(StageValues values, std::size_t handle, Place place,
                         const VideoDescription& in) const override {
    const std::size_t first = of().shape.handles(values, in, whatItIs).size();
    return handle < first ? of().shape.withHandle(std::move(values), handle, place, in)
                          : of().second.withHandle(std::move(values), handle - first, place, in);
  }

  /// What was picked is held: the end of the shape that holds comes to lie there.
  StageValues picked(StageValues values, std::string_view, const PickedPlace& at,
                     const VideoDescription& in) const override {
    if (auto moved = of().shape.withEndAt(values, of().flip(values) ? 1 : 0, at.place, in))
      values = std::move(*moved);
    else
      holdBySize(values, at);
    of().startHolds.set(values, StartHolds::Pinned);
    of().pinnedMoment.set(values, std::max(0.0, at.reads));
    return values;
  }

  /// The end that is nearer in time takes what the pull asks for.
  StageValues pulled(StageValues values, double at, double by) const override {
    // While a pin holds, back and ahead do not count: the line is pulled by what it holds.
    if (of().startHolds(values) == StartHolds::Pinned) {
      of().pinnedMoment.set(values, std::clamp(of().pinnedMoment(values) + by, 0.0, 86400.0));
      return values;
    }
    const double back = of().back(values), ahead = of().ahead(values), reach = back + ahead;
    const double f = reach > 0 ? std::clamp((at + back) / reach, 0.0, 1.0) : 0;
    if (f < 0.5)
      of().back.set(values, std::clamp(back - by / (1 - f), 0.0, 3600.0));
    else
      of().ahead.set(values, std::clamp(ahead + by / f, 0.0, 3600.0));
    return values;
  }

 private:
  /// Where a shape has no such end: as much of it as there is at the place, and what is beyond, counts as the start.
  static void holdBySize(StageValues& values, const PickedPlace& at) {
    const bool plain = of().response(values) == straightCurve && of().repeat(values) == 1 && !of().mirror(values) &&
                       of().panes(values) < 2 && of().outFrom(values) == 0 && of().outTo(values) == 1 &&
                       of().combine(values) == SecondShape::Alone;
    const double back = of().back(values), reach = back + of().ahead(values), aside = at.reads - at.now;
    const bool holds = of().startHolds(values) == StartHolds::Pinned;
    const double way = of().pinnedMoment(values) - at.now;
    if (!plain || (holds ? way == 0 : reach == 0)) return;
    double f = std::clamp(holds ? 1 - aside / way : (aside + back) / reach, 0.0, 1.0);
    if (of().flip(values)) f = 1 - f;
    const double from = of().levelsFrom(values), to = of().levelsTo(values);
    (of().flip(values) ? of().levelsTo : of().levelsFrom).set(values, from + f * (to - from));
  }
  static double whatItIs(float f) { return static_cast<double>(f); }
  static std::vector<StageHandle> firstHandles(const StageValues& values, const VideoDescription& in) {
    if (of().startHolds(values) != StartHolds::Pinned) return of().shape.handles(values, in, momentOf(values));
    // Told in words: how far the held moment is from now differs from picture to picture.
    const bool flip = of().flip(values);
    auto handles = of().shape.handles(values, in, [flip](float f) { return flip ? 1 - f : f; });
    for (StageHandle& handle : handles) {
      if (!handle.moment) continue;
      if (*handle.moment < 0.5) handle.label = "holds " + secondsText(of().pinnedMoment(values));
      handle.moment = *handle.moment < 0.5 ? std::nullopt : std::optional(0.0);
    }
    return handles;
  }
  static ShapeParameters::MomentOf momentOf(const StageValues& values) {
    const double back = of().back(values), reach = back + of().ahead(values);
    const bool flip = of().flip(values);
    return [back, reach, flip](float f) { return -back + static_cast<double>(flip ? 1 - f : f) * reach; };
  }
};

}  // namespace

TimeFieldParameters::TimeFieldParameters()
    : shape(list, std::nullopt),
      flip(list.toggle({"flip", "Flip", "Reach", "The start and the end change their moments."})),
      back(list.number({"back", "Back", "Reach", "How far into the past the start reads.", true},
                       secondsNumber(0, 3600, 1, 0.05, 4, Tense::Past))),
      ahead(list.number({"ahead", "Ahead", "Reach", "How far ahead of the present moment the end reads.", true},
                        secondsNumber(0, 3600, 0, 0.05, 4, Tense::Ahead))),
      startHolds(list.choice<StartHolds>(
          {"start-holds", "Start holds", "Reach", "What the start holds on to."},
          {{StartHolds::MovesWithNow, {"now", "Moves with now", "The whole field goes along with the present moment."}},
           {StartHolds::Pinned,
            {"pinned", "Pinned moment",
             "The start keeps reading one moment of the source; the end reads the present."}}},
          StartHolds::MovesWithNow)),
      pinnedMoment(list.number({"pinned-moment", "Pinned moment", "Reach",
                                "The moment of the source that the start keeps reading.", false, pinned},
                               secondsNumber(0, 86400, 0, 0.05, 10))),
      takeHold(list.number({"take-hold", "Take hold", "Pin",
                            "When the pin takes hold; until then the field moves with now.", false, pinned},
                           secondsNumber(0, 86400, 0, 0.1, 10, Tense::None, "at once"))),
      letGo(list.number(
          {"let-go", "Let go", "Pin", "When the pin lets go, and the field moves with now again.", false, pinned},
          secondsNumber(0, 86400, 0, 0.1, 10, Tense::None, "never"))),
      letGoOver(
          list.number({"let-go-over", "Let go over", "Pin", "How long it takes the pin to take hold, and to let go.", false, pinned},
                      secondsNumber(0, 3600, 1, 0.1, 4))),
      pastTheEnds(pastTheEndsIn(list)),
      panes(list.number({"panes", "Panes", "Smoothness", "Whole steps from start to end, like panes of glass.", true,
                         {}, Figure::Steps},
                        {Unit::None, 0, 1000, 0, 1, 32, 0, Tense::None, true, "smooth"})),
      dither(list.number(
          {"dither", "Dither", "Smoothness", "Scatters the borders between frames, by up to so many frames.", true},
          {Unit::Frames, 0, 120, 0, 0.1, 4, 1, Tense::None, false, "off"})),
      fresh(list.toggle(ParameterWords{"every-picture-anew", "Every picture anew", "Dither",
                                       "Another scatter for every picture; off, it stands still.", false,
                                       ParameterDescription::Condition{"dither"}}
                            .formerly("fresh"))),
      ditherSeed(list.number({"dither-seed", "Dither seed", "Dither", "Another scatter of the same kind.", false,
                              ParameterDescription::Condition{"dither"}},
                             {Unit::None, 0, 9999, 1, 1, 100, 0, Tense::None, true})),
      levelsFrom(list.number(
          ParameterWords{"start-below", "Start below", "Shaping",
                         "This much of the shape, and less, counts as the start.", true}
              .formerly("levels-from"),
          level(0, -86400, 86400))),
      levelsTo(list.number(
          ParameterWords{"end-above", "End above", "Shaping", "This much of the shape, and more, counts as the end.",
                         true}
              .formerly("levels-to"),
          level(1, -86400, 86400))),
      outFrom(list.number(
          ParameterWords{"start-becomes", "Start becomes", "Shaping", "0: the start's own moment, 1: the end's.", true}
              .formerly("out-from"),
          level(0, 0, 1))),
      outTo(list.number(
          ParameterWords{"end-becomes", "End becomes", "Shaping", "1: the end's own moment, 0: the start's.", true}
              .formerly("out-to"),
          level(1, 0, 1))),
      response(list.curve({"response", "Response", "Shaping", "How time goes between start and end."})),
      repeat(list.number({"repeat", "Repeat", "Shaping", "How often the field runs from start to end.", true},
                         {Unit::None, 0.1, 200, 1, 0.5, 12, 1, Tense::None})),
      mirror(list.toggle({"mirror", "Mirror", "Shaping", "Every second run goes back from end to start."})),
      combine(list.choice<SecondShape>(
          {"combine", "Combine", "Second shape", "What a second shape does to the first."},
          {{SecondShape::Alone, {"alone", "Alone", "No second shape."}},
           {SecondShape::OnlyWhere,
            {"only-where", "Only where", "Where the second is at its start the picture stays as it is."}},
           {SecondShape::Product, {"product", "Product", "The one times the other."}},
           {SecondShape::Sum, {"sum", "Sum", "The one and the other, to the end at most."}},
           {SecondShape::Larger, {"larger", "Larger", "Whichever is nearer to the end."}},
           {SecondShape::Smaller, {"smaller", "Smaller", "Whichever is nearer to the start."}}},
          SecondShape::Alone)),
      second(list, ParameterDescription::Condition{"combine", {"product", "larger", "smaller", "sum", "only-where"}}) {}

const TimeFieldParameters& timeFieldParameters() {
  static const TimeFieldParameters parameters;
  return parameters;
}

Stage timeFieldOfPicture(const std::string& file, double back, double ahead, const std::optional<Reach>& levels) {
  const TimeFieldParameters& of = timeFieldParameters();
  Stage stage = newStage(timeField());
  of.shape.shape.set(stage.values, ShapeParameters::Shape::Picture);
  of.shape.file.set(stage.values, file);
  of.back.set(stage.values, back);
  of.ahead.set(stage.values, ahead);
  if (levels) of.levelsFrom.set(stage.values, levels->least), of.levelsTo.set(stage.values, levels->most);
  return stage;
}

const StageKind& timeField() {
  static const TimeField kind;
  return kind;
}

}  // namespace molten
