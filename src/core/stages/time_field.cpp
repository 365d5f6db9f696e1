#include "core/stages/time_field.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

#include "core/field/field_shaping.h"
#include "core/stages/common_parameters.h"
#include "core/stages/time_field_map.h"

namespace molten {
namespace {

using Of = TimeFieldValues;

double numberOf(const StageValues& values, std::size_t parameter) {
  return std::get<double>(values[parameter]);
}

std::vector<ParameterDescription> parametersOf() {
  std::vector<ParameterDescription> all;
  const auto seconds = [](double initial, Tense tense) {
    return NumberDescription{Unit::Seconds, 0, 3600, initial, 0.05, 4, 3, tense};
  };
  const ParameterDescription::Condition pinned{"anchor", {"pinned"}};
  addShapeParameters(all, false);
  all.push_back({"flip", "Flip", "Reach", "The start and the end change their moments.", false, ToggleDescription{}});
  all.push_back({"back", "Back", "Reach", "How far into the past the start reads.", true, seconds(1, Tense::Past)});
  all.push_back({"ahead", "Ahead", "Reach", "How far ahead of the present moment the end reads.", true,
                 seconds(0, Tense::Ahead)});
  all.push_back({"anchor", "Anchor", "Reach", "What the start holds on to.", false,
                 ChoicesDescription{{{"now", "Moves with now", "The whole field goes along with the present moment."},
                                     {"pinned", "Pinned moment",
                                      "The start keeps reading one moment of the source; "
                                      "the end reads the present."}},
                                    0}});
  all.push_back({"pinned-moment", "Pinned moment", "Reach", "The moment of the source that the start keeps reading.",
                 false, NumberDescription{Unit::Seconds, 0, 86400, 0, 0.05, 10, 3, Tense::None}, pinned});
  NumberDescription letGo{Unit::Seconds, 0, 86400, 0, 0.1, 10, 3, Tense::None, false, "never"};
  all.push_back(
      {"let-go", "Let go", "Reach", "When the pin lets go, and the field moves with now again.", false, letGo, pinned});
  all.push_back({"ease-out", "Ease out", "Reach", "How long it takes the pin to let go.", false,
                 NumberDescription{Unit::Seconds, 0, 3600, 1, 0.1, 4, 3, Tense::None}, pinned});
  all.push_back(inBetweenParameter());
  all.push_back(pastTheEndsParameter());
  NumberDescription steps{Unit::None, 0, 1000, 0, 1, 32, 0, Tense::None, true, "smooth"};
  all.push_back({"steps", "Steps", "Steps", "Whole steps from start to end, like panes of glass.", true, steps});
  NumberDescription dither{Unit::Frames, 0, 120, 0, 0.1, 4, 1, Tense::None, false, "off"};
  all.push_back(
      {"dither", "Dither", "Steps", "Scatters the borders between frames, by up to so many frames.", true, dither});
  all.push_back({"fresh", "Fresh", "Steps", "Another scatter for every picture; off, it stands still.", false,
                 ToggleDescription{}});
  NumberDescription seed{Unit::None, 0, 9999, 1, 1, 100, 0, Tense::None, true, nullptr};
  all.push_back({"dither-seed", "Dither seed", "Steps", "Another scatter of the same kind.", false, seed});
  const auto level = [](double initial, double least, double most) {
    return NumberDescription{Unit::None, least, most, initial, 0.01, 1, 3, Tense::None};
  };
  all.push_back({"levels-from", "Levels from", "Response", "This much of the shape, and less, counts as the start.",
                 true, level(0, -86400, 86400)});
  all.push_back({"levels-to", "Levels to", "Response", "This much of the shape, and more, counts as the end.", true,
                 level(1, -86400, 86400)});
  all.push_back({"out-from", "Out from", "Response", "What the start becomes.", true, level(0, 0, 1)});
  all.push_back({"out-to", "Out to", "Response", "What the end becomes.", true, level(1, 0, 1)});
  all.push_back(
      {"response", "Response", "Response", "How time goes between start and end.", false, CurveDescription{}});
  all.push_back({"repeat", "Repeat", "Response", "How often the field runs from start to end.", true,
                 NumberDescription{Unit::None, 0.1, 200, 1, 0.5, 12, 1, Tense::None}});
  all.push_back(
      {"mirror", "Mirror", "Response", "Every second run goes back from end to start.", false, ToggleDescription{}});
  all.push_back(
      {"combine", "Combine", "Second shape", "How a second shape works on the first.", false,
       ChoicesDescription{{{"alone", "Alone", "No second shape."},
                           {"multiply", "Multiply", "The one times the other."},
                           {"lighten", "Lighten", "Whichever is nearer to the end."},
                           {"darken", "Darken", "Whichever is nearer to the start."},
                           {"add", "Add", "The one and the other, to the end at most."},
                           {"masked-by", "Masked by", "Where the second is at its start the picture stays as it is."}},
                          0}});
  addShapeParameters(all, true);
  return all;
}

class TimeField : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "time-field",
        "Time Field",
        "Each pixel reads its own moment.",
        parametersOf(),
        {{"pin-here", "Pin here", "Reach", "Click a place of the Picture: the moment that is seen there is held.",
          true}},
    };
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings& around) const override {
    return timeFieldMap(stage, incoming, around);
  }

  std::string summary(const StageValues& values, const VideoDescription&) const override {
    const double back = numberOf(values, Of::Back), ahead = numberOf(values, Of::Ahead);
    const auto& shapes = std::get<ChoicesDescription>(description().parameters[Of::shape].kind).choices;
    const char* const shape = shapes[std::get<std::size_t>(values[Of::shape])].id.c_str();
    char text[96];
    if (std::get<std::size_t>(values[Of::Anchor]) == Of::Pinned)
      std::snprintf(text, sizeof text, "%s · pinned at %.4g s", shape, numberOf(values, Of::PinnedMoment));
    else if (back > 0 && ahead > 0)
      std::snprintf(text, sizeof text, "%s · %.4g s back, %.4g s ahead", shape, back, ahead);
    else if (ahead > 0)
      std::snprintf(text, sizeof text, "%s · %.4g s ahead", shape, ahead);
    else
      std::snprintf(text, sizeof text, "%s · %.4g s back", shape, back);
    return text;
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in, Rational) const override {
    std::vector<StageNote> notes;
    const ShapeParameters shape(Of::shape);
    const bool pinned = std::get<std::size_t>(values[Of::Anchor]) == Of::Pinned;
    const double frames = (numberOf(values, Of::Back) + numberOf(values, Of::Ahead)) * in.rate.toDouble();
    switch (shape.shape(values)) {
      case ShapeParameters::Linear:
        if (shape.place(values, ShapeParameters::Start) == shape.place(values, ShapeParameters::End))
          notes.push_back(
              {"Shape", "Start and end stand on one spot: the whole picture reads the moment of the start."});
        break;
      case ShapeParameters::Picture:
        if (std::get<std::string>(values[shape.at(ShapeParameters::File)]).empty())
          notes.push_back({"Shape", "Choose a picture; until then everything reads the moment of the start."});
        break;
      case ShapeParameters::Painted:
        notes.push_back({"Shape", std::get<Painting>(values[shape.at(ShapeParameters::Painted16)]).picture
                                      ? "Paint on the Picture: white reads the end, black the start."
                                      : "Nothing is painted yet: everything reads the moment of the start."});
        break;
      default:
        break;
    }
    if (pinned)
      notes.push_back({"Reach", numberOf(values, Of::LetGo) > 0
                                    ? "Back and ahead count when the pin has let go."
                                    : "The pin holds to the end; back and ahead do not count."});
    else if (frames < 0.5)
      notes.push_back({"Reach", "Back and ahead are nothing: every pixel reads the present moment."});
    return notes;
  }

  /// Those of the first shape, then those of the second, if it counts.
  std::vector<StageHandle> handles(const StageValues& values, const VideoDescription& in) const override {
    auto handles = firstHandles(values, in);
    if (std::get<std::size_t>(values[Of::Combine]) == Of::Alone) return handles;
    const std::size_t first = handles.size();
    for (StageHandle& handle : ShapeParameters(Of::SecondShape).handles(values, in, whatItIs)) {
      // It has no moments of its own; it says how much of it is there.
      if (handle.moment) handle.label = *handle.moment < 0.5 ? "second 0 %" : "second 100 %";
      handle.moment.reset();
      if (handle.anchor) *handle.anchor += first;
      handles.push_back(std::move(handle));
    }
    return handles;
  }
  std::vector<FieldLine> lines(const StageValues& values, const VideoDescription& in) const override {
    auto lines = ShapeParameters(Of::shape).lines(values, in, momentOf(values));
    if (std::get<std::size_t>(values[Of::Combine]) == Of::Alone) return lines;
    for (FieldLine& line : ShapeParameters(Of::SecondShape).lines(values, in, [](float) { return 0.0; }))
      lines.push_back(std::move(line));
    return lines;
  }
  StageValues withHandle(StageValues values, std::size_t handle, Place place,
                         const VideoDescription& in) const override {
    const std::size_t first = ShapeParameters(Of::shape).handles(values, in, whatItIs).size();
    return handle < first ? ShapeParameters(Of::shape).withHandle(std::move(values), handle, place, in)
                          : ShapeParameters(Of::SecondShape).withHandle(std::move(values), handle - first, place, in);
  }

  StageValues picked(StageValues values, std::string_view, Place, double seconds) const override {
    values[Of::Anchor] = static_cast<std::size_t>(Of::Pinned);
    values[Of::PinnedMoment] = std::max(0.0, seconds);
    return values;
  }

  /// The end that is nearer in time takes what the pull asks for.
  StageValues pulled(StageValues values, double at, double by) const override {
    // While a pin holds, back and ahead do not count: the line is pulled by what it holds.
    if (std::get<std::size_t>(values[Of::Anchor]) == Of::Pinned) {
      values[Of::PinnedMoment] = std::clamp(numberOf(values, Of::PinnedMoment) + by, 0.0, 86400.0);
      return values;
    }
    const double back = numberOf(values, Of::Back), ahead = numberOf(values, Of::Ahead), reach = back + ahead;
    const double f = reach > 0 ? std::clamp((at + back) / reach, 0.0, 1.0) : 0;
    if (f < 0.5)
      values[Of::Back] = std::clamp(back - by / (1 - f), 0.0, 3600.0);
    else
      values[Of::Ahead] = std::clamp(ahead + by / f, 0.0, 3600.0);
    return values;
  }

 private:
  static double whatItIs(float f) { return static_cast<double>(f); }
  static std::vector<StageHandle> firstHandles(const StageValues& values, const VideoDescription& in) {
    if (std::get<std::size_t>(values[Of::Anchor]) != Of::Pinned)
      return ShapeParameters(Of::shape).handles(values, in, momentOf(values));
    // Told in words: how far the held moment is from now differs from picture to picture.
    const bool flip = std::get<bool>(values[Of::Flip]);
    auto handles = ShapeParameters(Of::shape).handles(values, in, [flip](float f) { return flip ? 1 - f : f; });
    for (StageHandle& handle : handles) {
      if (!handle.moment) continue;
      if (*handle.moment < 0.5) handle.label = "holds " + secondsText(numberOf(values, Of::PinnedMoment));
      handle.moment = *handle.moment < 0.5 ? std::nullopt : std::optional(0.0);
    }
    return handles;
  }
  static ShapeParameters::MomentOf momentOf(const StageValues& values) {
    const double back = numberOf(values, Of::Back), reach = back + numberOf(values, Of::Ahead);
    const bool flip = std::get<bool>(values[Of::Flip]);
    return [back, reach, flip](float f) { return -back + static_cast<double>(flip ? 1 - f : f) * reach; };
  }
};

}  // namespace

const StageKind& timeField() {
  static const TimeField kind;
  return kind;
}

}  // namespace molten
