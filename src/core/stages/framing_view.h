#pragma once
// What a Framing sees: where its frame lies on the picture.

#include <optional>
#include <vector>

#include "core/picture/affine.h"
#include "core/picture/resample.h"
#include "core/stages/moving_values.h"
#include "core/stages/parameter_list.h"

namespace molten {

enum class Mirrored { None, Across, Down, Both };
enum class FrameShape { AsItComes, Square, Tall, Wide, Own };
enum class FrameEdges { Enlarge, StandStill, Mirror, Transparent };
enum class ShakeGoes { Smooth, Jumps };

struct FramingParameters {
  ParameterList list;
  ParameterHandle<double> zoom;
  ParameterHandle<Place> place;
  ParameterHandle<double> turn;
  ChoiceHandle<Mirrored> mirror;
  ChoiceHandle<FrameEdges> edges;
  ChoiceHandle<FrameShape> shape;
  ParameterHandle<double> width, height;
  ParameterHandle<double> shake, shakes;
  ChoiceHandle<ShakeGoes> goes;
  ParameterHandle<double> shakeTurn, shakeZoom, seed;
  ParameterHandle<double> blur, positions;
  FramingParameters();
};
const FramingParameters& framingParameters();

/// What leaves: of the stage's own size, where it has one.
VideoDescription framed(const StageValues& values, const VideoDescription& in);

/// Where the frame lies at each moment. For several threads.
///
/// With no mirror, a place o of the frame (pixels, from its middle) shows the place
///   C + R(−turn)·(o + shake·H)·s,  s = b/(zoom·enlarged)
/// of the picture, R in square pixels, H the frame's height, b the step at which the frame's shape just finds room in the
/// picture. Where edges may be seen, C is such that the held place (x, y) of the picture stands at (x, y) of the frame,
/// turning or not. Where they may not: C = e + (x, y)·(W − 2e), e being half of what the turned frame takes up each way,
/// with all of the shake; and it is enlarged until 2e finds room.
class FramingView {
 public:
  FramingView(const Stage& stage, const VideoDescription& in, const Surroundings& around);

  const VideoDescription& incoming() const { return in_; }
  const VideoDescription& outgoing() const { return out_; }
  const MovingValues& values() const { return values_; }
  bool varies() const;
  /// From pixels of the frame to those of the picture that enters; `position`: in pictures.
  Affine wayAt(double position) const;
  /// While the shutter is open about a moment: one, if nothing moves by as much as is seen.
  std::vector<Affine> waysAt(double position) const;
  /// By how much it has to be enlarged there so that no edge is seen: 1 or more.
  double enlargedAt(double position) const { return layAt(position).enlarged; }

 private:
  struct Lay {
    Affine way;
    double enlarged = 1;
  };
  struct Shake {
    double x = 0, y = 0, turn = 0, zoom = 0;
  };
  Shake shakeAt(const StageValues& values, double position) const;
  Lay layAt(double position) const;

  VideoDescription in_, out_;
  MovingValues values_;
  Shake most_;  ///< as far as it goes in this video, of 1
};

}  // namespace molten
