#include "core/stages/shape_parameters.h"

#include <algorithm>
#include <cmath>
#include <numbers>

#include "core/field/linear_field.h"
#include "core/field/noise_field.h"
#include "core/field/round_fields.h"

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

void addShapeParameters(std::vector<ParameterDescription>& parameters, bool second) {
  const std::string prefix = second ? "second-" : "", card = second ? "Second shape" : "Shape";
  const auto add = [&](const char* id, const char* label, const char* help, bool animatable, auto kind,
                       std::vector<std::string> shapes) {
    ParameterDescription parameter{prefix + id, label, card, help, animatable, std::move(kind)};
    if (shapes.empty() && second) parameter.when = {"combine", {"multiply", "lighten", "darken", "add", "masked-by"}};
    if (!shapes.empty()) parameter.when = {prefix + "shape", std::move(shapes)};
    if (second)
      parameter.label = "Second " + parameter.label,
      parameter.label[7] = static_cast<char>(parameter.label[7] - 'A' + 'a');
    parameters.push_back(std::move(parameter));
  };
  add("shape", "Shape", "What the field looks like.", false,
      ChoicesDescription{{{"linear", "Linear", "Time runs along a line."},
                          {"radial", "Radial", "Time runs from a centre outwards, in rings or ellipses."},
                          {"sweep", "Sweep", "Time runs round a centre like a clock's hand."},
                          {"noise", "Noise", "Time wanders smoothly over the picture."},
                          {"picture", "Picture", "A still or a clip says the moments: black the start, white the end."},
                          {"footage", "Footage", "The shot's own brightness or motion says the moments."},
                          {"painted", "Painted", "Painted by hand on the Picture."}},
                         0},
      {});
  add("start", "Start", "Where the field begins; before it everything reads the moment of the start.", true,
      PlaceDescription{{0.5, 0}}, {"linear"});
  add("end", "End", "Where the field ends; beyond it everything reads the moment of the end.", true,
      PlaceDescription{{0.5, 1}}, {"linear"});
  add("centre", "Centre", "The middle of the rings, of the sweep, of a placed picture; noise lies around it.", true,
      PlaceDescription{{0.5, 0.5}}, {"radial", "sweep", "noise", "picture"});
  add("inner", "Inner", "Up to this distance from the centre everything reads the moment of the start.", true,
      number(Unit::Percent, 0, 10, 0, 0.01, 1, 1), {"radial"});
  add("outer", "Outer", "From this distance on everything reads the moment of the end, in picture heights.", true,
      number(Unit::Percent, 0, 10, 0.6, 0.01, 1, 1), {"radial"});
  add("stretch", "Stretch", "How much longer the rings are across their axis: 100 % is round.", true,
      number(Unit::Percent, 0.05, 20, 1, 0.05, 3, 0), {"radial"});
  add("angle", "Angle", "Where the axis of the rings points, or where the sweep begins; 0 is to the right.", true,
      number(Unit::Degrees, -3600, 3600, 0, 5, 360, 1), {"radial", "sweep"});
  add("turn", "Turn", "How far round the field goes from start to end.", true,
      number(Unit::Degrees, 1, 360, 360, 5, 360, 1), {"sweep"});
  add("scale", "Scale", "How large its clouds are, in picture heights.", true,
      number(Unit::Percent, 0.01, 10, 0.5, 0.05, 2, 1), {"noise"});
  add("detail", "Detail", "How many layers of finer clouds lie over each other.", true,
      number(Unit::None, 1, 8, 2, 0.5, 8, 1), {"noise"});
  add("evolution", "Evolution", "How fast the clouds change: by how many of themselves a second.", false,
      number(Unit::None, 0, 50, 0, 0.05, 2, 2), {"noise"});
  NumberDescription seed = number(Unit::None, 0, 9999, 1, 1, 100, 0);
  seed.whole = true;
  add("seed", "Seed", "Other clouds of the same kind.", false, seed, {"noise"});
  add("file", "File", "A still of any depth, numbered stills, or a clip.", false, FileDescription{}, {"picture"});
  add("fit", "Fit", "How the picture is laid over the frame.", false,
      ChoicesDescription{{{"stretch", "Stretch", "Its corners on the frame's corners."},
                          {"fit", "Fit", "All of it in sight; its edge goes on beside it."},
                          {"fill", "Fill", "No place left free; what hangs over is left aside."},
                          {"placed", "Placed", "Where its handles on the Picture put it."}},
                         0},
      {"picture"});
  add("width", "Width", "Of a placed picture, in frame widths.", true, number(Unit::Percent, 0.01, 20, 1, 0.05, 2, 1),
      {"picture"});
  add("measure", "Measure", "What of the footage says the moment.", false,
      ChoicesDescription{{{"brightness", "Brightness", "Dark places read the start, bright ones the end."},
                          {"motion", "Motion", "What stands still reads the start, what moves the end."}},
                         0},
      {"footage"});
  add("full-motion", "Full motion", "How fast something moves to read the end, in picture heights a second.", true,
      number(Unit::Percent, 0.01, 20, 0.5, 0.05, 2, 0), {"footage"});
  add("clip", "Clip", "Another clip instead of the shot as it enters this stage.", false, FileDescription{},
      {"footage"});
  add("painted", "Painted", "The painting: a 16-bit PNG beside the project.", false, PaintingDescription{},
      {"painted"});
  add("blur", "Blur", "How much the picture is softened, in picture heights.", true,
      number(Unit::Percent, 0, 1, 0, 0.002, 0.1, 1), {"picture", "footage", "painted"});
}

bool ShapeParameters::moves(const StageValues& values) const {
  const Shape kind = shape(values);
  // Whether a file is a still is not known here; what is found anew is remembered.
  return kind == Footage || (kind == Noise && number(values, Evolution) != 0) ||
         (kind == Picture && !std::get<std::string>(values[at(File)]).empty());
}

std::unique_ptr<FieldShape> ShapeParameters::make(const StageValues& values, const Moment& moment,
                                                  const VideoDescription& video, const Surroundings& around) const {
  const FieldFrame frame{video.size, video.pixelAspect.toDouble()};
  const double seconds = moment.seconds(video.rate).toDouble();
  const auto ofPicture = [&](std::shared_ptr<const GrayPicture> picture, PictureFit fit, double white) {
    if (!picture) return std::unique_ptr<FieldShape>(std::make_unique<EvenField>());
    if (const double blur = number(values, Blur); blur > 0)
      picture = std::make_shared<const GrayPicture>(blurred(*picture, blur * picture->height));
    auto made =
        std::make_unique<PictureField>(std::move(picture), fit, place(values, Centre), number(values, Width), frame);
    made->setLevels(0, white);
    return std::unique_ptr<FieldShape>(std::move(made));
  };
  switch (shape(values)) {
    case Linear:
      return std::make_unique<LinearField>(place(values, Start), place(values, End), frame);
    case Radial:
      return std::make_unique<RadialField>(place(values, Centre), number(values, Inner), number(values, Outer),
                                           number(values, Stretch), number(values, Angle) / 360, frame);
    case Sweep:
      return std::make_unique<SweepField>(place(values, Centre), number(values, Angle) / 360,
                                          number(values, Turn) / 360, frame);
    case Noise:
      return std::make_unique<NoiseField>(place(values, Centre), number(values, Scale), number(values, Detail),
                                          seconds * number(values, Evolution),
                                          static_cast<std::uint32_t>(number(values, Seed)), frame);
    case Picture: {
      const auto& file = std::get<std::string>(values[at(File)]);
      const auto fit = static_cast<PictureFit>(std::get<std::size_t>(values[at(Fit)]));
      if (file.empty() || !around.material) return std::make_unique<EvenField>();
      return ofPicture(around.material->ofFile(file, moment.whole, seconds, Measured::Brightness), fit, 1);
    }
    case Footage: {
      if (!around.material) return std::make_unique<EvenField>();
      const auto what = static_cast<Measured>(std::get<std::size_t>(values[at(Measure)]));
      const auto& clip = std::get<std::string>(values[at(Clip)]);
      const double white = what == Measured::Motion ? number(values, FullMotion) : 1;
      return ofPicture(clip.empty() ? around.material->ofVideo(*around.before, moment, what)
                                    : around.material->ofFile(clip, moment.whole, seconds, what),
                       PictureFit::Stretch, white);
    }
    case Painted: {
      const auto& painted = std::get<Painting>(values[at(Painted16)]).picture;
      return ofPicture(painted ? painted->gray() : nullptr, PictureFit::Stretch, 1);
    }
  }
  return nullptr;
}

std::pair<float, float> ShapeParameters::bounds(const StageValues& values, const VideoDescription& video) const {
  if (shape(values) != Linear) return {0.0f, 1.0f};
  // Straight but for its clamps: its extremes lie at the corner pixels.
  const LinearField field(place(values, Start), place(values, End), {video.size, video.pixelAspect.toDouble()});
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
  const Place centre = place(values, Centre);
  switch (shape(values)) {
    case Linear:
      return {{place(values, Start), momentOf(0), {}, 1}, {place(values, End), momentOf(1), {}, 0}};
    case Radial: {
      const double inner = number(values, Inner), outer = number(values, Outer), axis = number(values, Angle) / 360;
      const double aside = ringOf(inner, outer) * number(values, Stretch) * stretchShown;
      return {{centre, std::nullopt, "", {}},
              {screen.from(centre, inner + innerShown, axis + 0.5), momentOf(0), {}, 0},
              {screen.from(centre, outer, axis), momentOf(1), {}, 0},
              {screen.from(centre, aside, axis + 0.25), std::nullopt, "stretch", 0}};
    }
    case Sweep: {
      const double axis = number(values, Angle) / 360, turn = number(values, Turn) / 360;
      // A whole turn ends where it begins; its end is shown a little before.
      return {{centre, std::nullopt, "centre", {}},
              {screen.from(centre, 0.3, axis), momentOf(0), {}, 0},
              {screen.from(centre, 0.3, axis + std::min(turn, 0.985)), momentOf(1), {}, 0}};
    }
    case Noise:
      return {{centre, std::nullopt, "clouds", {}},
              {screen.from(centre, number(values, Scale), 0), std::nullopt, "scale", 0}};
    case Picture:
      if (static_cast<PictureFit>(std::get<std::size_t>(values[at(Fit)])) != PictureFit::Placed) return {};
      return {{centre, std::nullopt, "picture", {}},
              {{centre.x + number(values, Width) / 2, centre.y}, std::nullopt, "width", 0}};
    case Footage:
    case Painted:
      return {};
  }
  return {};
}

std::vector<FieldLine> ShapeParameters::lines(const StageValues& values, const VideoDescription& video,
                                              const MomentOf& momentOf) const {
  const Screen screen(video);
  const Place centre = place(values, Centre);
  std::vector<FieldLine> lines;
  const auto ring = [&](double radius, double stretch, double axis, float f) {
    FieldLine line{{}, momentOf(f), momentOf(f)};
    for (int i = 0; i <= 96; ++i) {
      const double a = i / 96.0 * wholeTurn, along = radius * std::cos(a), aside = radius * stretch * std::sin(a);
      line.points.push_back(screen.from(centre, std::hypot(along, aside), axis + std::atan2(aside, along) / wholeTurn));
    }
    lines.push_back(std::move(line));
  };
  switch (shape(values)) {
    case Linear:
      lines.push_back({{place(values, Start), place(values, End)}, momentOf(0), momentOf(1)});
      break;
    case Radial: {
      const double inner = number(values, Inner), outer = number(values, Outer), axis = number(values, Angle) / 360;
      const double stretch = number(values, Stretch);
      if (inner > 0) ring(inner, stretch, axis, 0);
      ring(outer, stretch, axis, 1);
      lines.push_back({{screen.from(centre, inner, axis), screen.from(centre, outer, axis)}, momentOf(0), momentOf(1)});
      break;
    }
    case Sweep: {
      const double axis = number(values, Angle) / 360, turn = number(values, Turn) / 360;
      FieldLine arc{{}, momentOf(0), momentOf(1)};
      const double end = std::min(turn, 0.985);
      for (int i = 0; i <= 96; ++i) arc.points.push_back(screen.from(centre, 0.3, axis + end * i / 96));
      lines.push_back({{centre, arc.points.front()}, momentOf(0), momentOf(0)});
      lines.push_back({{centre, arc.points.back()}, momentOf(1), momentOf(1)});
      lines.push_back(std::move(arc));
      break;
    }
    default:
      break;
  }
  return lines;
}

StageValues ShapeParameters::withHandle(StageValues values, std::size_t handle, Place to,
                                        const VideoDescription& video) const {
  const Screen screen(video);
  const Place centre = place(values, Centre);
  const double distance = screen.distance(centre, to), turns = screen.turns(centre, to);
  switch (shape(values)) {
    case Linear:
      values[at(handle == 0 ? Start : End)] = to;
      return values;
    case Radial:
      if (handle == 0) {
        values[at(Centre)] = to;
      } else if (handle == 1) {
        values[at(Inner)] = std::max(0.0, distance - innerShown);
      } else if (handle == 2) {
        values[at(Outer)] = distance;
        if (distance > 0.005) values[at(Angle)] = degrees(turns);
      } else {
        const double ring = ringOf(number(values, Inner), number(values, Outer));
        values[at(Stretch)] = std::max(0.05, distance / (ring * stretchShown));
      }
      return values;
    case Sweep: {
      if (handle == 0) {
        values[at(Centre)] = to;
      } else if (handle == 1) {
        values[at(Angle)] = degrees(turns);
      } else {
        const double turn = degrees(turns - number(values, Angle) / 360);
        values[at(Turn)] = turn >= 355 || turn < 1 ? 360.0 : turn;
      }
      return values;
    }
    case Noise:
      if (handle == 0)
        values[at(Centre)] = to;
      else
        values[at(Scale)] = std::max(0.01, distance);
      return values;
    case Picture:
      if (handle == 0)
        values[at(Centre)] = to;
      else
        values[at(Width)] = std::max(0.01, 2 * std::abs(to.x - centre.x));
      return values;
    default:
      return values;
  }
}

}  // namespace molten
