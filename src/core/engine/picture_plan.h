#pragma once
// A chain made ready, whatever its stages do: plans of stages that choose times only, and between them the stages that
// mix.

#include <memory>
#include <vector>

#include "core/engine/chain_plan.h"
#include "core/engine/picture_cache.h"
#include "core/stages/mixing.h"

namespace molten {

/// Where a chain's pictures come from in the end.
struct PlanFootage {
  PictureShape shape;  ///< of its frames, at the scale
  FrameClock clock;
  Size fullSize;
  int scale = 1;
};

/// The stages after the last one that mixes are a ChainPlan over what that one gives, whose pictures are made of those
/// of its ways: plans again, of the stages before it. Safe for several threads.
class PicturePlan {
 public:
  /// `before`: a plan whose work may serve again, or nullptr. `wide`: what leaves is to be mixed further, so that
  /// nothing is cut off or rounded.
  PicturePlan(const Chain& stages, const PlanFootage& footage, const std::shared_ptr<Material>& material = nullptr,
              const PicturePlan* before = nullptr, bool wide = false);

  /// Those that are on.
  const Chain& stages() const { return stages_; }
  /// Of the pictures that leave.
  const PictureShape& shape() const { return shape_; }
  int scale() const { return gather_->scale(); }
  const VideoDescription& outgoing() const { return gather_->outgoing(); }
  Rational rate() const { return gather_->rate(); }
  std::int64_t length() const { return gather_->length(); }

  /// The stages after the last one that mixes.
  const ChainPlan& gather() const { return *gather_; }
  /// What their pictures come from; nullptr: the footage.
  const Mixing* mixing() const { return map_ ? map_->mixing() : nullptr; }
  const MixShapes& mixShapes() const { return mixShapes_; }
  const PicturePlan& way(std::size_t i) const { return *ways_[i]; }

  /// How frames of the footage should lie in memory.
  Layout layout() const { return ways_.empty() ? gather_->layout().kind() : ways_[0]->layout(); }
  /// The frames of the footage that the picture at a moment reads; rising, no repeats. May name a few too many, and
  /// leaves it at `most`.
  std::vector<std::int32_t> framesFor(const Moment& moment, std::size_t most = 2000) const;
  /// How much must be in memory at a time for a picture from the middle, in frames of the footage.
  std::size_t framesAtOnce() const;

  /// Pictures that leave, and that the mix gives; to be used again.
  PictureCache& cache() const { return *cache_; }

 private:
  PictureShape shape_;
  Chain stages_;
  std::shared_ptr<const TimeMap> map_;  ///< of the stage that mixes
  MixShapes mixShapes_;
  std::vector<std::shared_ptr<const PicturePlan>> ways_;
  std::shared_ptr<const ChainPlan> gather_;
  std::size_t footageBytes_ = 1;  ///< of a frame
  Chain mixed_;                   ///< the stages up to the one that mixes
  bool wide_;
  std::shared_ptr<PictureCache> cache_;
};

}  // namespace molten
