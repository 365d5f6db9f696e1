#pragma once
// Where in the footage the pixels of a picture read: for drawing and telling, without reading any frame.

#include "core/stages/chain_reads.h"
#include "core/stages/material.h"

namespace molten {

/// What a place of a picture reads.
struct PlaceReads {
  double position = 0;     ///< in frames of the footage from its first one; may lie outside of it
  std::int32_t frame = 0;  ///< the nearest frame of the footage, past the ends as the stage there says; or noFrame
};

/// Of a chain over footage. For one thread at a time.
class MomentTrace {
 public:
  MomentTrace(const Chain& chain, const VideoDescription& footage, const std::shared_ptr<Material>& material);

  /// The positions that a row of sites reads in the picture at a moment, in frames of the footage, not rounded at the
  /// footage; may lie outside of it. Requires out.size() == sites.width.
  void row(const Moment& moment, const PlaneSites& sites, int row, std::span<double> out);
  /// Of the pixel at a place, in pixels of the full size.
  PlaceReads at(const Moment& moment, double x, double y);

  const VideoDescription& footage() const { return videos_.front(); }

 private:
  std::vector<std::unique_ptr<TimeMap>> maps_;
  std::vector<VideoDescription> videos_;  ///< that enter the stages, and the one that leaves
};

/// How wide the steps from one frame to the next are, in pixels, where a field makes them.
struct StepWidths {
  double widest = 0;  ///< 0: there are none
  double usual = 0;   ///< the middle one of those that were measured
};
/// Measured on a grid over the picture: across and down to the next borders, w = 1 / √(1/across² + 1/down²). What lies
/// at the picture's edge is no step: it has one border only. What is level does not count: it is so on purpose.
StepWidths stepWidths(const Displacement& displacement, Size picture);

}  // namespace molten
