#include "core/stages/framing_view.h"

#include <algorithm>
#include <cmath>

#include "core/time/drives.h"

namespace molten {
namespace {

NumberDescription percent(double least, double most, double initial, double usual) {
  return {Unit::Percent, least, most, initial, 0.05, usual, 1, Tense::None};
}

const ParameterDescription::Condition shaken{"shake"};

/// Turned by an angle clockwise, in pixels that are so many times wider than high.
struct Turn {
  double c, s, aspect;
  Turn(double degrees, double pixelAspect)
      : c(std::cos(degrees * std::acos(-1.0) / 180)), s(std::sin(degrees * std::acos(-1.0) / 180)), aspect(pixelAspect) {
    // Quarter turns are just that.
    if (const double quarters = degrees / 90; quarters == std::round(quarters))
      c = std::round(c), s = std::round(s);
  }
};

/// Between two pictures a place that is less far away than this is the same.
constexpr double seenPixels = 0.6;
constexpr int mostPositions = 64;
/// Draws of a shake that are gone through to see how far it goes.
constexpr std::int64_t mostDraws = 20'000;

}  // namespace

FramingParameters::FramingParameters()
    : zoom(list.number({"zoom", "Zoom", "Frame", "How much larger the picture is seen; 100 % shows all of it.", true},
                       {Unit::Percent, 0.05, 64, 1, 0.05, 4, 1, Tense::None})),
      place(list.place({"place", "Place", "Frame",
                        "The place of the picture that is held while it grows: what the frame lies about.", true},
                       {0.5, 0.5})),
      turn(list.number({"turn", "Turn", "Frame", "By how much the picture is turned about that place.", true},
                       {Unit::Degrees, -36000, 36000, 0, 1, 180, 2, Tense::None})),
      mirror(list.choice<Mirrored>(
          {"mirror", "Mirror", "Frame", "What is seen, the other way round."},
          {{Mirrored::None, {"none", "No mirror", "As it is."}},
           {Mirrored::Across, {"across", "Across", "Left and right change places."}},
           {Mirrored::Down, {"down", "Down", "Top and bottom change places."}},
           {Mirrored::Both, {"both", "Both ways", "Left and right, and top and bottom."}}},
          Mirrored::None)),
      edges(list.choice<FrameEdges>(
          {"edges", "Edges", "Edges", "What is seen beyond the picture's edges."},
          {{FrameEdges::Enlarge, {"enlarge", "Enlarge", "Nothing: it is enlarged by as much as that needs."}},
           {FrameEdges::StandStill, {"stand-still", "Stand still", "The edge goes on."}},
           {FrameEdges::Mirror, {"mirror", "Mirrored", "The picture, mirrored there."}},
           {FrameEdges::Transparent,
            {"transparent", "Transparent", "Nothing: transparent, or black where there is no transparency."}}},
          FrameEdges::Enlarge)),
      shape(list.choice<FrameShape>({"shape", "Shape", "Size and shape", "Of what comes out."},
                                    {{FrameShape::AsItComes, {"as-it-comes", "As it comes", "That of the picture."}},
                                     {FrameShape::Tall, {"tall", "Tall", "9 to 16."}},
                                     {FrameShape::Square, {"square", "Square", "As wide as high."}},
                                     {FrameShape::Wide, {"wide", "Wide", "16 to 9."}},
                                     {FrameShape::Own, {"own", "Own", "So many pixels."}}},
                                    FrameShape::AsItComes)),
      width(list.number({"width", "Width", "Size and shape", "Of what comes out.", false,
                         ParameterDescription::Condition{"shape", {"own"}}},
                        {Unit::Pixels, 16, 16384, 1080, 2, 4096, 0, Tense::None, true})),
      height(list.number({"height", "Height", "Size and shape", "Of what comes out.", false,
                          ParameterDescription::Condition{"shape", {"own"}}},
                         {Unit::Pixels, 16, 16384, 1350, 2, 4096, 0, Tense::None, true})),
      shake(list.number({"shake", "Shake", "Shake", "How far it goes, of the picture's height.", true},
                        percent(0, 1, 0, 0.1))),
      shakes(list.number({"shakes", "Shakes", "Shake", "How often a second it changes its way.", false, shaken},
                         {Unit::Times, 0.05, 120, 3, 0.5, 15, 2, Tense::None})),
      goes(list.choice<ShakeGoes>({"shake-goes", "Shake goes", "Shake", "How it comes from one place to the next.", false, shaken},
                                  {{ShakeGoes::Smooth, {"smooth", "Smooth", "As a hand does."}},
                                   {ShakeGoes::Jumps, {"jumps", "In jumps", "As a loose gate does."}}},
                                  ShakeGoes::Smooth)),
      shakeTurn(list.number({"shake-turn", "Shake turn", "Shake", "How far it turns at the same time.", true, shaken},
                            {Unit::Degrees, 0, 45, 0.5, 0.1, 5, 2, Tense::None})),
      shakeZoom(list.number({"shake-zoom", "Shake zoom", "Shake", "How much nearer and further it comes.", true, shaken},
                            percent(0, 0.5, 0, 0.1))),
      seed(list.number({"shake-seed", "Shake seed", "Shake", "Another number: another shake.", false, shaken},
                       {Unit::None, 0, 99999, 1, 1, 100, 0, Tense::None, true})),
      blur(list.number({"blur", "Blur", "Blur of its moves",
                        "How long a shutter is open about the moment, of a picture's time: what the frame's moves blur.", true},
                       percent(0, 8, 0, 1))),
      positions(list.number({"positions", "Positions", "Blur of its moves",
                             "Of the frame, that are averaged; automatic: as many as its moves ask for.", false,
                             ParameterDescription::Condition{"blur"}},
                            {Unit::None, 0, mostPositions, 0, 1, 32, 0, Tense::None, true, "automatic"})) {}

const FramingParameters& framingParameters() {
  static const FramingParameters parameters;
  return parameters;
}

namespace {
const FramingParameters& of() { return framingParameters(); }

/// The largest frame of a shape that the picture has room for; of even sides.
Size sizeOf(const StageValues& values, const VideoDescription& in) {
  const auto even = [](double length) { return std::max(2, static_cast<int>(length / 2 + 1e-6) * 2); };
  const auto largest = [&](double across, double down) {
    const double shape = across / down / in.pixelAspect.toDouble();
    const double width = std::min<double>(in.size.width, in.size.height * shape);
    return Size{std::min(even(width), in.size.width), std::min(even(width / shape), in.size.height)};
  };
  switch (of().shape(values)) {
    case FrameShape::Tall:
      return largest(9, 16);
    case FrameShape::Square:
      return largest(1, 1);
    case FrameShape::Wide:
      return largest(16, 9);
    case FrameShape::Own:
      return {static_cast<int>(of().width(values)), static_cast<int>(of().height(values))};
    case FrameShape::AsItComes:
      break;
  }
  return in.size;
}

}  // namespace

VideoDescription framed(const StageValues& values, const VideoDescription& in) {
  VideoDescription out = in;
  out.size = sizeOf(values, in);
  return out;
}

FramingView::FramingView(const Stage& stage, const VideoDescription& in, const Surroundings& around)
    : in_(in), out_(framed(stage.values, in)), values_(stage, in, around) {
  out_.endless = in.endless && !varies();
  // As far as the draws go that are met; of a long video all that they may.
  const auto draws = static_cast<std::int64_t>(std::ceil(in.seconds().toDouble() * of().shakes(stage.values))) + 2;
  const double step = 1 / of().shakes(stage.values);
  most_ = {1, 1, 1, 1};
  if (draws > mostDraws) return;
  most_ = {};
  StageValues all = stage.values;
  of().shake.set(all, 1), of().shakeTurn.set(all, 1), of().shakeZoom.set(all, 1);
  for (std::int64_t i = -1; i < draws; ++i) {
    const Shake at = shakeAt(all, static_cast<double>(i) * step * in.rate.toDouble());
    most_ = {std::max(most_.x, std::abs(at.x)), std::max(most_.y, std::abs(at.y)), std::max(most_.turn, std::abs(at.turn)),
             std::max(most_.zoom, std::abs(at.zoom))};
  }
}

bool FramingView::varies() const {
  return values_.vary() || of().shake(values_.stage().values) > 0;
}

FramingView::Shake FramingView::shakeAt(const StageValues& values, double position) const {
  Jitter jitter;
  jitter.perSecond = of().shakes(values);
  jitter.smooth = of().goes(values) == ShakeGoes::Smooth;
  jitter.seed = static_cast<std::uint32_t>(of().seed(values));
  const double seconds = position / in_.rate.toDouble();
  const auto drawn = [&](const char* what) { return jitterAt(jitter, seconds, saltOf(what)); };
  return {of().shake(values) * drawn("shake x"), of().shake(values) * drawn("shake y"),
          of().shakeTurn(values) * drawn("shake turn"), of().shakeZoom(values) * drawn("shake zoom")};
}

FramingView::Lay FramingView::layAt(double position) const {
  const StageValues values = values_.at(position);
  const double w = in_.size.width, h = in_.size.height, fw = out_.size.width, fh = out_.size.height;
  const double aspect = in_.pixelAspect.toDouble();
  const double room = std::min(w / fw, h / fh);
  const bool shakes = of().shake(values) > 0;
  const Shake shake = shakes ? shakeAt(values, position) : Shake{};
  double step = room / of().zoom(values);
  const Place held = of().place(values);
  Lay lay;
  double cx = 0, cy = 0;
  const double degrees = of().turn(values);
  const bool closed = of().edges(values) == FrameEdges::Enlarge;
  if (closed) {
    // Half of what the frame takes up each way, in pixels of the picture, whatever the shake does.
    double ex = 0, ey = 0;
    const double sway = shakes ? most_.turn * of().shakeTurn(values) : 0;
    const double near = shakes ? 1 - most_.zoom * of().shakeZoom(values) : 1;
    const double farX = fw / 2 / near + (shakes ? most_.x * of().shake(values) * fh / aspect : 0),
                 farY = fh / 2 / near + (shakes ? most_.y * of().shake(values) * fh : 0);
    constexpr int angles = 8;
    for (int i = -angles; i <= angles; ++i) {
      const Turn turn(degrees + sway * i / angles, aspect);
      ex = std::max(ex, std::abs(turn.c) * farX + std::abs(turn.s) * farY / aspect);
      ey = std::max(ey, std::abs(turn.c) * farY + std::abs(turn.s) * farX * aspect);
      if (sway == 0) break;
    }
    // What lies between two of those angles: 1 − cos of half of what they are apart.
    if (sway > 0) {
      const double more = 1 / std::cos(sway / angles / 2 * std::acos(-1.0) / 180);
      ex *= more, ey *= more;
    }
    ex *= step, ey *= step;
    lay.enlarged = std::max({1.0, 2 * ex / w, 2 * ey / h});
    step /= lay.enlarged, ex /= lay.enlarged, ey /= lay.enlarged;
    cx = ex + std::clamp(held.x, 0.0, 1.0) * (w - 2 * ex), cy = ey + std::clamp(held.y, 0.0, 1.0) * (h - 2 * ey);
  }
  const double own = step / (1 + shake.zoom);
  const Turn turn(degrees + shake.turn, aspect);
  Affine& way = lay.way;
  // R(−turn): back to where it was before it was turned.
  way.xx = turn.c * own, way.xy = turn.s * own / aspect;
  way.yx = -turn.s * own * aspect, way.yy = turn.c * own;
  if (!closed) {
    // The held place stands where it stood, but for the shake.
    const Turn still(degrees, aspect);
    const double ox = fw * (0.5 - held.x) * step, oy = fh * (0.5 - held.y) * step;
    cx = held.x * w + still.c * ox + still.s * oy / aspect;
    cy = held.y * h - still.s * ox * aspect + still.c * oy;
  }
  const double sx = shake.x * fh / aspect, sy = shake.y * fh;
  way.x0 = cx + way.xx * sx + way.xy * sy, way.y0 = cy + way.yx * sx + way.yy * sy;
  // From the frame's corner instead of its middle, and the other way round where it is mirrored.
  const Mirrored mirror = of().mirror(values);
  const bool across = mirror == Mirrored::Across || mirror == Mirrored::Both,
             down = mirror == Mirrored::Down || mirror == Mirrored::Both;
  if (across) way.xx = -way.xx, way.yx = -way.yx;
  if (down) way.xy = -way.xy, way.yy = -way.yy;
  way.x0 -= way.xx * fw / 2 + way.xy * fh / 2, way.y0 -= way.yx * fw / 2 + way.yy * fh / 2;
  return lay;
}

Affine FramingView::wayAt(double position) const {
  return layAt(position).way;
}

std::vector<Affine> FramingView::waysAt(double position) const {
  const StageValues values = values_.at(position);
  const double open = of().blur(values);
  if (open <= 0 || !varies()) return {wayAt(position)};
  auto count = static_cast<int>(of().positions(values));
  if (count == 0) {
    const Affine from = wayAt(position - open / 2), to = wayAt(position + open / 2);
    // How far the corners go, in pixels of the frame.
    const double step = std::sqrt(std::abs(from.determinant()));
    double far = 0;
    for (const double x : {0.0, static_cast<double>(out_.size.width)})
      for (const double y : {0.0, static_cast<double>(out_.size.height)})
        far = std::max(far, std::hypot(to.x(x, y) - from.x(x, y), to.y(x, y) - from.y(x, y)) / step);
    count = std::clamp(static_cast<int>(std::ceil(far / seenPixels)), 1, mostPositions);
  }
  std::vector<Affine> ways;
  for (int i = 0; i < count; ++i) ways.push_back(wayAt(position + open * ((i + 0.5) / count - 0.5)));
  return ways;
}

}  // namespace molten
