#pragma once
// The parameters of a field's shape, which a Time Field has twice, and the shapes made of them.

#include <functional>

#include "core/stages/material.h"
#include "core/stages/parameter_list.h"
#include "core/stages/stage.h"

namespace molten {

/// The parameters of one shape among those of a stage, and what they make.
class ShapeParameters {
 public:
  enum class Shape { Linear, Radial, Sweep, Noise, Picture, Footage, Painted };

  /// Adds them to a list: of the first shape, or of the second, whose ids begin with `second-` and which counts where
  /// `when` says.
  ShapeParameters(ParameterList& list, const std::optional<ParameterDescription::Condition>& when);

  ChoiceHandle<Shape> shape;
  ParameterHandle<Place> start, end, centre;
  ParameterHandle<double> inner, outer, stretch, angle, turn, cloudSize, finerLayers, change, seed;
  ParameterHandle<std::string> file;
  ParameterHandle<double> fileBegins;
  ChoiceHandle<PastTheEnds> fileEnds;
  ChoiceHandle<PictureFit> fit;
  ParameterHandle<double> width;
  ChoiceHandle<Measured> measure;
  ParameterHandle<double> fastestMotion;
  ParameterHandle<std::string> clip;
  ParameterHandle<double> clipBegins;
  ChoiceHandle<PastTheEnds> clipEnds;
  ParameterHandle<Painting> painted;
  ParameterHandle<double> blur;

  /// True if the shape is another one at another moment though the values stay.
  bool moves(const StageValues& values) const;
  /// The shape at a moment, the values being those of the moment.
  std::unique_ptr<FieldShape> make(const StageValues& values, const Moment& moment, const VideoDescription& video,
                                   const Surroundings& around) const;
  /// Bounds of f over the picture, without reading any file.
  std::pair<float, float> bounds(const StageValues& values, const VideoDescription& video) const;

  /// `momentOf`: what a pixel with this f reads, in seconds beside the present moment.
  using MomentOf = std::function<double(float)>;
  std::vector<StageHandle> handles(const StageValues& values, const VideoDescription& video,
                                   const MomentOf& momentOf) const;
  std::vector<FieldLine> lines(const StageValues& values, const VideoDescription& video,
                               const MomentOf& momentOf) const;
  StageValues withHandle(StageValues values, std::size_t handle, Place place, const VideoDescription& video) const;
  /// With that end of the shape, where it is f (0 or 1), at a place; none if the shape has no such end to be moved.
  std::optional<StageValues> withEndAt(const StageValues& values, double f, Place place,
                                       const VideoDescription& video) const;
};

}  // namespace molten
