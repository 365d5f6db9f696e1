#pragma once
// A chain made ready, whatever its stages do: plans of stages that choose times only, and between them the stages that
// make pictures.

#include <memory>
#include <vector>

#include "core/engine/chain_plan.h"
#include "core/engine/picture_cache.h"
#include "core/engine/pixel_pass.h"

namespace molten {

/// How pictures are wanted of a chain.
struct PlanSettings {
  int scale = 1;                         ///< so many times smaller each way
  InBetween between = InBetween::Whole;  ///< of the footage
  Rational outputRate = 0;               ///< pictures a second that are to be made; 0: as the footage has
  FollowedSounds sounds = {};            ///< that values go by
  friend bool operator==(const PlanSettings&, const PlanSettings&) = default;
};

/// Where a chain's pictures come from in the end.
struct PlanFootage {
  PictureShape shape;  ///< of its frames, at the scale
  FrameClock clock;
  Size fullSize;
  std::shared_ptr<const SourceVideo> source = {};  ///< that they are of; nullptr: the shot's footage
};

/// Frames of one source, rising, no repeats.
struct SourceFrames {
  SourceUse source;
  std::vector<std::int32_t> frames;
  int scale = 1;
  Layout layout = Layout::Rows;
};

/// Pixel work that changes all pictures alike, and all work on single pictures at the end of the chain, is done once
/// everything else is. The
/// stages after the last one that makes pictures are a ChainPlan over what that one gives, at its incoming rate or
/// the output's, whichever is higher; its pictures are made of those of its ways: plans again, of the stages before it.
/// Safe for several threads.
class PicturePlan {
 public:
  /// `previous`: a plan whose work may serve again, or nullptr. `wide`: what leaves is to be mixed further, so that
  /// nothing is cut off or rounded.
  PicturePlan(const Chain& stages, const PlanFootage& footage, const PlanSettings& settings,
              const std::shared_ptr<Material>& material = nullptr, const PicturePlan* previous = nullptr,
              bool wide = false);

  /// Those that are on.
  const Chain& stages() const { return stages_; }
  const PlanSettings& settings() const { return settings_; }
  /// Of the pictures that leave.
  const PictureShape& shape() const { return shape_; }
  int scale() const { return settings_.scale; }
  const VideoDescription& outgoing() const { return outgoing_; }
  Rational rate() const { return gather_->rate(); }
  std::int64_t length() const { return gather_->length(); }

  /// The stages after the last one that makes pictures.
  const ChainPlan& gather() const { return *gather_; }
  /// What their pictures come from; nullptr: the footage.
  const Mixing* mixing() const { return map_ && map_->mixing() ? map_->mixing() : workAsMixing_.get(); }
  /// At most so many moments lie within the reach of what is mixed, where pictures follow one another.
  std::size_t momentsInReach() const;
  bool worksOnPixels() const { return !works_.empty(); }
  /// What is done to what is gathered for the picture at a moment.
  Works worksAt(const Moment& moment) const;
  const MixShapes& mixShapes() const { return mixShapes_; }
  const PicturePlan& way(std::size_t i) const { return *ways_[i]; }
  /// What its frames come from in the end, where no way leads to another source.
  SourceUse source() const { return source_ ? source_->frames : SourceUse{}; }
  const std::shared_ptr<const SourceVideo>& sourceVideo() const { return source_; }
  /// The moment of picture n of those that the gather plan reads of what is made.
  Moment madeMoment(std::int64_t n) const { return Moment::ofPictures(Rational(n) * pictureApart_); }
  /// Of those pictures, rising: before which another scene begins.
  std::vector<std::int32_t> madeCuts() const;
  /// A moment that stands for one and the same picture as this one, if that is known without making it.
  Moment canonical(const Moment& moment) const;

  /// How frames of the footage should lie in memory.
  Layout layout() const { return ways_.empty() ? gather_->layout().kind() : ways_[0]->layout(); }
  /// The frames of the footage that the picture at a moment reads; rising, no repeats. May name a few too many, and
  /// leaves it at `most`.
  std::vector<std::int32_t> framesFor(const Moment& moment, std::size_t most = 2000) const;
  /// Likewise those of all sources, its own first, that pictures at hand are not made of.
  std::vector<SourceFrames> sourcesFor(const Moment& moment, std::size_t most = 2000) const;
  /// How much must be in memory at a time for a picture from the middle, in frames of the footage.
  std::size_t framesAtOnce() const;

  /// Pictures that leave, and that the mix gives; to be used again.
  PictureCache& cache() const { return *cache_; }
  /// Of a source that is read of what leaves; `light`: in KeptLight's form.
  PictureCache::Key keyOf(const MixSource& source, bool light) const {
    return {canonical(source.moment), source.part.left, source.part.top, light};
  }

 private:
  void planFootageAlone(const Chain& stages, const PlanFootage& footage, const VideoDescription& video,
                        const std::shared_ptr<Material>& material, const PicturePlan* previous,
                        std::optional<Layout> layout);
  void planWays(const PlanFootage& footage, const Chain& upstream, const std::shared_ptr<Material>& material,
                const PicturePlan* previous);
  PictureShape madeShape(const PlanFootage& footage, const PictureShape& in, const TimeMap& map, bool mayBeClear) const;
  void shapeWorks(const PlanFootage& footage);
  void collect(const Moment& moment, std::size_t most, bool others, std::vector<SourceFrames>& all) const;

  PictureShape shape_;
  Chain stages_;
  PlanSettings settings_;
  std::shared_ptr<const TimeMap> map_;  ///< of the stage that makes pictures
  std::shared_ptr<const WorkAsMixing> workAsMixing_;  ///< if it makes each picture of one
  struct Work {
    std::shared_ptr<const TimeMap> map;
    PictureShape shape;  ///< that the picture has then
  };
  std::vector<Work> works_;    ///< what is done in the end
  VideoDescription outgoing_;  ///< what leaves
  MixShapes mixShapes_;
  Rational pictureApart_ = 1;  ///< from one made picture to the next, in pictures of the map's video
  std::vector<std::shared_ptr<const PicturePlan>> ways_;
  std::shared_ptr<const ChainPlan> gather_;
  std::shared_ptr<const SourceVideo> source_;
  std::size_t footageBytes_ = 1;  ///< of a frame
  Chain made_;                    ///< the stages up to the one that makes pictures
  bool wide_;
  std::shared_ptr<PictureCache> cache_;
};

}  // namespace molten
