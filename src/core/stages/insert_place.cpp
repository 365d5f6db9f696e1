#include "core/stages/insert_place.h"

#include <algorithm>
#include <cmath>

#include "core/stages/common_parameters.h"

namespace molten {
namespace {

using When = ParameterDescription::Condition;
const char *const cardFrames = "Frames", *const cardLines = "Lines", *const cardTrims = "Trims", *const cardMatte = "Matte",
                  *const cardOutline = "Outline and shade", *const cardSource = "Source", *const cardTitle = "Title", *const cardTime = "Time", *const cardPlace = "Place", *const cardSize = "Size",
                  *const cardCrop = "Crop", *const cardLaid = "Laid over", *const cardKey = "Key", *const cardOut = "Left out";

NumberDescription percent(double least, double most, double initial, double step, double usual) {
  return {Unit::Percent, least, most, initial, step, usual, 1, Tense::None};
}
const When isSource{"shows", {"source"}}, isTitle{"shows", {"title"}};

}  // namespace

InsertParameters::InsertParameters()
    : shows(list.choice<InsertShows>({"shows", "Shows", cardSource, "What is laid over the picture."},
                                     {{InsertShows::Source, {"source", "Source", "A clip, stills, or a project's result."}},
                                      {InsertShows::Title, {"title", "Title", "Words."}}},
                                     InsertShows::Source)),
      source(list.file({"source", "Source", cardSource, "A clip, numbered stills, a picture, or a project's result.", false, isSource},
                       FileDescription{"none yet", true})),
      text(list.text({"text", "Text", cardTitle, "What it says, in as many lines as there are.", false, isTitle}, {"Title", true, false})),
      typeface(list.text({"typeface", "Typeface", cardTitle, "Of those that are installed, and the one that comes along.", false, isTitle}, {"B612 Bench", false, true})),
      weight(list.number({"weight", "Weight", cardTitle, "400 as books have it, 700 bold.", true, isTitle}, {Unit::None, 100, 900, 700, 100, 900, 0, Tense::None, true})),
      letters(list.number({"letters", "Letters", cardTitle, "How large they are, as a part of the picture's height.", true, isTitle}, percent(0.01, 3, 0.14, 0.01, 0.5))),
      colour(list.colour({"colour", "Colour", cardTitle, "Of the letters.", true, isTitle}, {0xf3, 0xef, 0xe6})),
      startsAt(list.number({"starts-at", "Starts at", cardTime, "The moment of the picture at which it begins.", false},
                           {Unit::Seconds, -36000, 36000, 0, 0.1, 10, 3, Tense::None, false, nullptr, true})),
      at(list.place({"at", "At", cardPlace, "Where it stands on the picture.", true}, {0.5, 0.5})),
      scale(list.number({"scale", "Scale", cardPlace, "How large it is.", true}, percent(0, 100, 1, 0.02, 2))),
      turn(list.number({"turn", "Turn", cardPlace, "By how much it is turned, clockwise.", true},
                       {Unit::Degrees, -3600, 3600, 0, 1, 180, 1, Tense::None})),
      opacity(list.number({"opacity", "Opacity", cardPlace, "How much of it is seen.", true}, percent(0, 1, 1, 0.05, 1))),
      key(list.choice<KeyBy>({"key", "Key", cardKey, "What of it is cut out.", false, When{"source"}},
                             {{KeyBy::Nothing, {"nothing", "Nothing", "All of it is there."}},
                              {KeyBy::Colour, {"colour", "Colour", "What is near to a colour."}},
                              {KeyBy::Brightness, {"brightness", "Brightness", "What is about as bright as a colour."}}},
                             KeyBy::Nothing)),
      keyColour(list.colour({"key-colour", "Key colour", cardKey, "What is cut out: pick it on the Picture.", false, When{"key", {"colour", "brightness"}}},
                            {0, 150, 60})),
      near(list.number({"near", "Near", cardKey, "So far from that colour all is still cut out.", true, When{"key", {"colour", "brightness"}}},
                       percent(0, 1, 0.1, 0.01, 1))),
      soft(list.number({"soft", "Soft", cardKey, "Over so much more it comes to be there whole.", true, When{"key", {"colour", "brightness"}}},
                       percent(0, 1, 0.8, 0.01, 1))),
      spill(list.number({"spill", "Spill", cardKey, "How much of the colour's light on what is left is taken away.", true, When{"key", {"colour"}}},
                        percent(0, 1, 1, 0.05, 1))),
      view(list.choice<LaidView>({"view", "View", cardKey, "What is seen, and rendered.", false, When{"key", {"colour", "brightness"}}},
                                 {{LaidView::Result, {"result", "Result", "It lies over the picture."}},
                                  {LaidView::Matte, {"matte", "Matte", "White where it is there, black where it is not."}},
                                  {LaidView::Figure, {"figure", "Figure", "What is left of it, over gray."}}},
                                 LaidView::Result)),
      between(list.choice<InBetween>(
          {"in-between", "In-between", cardFrames, "What is seen between two of its frames.", false, When{"source"}}, inBetweens(),
          InBetween::Whole)),
      fps(list.number({"fps", "Fps", cardFrames, "Pictures a second of numbered stills, or of a clip whose rate varies.", false,
                       When{"source"}},
                      {Unit::PerSecond, 0, 1000, 0, 1, 60, 2, Tense::None, false, "its own"})),
      from(list.number({"from", "From", cardTrims, "How much is left off at its beginning.", false, When{"source"}},
                       secondsNumber(0, 36000, 0, 0.1, 10))),
      to(list.number({"to", "To", cardTrims, "How long after its own beginning it ends.", false},
                     secondsNumber(0, 36000, 0, 0.1, 10, Tense::None, "its end"))),
      ends(pastTheEndsIn(list, cardTrims, PastTheEnds::Transparent, When{"source"})),
      tracking(list.number({"tracking", "Tracking", cardLines, "More or less room between letters, in letter sizes.", true, isTitle}, percent(-0.5, 10, 0, 0.01, 1))),
      lineDistance(list.number({"line-distance", "Line distance", cardLines, "From line to line, in letter sizes.", true, isTitle}, percent(0.2, 10, 1.2, 0.05, 3))),
      align(list.choice<TitleLook::Align>({"align", "Align", cardLines, "Where its lines stand beside each other.", false, isTitle},
                                          {{TitleLook::Align::Left, {"left", "Left", "Their left ends below each other."}},
                                           {TitleLook::Align::Middle, {"middle", "Middle", "Their middles below each other."}},
                                           {TitleLook::Align::Right, {"right", "Right", "Their right ends below each other."}}},
                                          TitleLook::Align::Middle)),
      outline(list.number({"outline", "Outline", cardOutline, "How wide it is, in letter sizes.", true, isTitle}, percent(0, 1, 0, 0.005, 0.2))),
      outlineColour(list.colour({"outline-colour", "Outline colour", cardOutline, "Of the outline.", true, When{"outline"}}, {0x13, 0x14, 0x16})),
      shade(list.number({"shade", "Shade", cardOutline, "How dark a shade lies behind it.", true, isTitle}, percent(0, 1, 0, 0.05, 1))),
      shadeAway(list.number({"shade-away", "Shade away", cardOutline, "How far it falls, in letter sizes.", true, When{"shade"}}, percent(0, 2, 0.06, 0.01, 0.5))),
      shadeSoft(list.number({"shade-soft", "Shade soft", cardOutline, "How soft it is, in letter sizes.", true, When{"shade"}}, percent(0, 1, 0.08, 0.01, 0.5))),
      size(list.choice<InsertSize>({"size", "Size", cardSize, "What 100 % of its scale is.", false, When{"source"}},
                                   {{InsertSize::Whole, {"whole", "Whole", "All of it finds room in the picture."}},
                                    {InsertSize::Fills, {"fills", "Fills", "No place of the picture is left free."}},
                                    {InsertSize::Own, {"own", "Own", "Its pixels are as large as the picture's."}}},
                                   InsertSize::Whole)),
      width(list.number({"width", "Width", cardSize, "Beside its scale; 0 % is nothing.", true}, percent(0, 100, 1, 0.02, 2))),
      height(list.number({"height", "Height", cardSize, "Beside its scale; 0 % is nothing.", true}, percent(0, 100, 1, 0.02, 2))),
      growsFrom(list.choice<GrowsFrom>({"grows-from", "Grows from", cardSize, "The side that stays where it is as it grows.", false},
                                       {{GrowsFrom::Middle, {"middle", "Middle", "Its middle stands at its place."}},
                                        {GrowsFrom::Left, {"left", "Left", "Its left side does."}},
                                        {GrowsFrom::Right, {"right", "Right", "Its right side does."}},
                                        {GrowsFrom::Top, {"top", "Top", "Its upper side does."}},
                                        {GrowsFrom::Bottom, {"bottom", "Bottom", "Its lower side does."}}},
                                       GrowsFrom::Middle)),
      cropLeft(list.number({"crop-left", "Crop left", cardCrop, "How much of its width is left off there.", true}, percent(0, 1, 0, 0.01, 1))),
      cropRight(list.number({"crop-right", "Crop right", cardCrop, "How much of its width is left off there.", true}, percent(0, 1, 0, 0.01, 1))),
      cropTop(list.number({"crop-top", "Crop top", cardCrop, "How much of its height is left off there.", true}, percent(0, 1, 0, 0.01, 1))),
      cropBottom(list.number({"crop-bottom", "Crop bottom", cardCrop, "How much of its height is left off there.", true}, percent(0, 1, 0, 0.01, 1))),
      laid(list.choice<LaidHow>({"laid-over", "Laid over", cardLaid, "How both become one picture.", false},
                                {{LaidHow::Layers, {"layers", "Layers", "It covers what lies under it."}},
                                 {LaidHow::Light, {"light", "Light", "Its light is added."}},
                                 {LaidHow::Wins, {"wins", "Wins", "At each place one of both wins: the brighter or the darker."}}},
                                LaidHow::Layers)),
      belowWhite(list.toggle({"below-white", "Below white", cardLaid, "Light that adds up never burns out.", false, When{"laid-over", {"light"}}}, true)),
      winner(list.choice<LaidWinner>({"winner", "Winner", cardLaid, "Which one wins.", false, When{"laid-over", {"wins"}}},
                                     {{LaidWinner::Brightest, {"brightest", "Brightest", "The brighter of both."}},
                                      {LaidWinner::Darkest, {"darkest", "Darkest", "The darker of both."}}},
                                     LaidWinner::Brightest)),
      reckoned(reckonedIn(list, cardLaid, Light::Display)),
      edgesIn(list.number({"edges-in", "Edges in", cardMatte, "By how much its edges are pulled in; below 0: out.", true, When{"key", {"colour", "brightness"}}},
                          {Unit::Pixels, -50, 50, 0, 0.5, 10, 1, Tense::None})),
      holes(list.number({"holes", "Holes", cardMatte, "Holes in it up to so wide are filled.", true, When{"key", {"colour", "brightness"}}},
                        {Unit::Pixels, 0, 100, 0, 1, 30, 1, Tense::None})),
      leftOut(list.painting({"left-out", "Left out", cardOut, "Where white is painted on the picture nothing of it is laid."})) {}

const InsertParameters& insertParameters() {
  static const InsertParameters parameters;
  return parameters;
}

namespace {

/// What is cut out of the upper picture.
std::optional<KeyRecipe> keyOf(const StageValues& values) {
  const auto& of = insertParameters();
  if (of.shows(values) == InsertShows::Title || of.key(values) == KeyBy::Nothing) return std::nullopt;
  KeyRecipe key;
  key.byBrightness = of.key(values) == KeyBy::Brightness;
  const Colour colour = of.keyColour(values);
  key.colour = {static_cast<float>(colour.red) / 255, static_cast<float>(colour.green) / 255, static_cast<float>(colour.blue) / 255};
  key.near = of.near(values), key.soft = of.soft(values);
  key.edgesIn = of.edgesIn(values), key.holes = of.holes(values), key.spill = of.spill(values);
  return key;
}

BlendMode blendOf(const StageValues& values) {
  const auto& of = insertParameters();
  switch (of.laid(values)) {
    case LaidHow::Light:
      return of.belowWhite(values) ? BlendMode::BelowWhite : BlendMode::Sum;
    case LaidHow::Wins:
      return of.winner(values) == LaidWinner::Brightest ? BlendMode::Brightest : BlendMode::Darkest;
    case LaidHow::Layers:
      break;
  }
  return BlendMode::Over;
}

}  // namespace

Laying layingOf(const StageValues& values, const VideoDescription& incoming, const OwnPicture& own) {
  const auto& of = insertParameters();
  const double aspect = incoming.pixelAspect.toDouble(), ownAspect = own.pixelAspect.toDouble();
  const double width = own.right - own.left, height = own.bottom - own.top;
  const double across = incoming.size.width * aspect / (width * ownAspect), down = incoming.size.height / height;
  const InsertSize sized = of.shows(values) == InsertShows::Title ? InsertSize::Own : of.size(values);
  const double step = sized == InsertSize::Own ? 1 : sized == InsertSize::Fills ? std::max(across, down) : std::min(across, down);
  const double scaleX = step * of.scale(values) * of.width(values), scaleY = step * of.scale(values) * of.height(values);
  Laying laying;
  // What stands over is cropped with the side that it stands over.
  const auto cropped = [](double crop, double edge, double end, double outside) { return crop > 0 ? edge + crop * (end - edge) : outside; };
  laying.left = cropped(of.cropLeft(values), own.left, own.right, 0), laying.right = cropped(of.cropRight(values), own.right, own.left, own.size.width);
  laying.top = cropped(of.cropTop(values), own.top, own.bottom, 0), laying.bottom = cropped(of.cropBottom(values), own.bottom, own.top, own.size.height);
  laying.opacity = static_cast<float>(of.opacity(values));
  laying.blend = blendOf(values);
  laying.light = of.reckoned(values);
  laying.key = keyOf(values);
  laying.view = laying.key ? of.view(values) : LaidView::Result;
  if (const auto& painting = of.leftOut(values); painting.picture) {
    const auto gray = painting.picture->gray();
    laying.leftOut = {{gray->width, gray->height}, {gray, &gray->samples}};
  }
  // So small that nothing of it is seen.
  constexpr double nothing = 0.25;
  if (std::abs(scaleX) * width < nothing || std::abs(scaleY) * height < nothing || laying.right <= laying.left || laying.bottom <= laying.top) {
    laying.opacity = 0;
    return laying;
  }
  const GrowsFrom side = of.growsFrom(values);
  const double gx = side == GrowsFrom::Left ? own.left : side == GrowsFrom::Right ? own.right : (own.left + own.right) / 2;
  const double gy = side == GrowsFrom::Top ? own.top : side == GrowsFrom::Bottom ? own.bottom : (own.top + own.bottom) / 2;
  const double turn = of.turn(values) * std::acos(-1.0) / 180;
  const bool straight = std::fmod(of.turn(values), 360) == 0;
  const double c = straight ? 1 : std::cos(turn), s = straight ? 0 : std::sin(turn);
  Affine& way = laying.way;
  way.xx = c * aspect / (scaleX * ownAspect), way.xy = s / (scaleX * ownAspect);
  way.yx = -s * aspect / scaleY, way.yy = c / scaleY;
  const Place at = of.at(values);
  const double x = at.x * incoming.size.width, y = at.y * incoming.size.height;
  way.x0 = gx - way.xx * x - way.xy * y, way.y0 = gy - way.yx * x - way.yy * y;
  return laying;
}

OwnPicture wholeOf(const VideoDescription& own) {
  return {own.size, own.pixelAspect, 0, 0, static_cast<double>(own.size.width), static_cast<double>(own.size.height)};
}

std::optional<TitleLook> lookOf(const StageValues& values, const VideoDescription& incoming) {
  const auto& of = insertParameters();
  if (of.shows(values) != InsertShows::Title) return std::nullopt;
  const auto shown = [](const Colour& colour) { return std::array<double, 3>{colour.red / 255.0, colour.green / 255.0, colour.blue / 255.0}; };
  constexpr double roomBeside = 0.96;
  TitleLook look;
  look.text = of.text(values), look.typeface = of.typeface(values);
  look.weight = static_cast<int>(of.weight(values));
  look.size = of.letters(values) * incoming.size.height;
  look.tracking = of.tracking(values) * look.size, look.lineDistance = of.lineDistance(values);
  look.align = of.align(values);
  look.width = incoming.size.width * incoming.pixelAspect.toDouble() * roomBeside;
  look.colour = shown(of.colour(values)), look.outlineColour = shown(of.outlineColour(values));
  look.outline = of.outline(values) * look.size;
  look.shade = of.shade(values), look.shadeAway = of.shadeAway(values) * look.size, look.shadeSoft = of.shadeSoft(values) * look.size;
  return look;
}

}  // namespace molten
