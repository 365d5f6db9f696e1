#pragma once
// A chain made ready: for every pixel of an output picture, the frames of its source that it reads.

#include <deque>
#include <memory>
#include <mutex>
#include <optional>
#include <vector>

#include "core/engine/flow_mix.h"
#include "core/engine/frame_set.h"
#include "core/engine/sample_reads.h"

namespace molten {

/// Safe for several threads. Of stages that choose times only: what is mixed is a PicturePlan's.
///
/// Where the stages that displace pixels read the source itself, and always alike, the frames lie in the same distances
/// about every moment, and one program serves all moments that lie alike between two frames. Otherwise a program is of
/// its own moment.
class ChainPlan {
 public:
  /// `layout`: none: the best one, for which a picture in the middle is looked at.
  ChainPlan(const Chain& stages, const PlanSource& source, const std::shared_ptr<Material>& material = nullptr,
            std::optional<Layout> layout = std::nullopt);

  /// Takes over what was compiled for another chain over the same source, if its pixels are displaced alike: when only
  /// stages that move pictures were changed. Call before it is used.
  void adopt(const ChainPlan& other);

  const ChainReading& reading() const { return samples_.reading(); }
  /// Those that are on.
  const Chain& stages() const { return reading().stages(); }
  const PictureShape& shape() const { return shape_; }
  int scale() const { return source().scale; }
  /// The video that leaves the chain.
  const VideoDescription& outgoing() const { return reading().outgoing(); }
  Rational rate() const { return outgoing().rate; }
  /// Pictures that come out at the chain's own rate.
  std::int64_t length() const { return outgoing().length; }
  /// True if no stage displaces pixels: a picture is one moment of the source.
  bool wholePictures() const { return samples_.wholePictures(); }
  /// True if whole pictures are moved in time: what is read need not rise with the output.
  bool movesPictures() const { return samples_.movesPictures(); }
  /// True if pictures between two frames are made of both.
  bool mixes() const { return samples_.mixes(); }
  /// True if what lies between two frames is made by optical flow.
  bool usesFlow() const { return samples_.between() == InBetween::Flow; }
  /// True if pictures with an alpha of the source's own are mixed.
  bool mixesAlpha() const { return source().shape.format.alpha && mixes(); }
  /// How frames should lie in memory for this chain: measured on its own field.
  const FrameLayout& layout() const { return *layout_; }

  /// The frame that the picture at a moment is, sample for sample; none if it is made of two, is empty, differs from
  /// pixel to pixel, or has an alpha that the source has not.
  std::optional<std::int32_t> onlyFrame(const Moment& moment) const;
  /// The two neighbouring frames that all of the picture at a moment lies between, and is made of along the flow.
  std::optional<EvenPair> evenPair(const Moment& moment) const;
  /// What the picture at a moment reads, sample by sample.
  Gathering gathering(const Moment& moment) const;

  /// The frames that the picture at a moment reads; rising, no repeats. May name a few too many. Quick.
  std::vector<std::int32_t> framesFor(const Moment& moment) const;
  /// Likewise for each tile of the layout.
  std::vector<FrameSet> tileReads(const Moment& moment) const;

 private:
  struct TileBounds {
    std::vector<Reach> tiles;  ///< displacements of the pixels of each tile in one stage
  };

  std::shared_ptr<const GatherProgram> compile(const SampleReads::Key& key, const Moment& moment) const;
  std::shared_ptr<const GatherProgram> programFor(const SampleReads::Key& key, const Moment& moment) const;
  Layout bestLayout() const;
  FrameSet framesIn(const PositionSpans& positions) const;
  /// `bounds`: displacements of the stages where they are known; none: what the stages say.
  FrameSet readsOf(const std::optional<Moment>& displaced, std::span<const Reach* const> bounds) const;
  TileBounds boundsOfTiles(const Displacement& displacement) const;
  const std::vector<TileBounds>& steadyBounds() const;

  const PlanSource& source() const { return samples_.source(); }

  SampleReads samples_;
  PictureShape shape_;
  std::optional<FrameLayout> layout_;

  struct Compiled {
    SampleReads::Key key;
    std::shared_ptr<const GatherProgram> program;
  };
  mutable std::unique_ptr<std::mutex> mutex_ = std::make_unique<std::mutex>();
  mutable std::deque<Compiled> compiled_;   ///< of late, the newest first
  mutable std::vector<TileBounds> bounds_;  ///< of the steady stages; made when first asked for
};

}  // namespace molten
