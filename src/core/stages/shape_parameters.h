#pragma once
// The parameters of a field's shape, which a Time Field has twice, and the shapes made of them.

#include <functional>

#include "core/stages/material.h"
#include "core/stages/stage.h"

namespace molten {

/// Adds the parameters of a shape: of the first one, or of the second, whose ids begin with `second-`.
void addShapeParameters(std::vector<ParameterDescription>& parameters, bool second);

/// The parameters of one shape among those of a stage: where they begin.
class ShapeParameters {
 public:
  enum Shape : std::size_t { Linear, Radial, Sweep, Noise, Picture, Footage, Painted };
  enum Parameter : std::size_t {
    ShapeChoice,
    Start,
    End,
    Centre,
    Inner,
    Outer,
    Stretch,
    Angle,
    Turn,
    Scale,
    Detail,
    Evolution,
    Seed,
    File,
    Fit,
    Width,
    Measure,
    FullMotion,
    Clip,
    Painted16,
    Blur,
    Count
  };

  explicit ShapeParameters(std::size_t first) : first_(first) {}
  std::size_t at(Parameter parameter) const { return first_ + parameter; }
  Shape shape(const StageValues& values) const {
    return static_cast<Shape>(std::get<std::size_t>(values[at(ShapeChoice)]));
  }
  double number(const StageValues& values, Parameter parameter) const {
    return std::get<double>(values[at(parameter)]);
  }
  Place place(const StageValues& values, Parameter parameter) const { return std::get<Place>(values[at(parameter)]); }

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

 private:
  std::size_t first_;
};

}  // namespace molten
