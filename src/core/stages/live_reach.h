#pragma once
// What a chain needs of a camera's past, and of its future.

#include "core/stages/stage.h"

namespace molten {

/// In seconds, both from 0 on.
struct LiveReach {
  double back = 0;   ///< so old a picture is read
  double ahead = 0;  ///< so much later than it comes is a picture shown
};
/// Of stages that can run on a camera. `camera`: what enters the first of them.
LiveReach liveReach(const Chain& chain, const VideoDescription& camera, const std::shared_ptr<Material>& material);

/// The stages that can run on a camera, and a sentence about each that cannot and is left out.
struct LiveStages {
  Chain chain;
  std::vector<std::string> leftOut;
};
LiveStages liveStages(const Chain& chain);

}  // namespace molten
