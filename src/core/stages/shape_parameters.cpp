#include "core/stages/shape_parameters.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/field/linear_field.h"
#include "core/field/noise_field.h"
#include "core/field/round_fields.h"
#include "core/stages/common_parameters.h"

namespace molten {
namespace {

constexpr double wholeTurn = 2 * std::numbers::pi;

class EvenField : public FieldShape {
 public:
  void row(const PlaneSites&, int, std::span<float> out) const override { std::fill(out.begin(), out.end(), 0.0f); }
};

NumberDescription number(Unit unit, double least, double most, double initial, double step, double usual,
                         int decimals) {
  return {unit, least, most, initial, step, usual, decimals, Tense::None, false, nullptr};
}

/// Places on the screen in picture heights, and back.
struct Screen {
  double width, height, aspect;
  explicit Screen(const VideoDescription& video)
      : width(video.size.width), height(video.size.height), aspect(video.pixelAspect.toDouble()) {}
  /// From a place, by a distance in heights and an angle in turns.
  Place from(const Place& centre, double distance, double turns) const {
    return {centre.x + distance * std::cos(turns * wholeTurn) * height / (width * aspect),
            centre.y + distance * std::sin(turns * wholeTurn)};
  }
  double across(const Place& from, const Place& to) const { return (to.x - from.x) * width * aspect / height; }
  double distance(const Place& from, const Place& to) const { return std::hypot(across(from, to), to.y - from.y); }
  double turns(const Place& from, const Place& to) const {
    const double turns = std::atan2(to.y - from.y, across(from, to)) / wholeTurn;
    return turns - std::floor(turns);
  }
};

double degrees(double turns) {
  return std::round((turns - std::floor(turns)) * 3600) / 10;
}

/// The inner handle stands so much outside of its ring, that it can be told from the centre; the one of the stretch at
/// this part of its way, so that it is in sight.
constexpr double innerShown = 0.04, stretchShown = 0.5;

/// What the stretch is measured by: the larger ring.
double ringOf(double inner, double outer) {
  return std::max({inner, outer, 0.02});
}

}  // namespace

namespace {

using When = std::optional<ParameterDescription::Condition>;

/// The words of a shape's parameter; `shapes`: those that it is of use for, none for all.
struct Words {
  const When& when;
  ParameterWords operator()(const char* id, const char* label, const char* help, bool animatable,
                            std::vector<std::string> shapes) const {
    const bool second = when.has_value();
    const std::string prefix = second ? "second-" : "";
    ParameterWords words{prefix + id, label, second ? "Second shape" : "Shape", help, animatable};
    if (when) words.when = *when;
    if (!shapes.empty()) words.when = ParameterDescription::Condition{prefix + "shape", std::move(shapes)};
    if (second) {
      words.label[0] = static_cast<char>(words.label[0] - 'A' + 'a');
      words.label = "Second " + words.label;
    }
    return words;
  }
  /// Of a parameter that counts where another, a choice, is one of these.
  ParameterWords where(const std::string& choice, std::vector<std::string> is, const char* id, const char* label,
                       const char* help, bool animatable) const {
    ParameterWords words = (*this)(id, label, help, animatable, {});
    words.when = ParameterDescription::Condition{(when ? "second-" : "") + choice, std::move(is)};
    return words;
  }
  /// The same on a card of its own, unless it is of the second shape: those are all on one.
  ParameterWords on(const char* card, ParameterWords words) const {
    if (!when) words.card = card;
    return words;
  }
  /// The same, but not where another one, a choice, is one of these.
  ParameterWords unlessIn(const std::string& choice, std::vector<std::string> is, ParameterWords words) const {
    words.when.push_back({(when ? "second-" : "") + choice, std::move(is), true});
    return words;
  }
  /// Of a parameter that counts where a file is named.
  ParameterWords besides(const std::string& file, const char* id, const char* label, const char* help) const {
    ParameterWords words = (*this)(id, label, help, false, {});
    words.when = ParameterDescription::Condition{(when ? "second-" : "") + file};
    if (!when) words.card = "In time";
    return words;
  }
};

/// What follows when a file that is read in time is over.
ChoiceHandle<PastTheEnds> endsIn(ParameterList& list, const ParameterWords& words) {
  return list.choice<PastTheEnds>(
      words,
      {{PastTheEnds::StandStill, {"stand-still", "Stand still", "Its last picture stands still."}},
       {PastTheEnds::GoRound, {"go-round", "Go round", "It begins again."}},
       {PastTheEnds::TurnBack, {"turn-back", "Turn back", "It runs back to its beginning, and on again."}}},
      PastTheEnds::StandStill);
}

}  // namespace

ShapeParameters::ShapeParameters(ParameterList& list, const When& when)
    : shape(list.choice<Shape>(
          Words{when}("shape", "Shape", "What the field looks like.", false, {}),
          {{Shape::Linear, {"linear", "Linear", "Time runs along a line."}},
           {Shape::Radial, {"radial", "Radial", "Time runs from a centre outwards, in rings or ellipses."}},
           {Shape::Sweep, {"sweep", "Sweep", "Time runs round a centre like a clock's hand."}},
           {Shape::Noise, {"noise", "Noise", "Time wanders smoothly over the picture."}},
           {Shape::Picture,
            {"picture", "Picture", "A still or a clip says the moments: black the start, white the end."}},
           {Shape::Footage, {"footage", "Footage", "The shot's own brightness or motion says the moments."}},
           {Shape::Painted, {"painted", "Painted", "Painted by hand on the Picture."}}},
          Shape::Linear)),
      start(list.place(
          Words{when}("start", "Start", "Where the field begins; before it everything reads the moment of the start.",
                      true, {"linear"}),
          {0.5, 0})),
      end(list.place(
          Words{when}("end", "End", "Where the field ends; beyond it everything reads the moment of the end.", true,
                      {"linear"}),
          {0.5, 1})),
      centre(list.place(Words{when}.unlessIn("fit", {"stretch", "fit", "fill"},
                                             Words{when}("centre", "Centre",
                                                         "The middle of the rings, of the sweep, of a placed picture; "
                                                         "noise lies around it.",
                                                         true, {"radial", "sweep", "noise", "picture"})),
                        {0.5, 0.5})),
      inner(list.number(
          Words{when}("inner", "Inner", "Up to this distance from the centre everything reads the moment of the start.",
                      true, {"radial"}),
          number(Unit::Percent, 0, 10, 0, 0.01, 1, 1))),
      outer(list.number(Words{when}("outer", "Outer",
                                    "From this distance on everything reads the moment of the end, in picture heights.",
                                    true, {"radial"}),
                        number(Unit::Percent, 0, 10, 0.6, 0.01, 1, 1))),
      stretch(
          list.number(Words{when}.on("Ellipse", Words{when}("stretch", "Stretch",
                                  "How much longer the rings are across their axis: 100 % is round.", true, {"radial"})),
                      number(Unit::Percent, 0.05, 20, 1, 0.05, 3, 0))),
      angle(list.number(Words{when}("angle", "Angle",
                                    "Where the axis of the rings points, or where the sweep begins; 0 is to the right.",
                                    true, {"radial", "sweep"}),
                        number(Unit::Degrees, -3600, 3600, 0, 5, 360, 1))),
      turn(list.number(Words{when}("turn", "Turn", "How far round the field goes from start to end.", true, {"sweep"}),
                       number(Unit::Degrees, 1, 360, 360, 5, 360, 1))),
      cloudSize(list.number(
          Words{when}("cloud-size", "Cloud size", "How large its clouds are, in picture heights.", true, {"noise"}),
          number(Unit::Percent, 0.01, 10, 0.5, 0.05, 2, 1))),
      finerLayers(list.number(Words{when}.on("Clouds", Words{when}("finer-layers", "Finer layers",
                                          "How many layers of finer clouds lie over each other.", true, {"noise"})),
                              number(Unit::None, 1, 8, 3, 0.5, 8, 1))),
      change(
          list.number(Words{when}.on("Clouds", Words{when}("change", "Change", "How fast the clouds change: by how many of themselves a second.",
                                  false, {"noise"})),
                      number(Unit::None, 0, 50, 0, 0.05, 2, 2))),
      seed(list.number(Words{when}.on("Clouds", Words{when}("seed", "Seed", "Other clouds of the same kind.", false, {"noise"})),
                       {Unit::None, 0, 9999, 1, 1, 100, 0, Tense::None, true})),
      file(list.file(
          Words{when}("file", "File", "A still of any depth, numbered stills, or a clip.", false, {"picture"}))),
      fileBegins(list.number(Words{when}.besides("file", "file-begins-at", "File begins at",
                                                 "What moment of a moving file is read when the shot begins."),
                             secondsNumber(0, 86400, 0, 0.05, 10))),
      fileEnds(endsIn(list, Words{when}.besides("file", "after-the-file", "After the file",
                                                "What a moving file shows when it is over."))),
      fit(list.choice<PictureFit>(
          Words{when}("fit", "Fit", "How the picture is laid over the frame.", false, {"picture"}),
          {{PictureFit::Stretch, {"stretch", "Stretch", "Its corners on the frame's corners."}},
           {PictureFit::Fit, {"fit", "Fit", "All of it in sight; its edge goes on beside it."}},
           {PictureFit::Fill, {"fill", "Fill", "No place left free; what hangs over is left aside."}},
           {PictureFit::Placed, {"placed", "Placed", "Where its handles on the Picture put it."}}},
          PictureFit::Stretch)),
      width(list.number(Words{when}.where("fit", {"placed"}, "width", "Width", "Of a placed picture, in frame widths.",
                                          true),
                        number(Unit::Percent, 0.01, 20, 1, 0.05, 2, 1))),
      measure(list.choice<Measured>(
          Words{when}("measure", "Measure", "What of the footage says the moment.", false, {"footage"}),
          {{Measured::Brightness, {"brightness", "Brightness", "Dark places read the start, bright ones the end."}},
           {Measured::Motion, {"motion", "Motion", "What stands still reads the start, what moves the end."}}},
          Measured::Brightness)),
      fastestMotion(
          list.number(Words{when}.where("measure", {"motion"}, "fastest-motion", "Fastest motion",
                                        "How fast something moves to read the end, in picture heights a second.", true),
                      number(Unit::Percent, 0.01, 20, 0.5, 0.05, 2, 0))),
      clip(list.file(
          Words{when}("clip", "Clip", "Another clip instead of the shot as it enters this stage.", false, {"footage"}),
          {"the shot itself"})),
      clipBegins(list.number(Words{when}.besides("clip", "clip-begins-at", "Clip begins at",
                                                 "What moment of the other clip is read when the shot begins."),
                             secondsNumber(0, 86400, 0, 0.05, 10))),
      clipEnds(endsIn(list, Words{when}.besides("clip", "after-the-clip", "After the clip",
                                                "What the other clip shows when it is over."))),
      painted(list.painting(
          Words{when}("painted", "Painted", "The painting: a 16-bit PNG beside the project.", false, {"painted"}))),
      blur(list.number(Words{when}("blur", "Blur", "How much the picture is softened, in picture heights.", true,
                                   {"picture", "footage", "painted"}),
                       number(Unit::Percent, 0, 1, 0, 0.002, 0.1, 1))) {}

bool ShapeParameters::moves(const StageValues& values) const {
  const Shape kind = shape(values);
  // Whether a file is a still is not known here; what is found anew is remembered.
  return kind == Shape::Footage || (kind == Shape::Noise && change(values) != 0) ||
         (kind == Shape::Picture && !file(values).empty());
}

std::unique_ptr<FieldShape> ShapeParameters::make(const StageValues& values, const Moment& moment,
                                                  const VideoDescription& video, const Surroundings& around) const {
  const FieldFrame frame{video.size, video.pixelAspect.toDouble()};
  const double seconds = moment.seconds(video.rate);
  const auto ofPicture = [&](std::shared_ptr<const GrayPicture> picture, PictureFit laid, double white) {
    if (!picture) return std::unique_ptr<FieldShape>(std::make_unique<EvenField>());
    if (const double radius = blur(values); radius > 0)
      picture = std::make_shared<const GrayPicture>(blurred(*picture, radius * picture->height));
    auto made = std::make_unique<PictureField>(std::move(picture), laid, centre(values), width(values), frame);
    made->setLevels(0, white);
    return std::unique_ptr<FieldShape>(std::move(made));
  };
  const auto fileMoment = [&](double begins, PastTheEnds ends) {
    return FileMoment{begins + seconds, moment.whole + std::llround(begins * video.rate.toDouble()), ends};
  };
  switch (shape(values)) {
    case Shape::Linear:
      return std::make_unique<LinearField>(start(values), end(values), frame);
    case Shape::Radial:
      return std::make_unique<RadialField>(centre(values), inner(values), outer(values), stretch(values),
                                           angle(values) / 360, frame);
    case Shape::Sweep:
      return std::make_unique<SweepField>(centre(values), angle(values) / 360, turn(values) / 360, frame);
    case Shape::Noise:
      return std::make_unique<NoiseField>(centre(values), cloudSize(values), finerLayers(values),
                                          seconds * change(values), static_cast<std::uint32_t>(seed(values)), frame);
    case Shape::Picture: {
      const std::string& path = file(values);
      if (path.empty() || !around.material) return std::make_unique<EvenField>();
      return ofPicture(
          around.material->ofFile(path, fileMoment(fileBegins(values), fileEnds(values)), Measured::Brightness),
          fit(values), 1);
    }
    case Shape::Footage: {
      if (!around.material) return std::make_unique<EvenField>();
      const auto what = measure(values);
      const std::string& other = clip(values);
      const double white = what == Measured::Motion ? fastestMotion(values) : 1;
      return ofPicture(other.empty()
                           ? around.material->ofVideo(*around.upstream, moment, what)
                           : around.material->ofFile(other, fileMoment(clipBegins(values), clipEnds(values)), what),
                       PictureFit::Stretch, white);
    }
    case Shape::Painted: {
      const auto& picture = painted(values).picture;
      return ofPicture(picture ? picture->gray() : nullptr, PictureFit::Stretch, 1);
    }
  }
  return nullptr;
}

std::pair<float, float> ShapeParameters::bounds(const StageValues& values, const VideoDescription& video) const {
  // A file of floats may hold anything; its levels bring it to 0…1.
  if (shape(values) == Shape::Picture || shape(values) == Shape::Footage) return {-1e30f, 1e30f};
  if (shape(values) != Shape::Linear) return {0.0f, 1.0f};
  // Straight but for its clamps: its extremes lie at the corner pixels.
  const LinearField field(start(values), end(values), {video.size, video.pixelAspect.toDouble()});
  PlaneSites corners;
  corners.width = 2, corners.height = 2;
  corners.stepX = video.size.width - 1, corners.stepY = video.size.height - 1;
  float f[4];
  field.row(corners, 0, {f, 2});
  field.row(corners, 1, {f + 2, 2});
  const auto [least, most] = std::minmax_element(f, f + 4);
  return {*least, *most};
}

std::vector<StageHandle> ShapeParameters::handles(const StageValues& values, const VideoDescription& video,
                                                  const MomentOf& momentOf) const {
  const Screen screen(video);
  const Place middle = centre(values);
  switch (shape(values)) {
    case Shape::Linear:
      return {{start(values), momentOf(0), {}, 1}, {end(values), momentOf(1), {}, 0}};
    case Shape::Radial: {
      const double near = inner(values), far = outer(values), axis = angle(values) / 360;
      const double aside = ringOf(near, far) * stretch(values) * stretchShown;
      return {{middle, std::nullopt, "", {}},
              {screen.from(middle, near + innerShown, axis + 0.5), momentOf(0), {}, 0},
              {screen.from(middle, far, axis), momentOf(1), {}, 0},
              {screen.from(middle, aside, axis + 0.25), std::nullopt, "stretch", 0}};
    }
    case Shape::Sweep: {
      const double axis = angle(values) / 360, round = turn(values) / 360;
      // A whole turn ends where it begins; its end is shown a little before.
      return {{middle, std::nullopt, "centre", {}},
              {screen.from(middle, 0.3, axis), momentOf(0), {}, 0},
              {screen.from(middle, 0.3, axis + std::min(round, 0.985)), momentOf(1), {}, 0}};
    }
    case Shape::Noise:
      return {{middle, std::nullopt, "clouds", {}},
              {screen.from(middle, cloudSize(values), 0), std::nullopt, "cloud size", 0}};
    case Shape::Picture:
      if (fit(values) != PictureFit::Placed) return {};
      return {{middle, std::nullopt, "picture", {}},
              {{middle.x + width(values) / 2, middle.y}, std::nullopt, "width", 0}};
    case Shape::Footage:
    case Shape::Painted:
      return {};
  }
  return {};
}

std::vector<FieldLine> ShapeParameters::lines(const StageValues& values, const VideoDescription& video,
                                              const MomentOf& momentOf) const {
  const Screen screen(video);
  const Place middle = centre(values);
  std::vector<FieldLine> lines;
  const auto ring = [&](double radius, double longer, double axis, float f) {
    FieldLine line{{}, momentOf(f), momentOf(f)};
    for (int i = 0; i <= 96; ++i) {
      const double a = i / 96.0 * wholeTurn, along = radius * std::cos(a), aside = radius * longer * std::sin(a);
      line.points.push_back(screen.from(middle, std::hypot(along, aside), axis + std::atan2(aside, along) / wholeTurn));
    }
    lines.push_back(std::move(line));
  };
  switch (shape(values)) {
    case Shape::Linear:
      lines.push_back({{start(values), end(values)}, momentOf(0), momentOf(1)});
      break;
    case Shape::Radial: {
      const double near = inner(values), far = outer(values), axis = angle(values) / 360;
      const double longer = stretch(values);
      if (near > 0) ring(near, longer, axis, 0);
      ring(far, longer, axis, 1);
      lines.push_back({{screen.from(middle, near, axis), screen.from(middle, far, axis)}, momentOf(0), momentOf(1)});
      break;
    }
    case Shape::Sweep: {
      const double axis = angle(values) / 360, round = turn(values) / 360;
      FieldLine arc{{}, momentOf(0), momentOf(1)};
      const double until = std::min(round, 0.985);
      for (int i = 0; i <= 96; ++i) arc.points.push_back(screen.from(middle, 0.3, axis + until * i / 96));
      lines.push_back({{middle, arc.points.front()}, momentOf(0), momentOf(0)});
      lines.push_back({{middle, arc.points.back()}, momentOf(1), momentOf(1)});
      lines.push_back(std::move(arc));
      break;
    }
    default:
      break;
  }
  return lines;
}

std::optional<StageValues> ShapeParameters::withEndAt(const StageValues& values, double f, Place place,
                                                      const VideoDescription& video) const {
  const auto all = handles(values, video, [](float own) { return static_cast<double>(own); });
  const auto handle = std::find_if(all.begin(), all.end(), [&](const StageHandle& one) { return one.moment == f; });
  if (handle == all.end()) return std::nullopt;
  StageValues moved = withHandle(values, static_cast<std::size_t>(handle - all.begin()), place, video);
  // The pixel there is to lie on the end's own side, however steeply the shape rises beside it.
  const double aside = 1.5 / video.size.height;
  switch (shape(values)) {
    case Shape::Linear: {
      const Screen screen(video);
      ParameterHandle<Place> own = f == 0 ? start : end;
      const Place other = (f == 0 ? end : start)(moved);
      own.set(moved,
              screen.from(place, std::min(aside, screen.distance(place, other) / 2), screen.turns(place, other)));
      break;
    }
    case Shape::Radial: {
      // The other end gives way, so that what was within goes on being within.
      const bool outwards = (f == 0) == (outer(values) >= inner(values));
      const ParameterHandle<double>&own = f == 0 ? inner : outer, &other = f == 0 ? outer : inner;
      const Screen screen(video);
      const double away = screen.distance(centre(values), place),
                   round = (screen.turns(centre(values), place) - angle(values) / 360) * wholeTurn;
      const double ring = std::hypot(away * std::cos(round), away * std::sin(round) / stretch(values));
      const double at = std::max(0.0, ring + (outwards ? aside : -aside));
      moved = values;
      own.set(moved, at);
      other.set(moved,
                outwards ? std::max(other(moved), at + aside) : std::min(other(moved), std::max(0.0, at - aside)));
      break;
    }
    case Shape::Sweep:
      // Behind its start lies its end.
      if (f == 0) angle.set(moved, angle(moved) - 2);
      break;
    default:
      break;
  }
  return moved;
}

StageValues ShapeParameters::withHandle(StageValues values, std::size_t handle, Place to,
                                        const VideoDescription& video) const {
  const Screen screen(video);
  const Place middle = centre(values);
  const double distance = screen.distance(middle, to), turns = screen.turns(middle, to);
  switch (shape(values)) {
    case Shape::Linear:
      (handle == 0 ? start : end).set(values, to);
      return values;
    case Shape::Radial:
      if (handle == 0) {
        centre.set(values, to);
      } else if (handle == 1) {
        inner.set(values, std::max(0.0, distance - innerShown));
      } else if (handle == 2) {
        outer.set(values, distance);
        if (distance > 0.005) angle.set(values, degrees(turns));
      } else {
        const double ring = ringOf(inner(values), outer(values));
        stretch.set(values, std::max(0.05, distance / (ring * stretchShown)));
      }
      return values;
    case Shape::Sweep: {
      if (handle == 0) {
        centre.set(values, to);
      } else if (handle == 1) {
        angle.set(values, degrees(turns));
      } else {
        const double round = degrees(turns - angle(values) / 360);
        turn.set(values, round >= 355 || round < 1 ? 360.0 : round);
      }
      return values;
    }
    case Shape::Noise:
      if (handle == 0)
        centre.set(values, to);
      else
        cloudSize.set(values, std::max(0.01, distance));
      return values;
    case Shape::Picture:
      if (handle == 0)
        centre.set(values, to);
      else
        width.set(values, std::max(0.01, 2 * std::abs(to.x - middle.x)));
      return values;
    default:
      return values;
  }
}

}  // namespace molten
