#pragma once
// What an Insert lays over the picture, and where.

#include "core/picture/lay.h"
#include "core/stages/moving_values.h"
#include "core/stages/parameter_list.h"

namespace molten {

enum class InsertShows { Source, Title };
enum class InsertSize { Whole, Fills, Own };
enum class GrowsFrom { Middle, Left, Right, Top, Bottom };
enum class LaidHow { Layers, Light, Wins };
enum class LaidWinner { Brightest, Darkest };
enum class KeyBy { Nothing, Colour, Brightness };

struct InsertParameters {
  ParameterList list;
  ChoiceHandle<InsertShows> shows;
  ParameterHandle<std::string> source;
  ParameterHandle<std::string> text, typeface;
  ParameterHandle<double> weight, letters;
  ParameterHandle<Colour> colour;
  ParameterHandle<double> startsAt;
  ParameterHandle<Place> at;
  ParameterHandle<double> scale, turn, opacity;
  ChoiceHandle<KeyBy> key;
  ParameterHandle<Colour> keyColour;
  ParameterHandle<double> near, soft, spill;
  ChoiceHandle<LaidView> view;
  ChoiceHandle<InBetween> between;
  ParameterHandle<double> fps;
  ParameterHandle<double> from, to;
  ChoiceHandle<PastTheEnds> ends;
  ParameterHandle<double> tracking, lineDistance;
  ChoiceHandle<TitleLook::Align> align;
  ParameterHandle<double> outline;
  ParameterHandle<Colour> outlineColour;
  ParameterHandle<double> shade, shadeAway, shadeSoft;
  ChoiceHandle<InsertSize> size;
  ParameterHandle<double> width, height;
  ChoiceHandle<GrowsFrom> growsFrom;
  ParameterHandle<double> cropLeft, cropRight, cropTop, cropBottom;
  ChoiceHandle<LaidHow> laid;
  ParameterHandle<bool> belowWhite;
  ChoiceHandle<LaidWinner> winner;
  ChoiceHandle<Light> reckoned;
  ParameterHandle<double> edgesIn, holes;
  ParameterHandle<Painting> leftOut;
  InsertParameters();
};
const InsertParameters& insertParameters();

/// How a video of `own` size is laid over one of `incoming`. With q a place of the lower picture beside *at*, in square
/// pixels of it, the upper one shows there
///   g + R(−turn)·q / (s·scale·(width, height)),
/// g the place of its *grows from*, s the scale of its *size*: 1 for a title.
Laying layingOf(const StageValues& values, const VideoDescription& incoming, const OwnPicture& own);
/// All of it counts.
OwnPicture wholeOf(const VideoDescription& own);
/// What the title says, if one is shown.
std::optional<TitleLook> lookOf(const StageValues& values, const VideoDescription& incoming);

}  // namespace molten
