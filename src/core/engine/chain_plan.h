#pragma once
// A chain made ready: for every pixel of an output picture, the frames of its source that it reads.

#include <deque>
#include <memory>
#include <mutex>
#include <optional>
#include <vector>

#include "core/engine/frame_set.h"
#include "core/engine/gathering.h"
#include "core/stages/chain_reading.h"

namespace molten {

/// What a plan's frames come from.
struct PlanSource {
  PictureShape shape;      ///< of its frames, at the scale
  FrameClock clock;        ///< of its frames
  VideoDescription video;  ///< at scale 1; its rate may be another than the clock's
  Chain under = {};        ///< stages that have made it of the footage
  int scale = 1;           ///< frames are so many times smaller each way than the video
};

/// Safe for several threads. Of stages that choose times only: what is mixed is a PicturePlan's.
///
/// A position that the chain's reading gives becomes a frame here, once. Where the stages that displace pixels read the
/// source itself, and always alike, the frames lie in the same distances about every moment, and one program serves all
/// moments that lie alike between two frames. Otherwise a program is of its own moment.
class ChainPlan {
 public:
  ChainPlan(const Chain& stages, const PlanSource& source, const std::shared_ptr<Material>& material = nullptr);

  /// Takes over what was compiled for another chain over the same source, if its pixels are displaced alike: when only
  /// stages that move pictures were changed. Call before it is used.
  void adopt(const ChainPlan& other);

  const ChainReading& reading() const { return reading_; }
  /// Those that are on.
  const Chain& stages() const { return reading_.stages(); }
  const PictureShape& shape() const { return shape_; }
  int scale() const { return source_.scale; }
  /// The video that leaves the chain.
  const VideoDescription& outgoing() const { return reading_.outgoing(); }
  Rational rate() const { return outgoing().rate; }
  /// Pictures that come out at the chain's own rate.
  std::int64_t length() const { return outgoing().length; }
  /// True if no stage displaces pixels: a picture is one moment of the source.
  bool wholePictures() const { return displacing_ == 0; }
  /// True if whole pictures are moved in time: what is read need not rise with the output.
  bool movesPictures() const { return movesPictures_; }
  /// True if pictures between two frames are made of both.
  bool mixes() const { return between() != InBetween::Whole; }
  /// True if what lies between two frames is made by optical flow.
  bool usesFlow() const { return between() == InBetween::Flow; }
  /// True if pictures with an alpha of the source's own are mixed.
  bool mixesAlpha() const { return source_.shape.format.alpha && mixes(); }
  /// How frames should lie in memory for this chain: measured on its own field.
  const FrameLayout& layout() const { return *layout_; }

  /// The frame that the picture at a moment is, sample for sample; none if it is made of two, is empty, differs from
  /// pixel to pixel, or has an alpha that the source has not.
  std::optional<std::int32_t> onlyFrame(const Moment& moment) const;
  /// What the picture at a moment reads, sample by sample.
  Gathering gathering(const Moment& moment) const;

  /// The frames that the picture at a moment reads; rising, no repeats. May name a few too many. Quick.
  std::vector<std::int32_t> framesFor(const Moment& moment) const;
  /// Likewise for each tile of the layout.
  std::vector<FrameSet> tileReads(const Moment& moment) const;

 private:
  /// A position in frames of the source's clock.
  struct Ticks {
    std::int64_t whole = 0;
    double part = 0;  ///< 0…1 but for what went through floating point
  };
  /// What a program is compiled for.
  struct Key {
    enum class Kind { Nothing, Whole, Shared, Own } kind = Kind::Nothing;
    Moment moment;                     ///< Own: of what is displaced
    double part = 0;                   ///< Shared: of the moment, in frames
    std::uint32_t weight = 0;          ///< Whole: of the second frame
    bool first = false, second = false;  ///< Whole: that there is one
    friend bool operator==(const Key&, const Key&) = default;
  };
  struct TileBounds {
    std::vector<Reach> tiles;  ///< displacements of the pixels of each tile in one stage
  };

  InBetween between() const { return reading_.source().between; }
  Ticks ticksOf(const Moment& moment) const;
  /// The moment that is asked of the stages that displace pixels, or of the source.
  std::optional<Moment> displacedMoment(const Moment& moment) const {
    return reading_.into(reading_.displacedUntil(), moment);
  }
  FramePick wholePick(const Moment& moment) const;
  bool isShared(const Moment& displaced) const;
  Key keyOf(const std::optional<Moment>& displaced) const;
  std::shared_ptr<const GatherProgram> compile(const Key& key, const Moment& moment) const;
  std::shared_ptr<const GatherProgram> programFor(const Key& key, const Moment& moment) const;
  Gathering::Meaning meaningOf(const Key& key, const std::optional<Moment>& displaced) const;
  std::size_t lanesOf(const Key& key) const;
  void pickWhole(const Key& key, RowPicks& picks) const;
  void pickShared(const RowReads& reads, RowPicks::Lane& lane) const;
  void pickOwn(const RowReads& reads, RowPicks& picks) const;
  void toFrames(RowReads& reads, const std::optional<std::int64_t>& ownFrame) const;
  void pickRow(const Key& key, const Moment& moment, const PlaneSites& sites, int row, RowPicks& picks) const;
  Layout bestLayout() const;
  FrameSet framesIn(const PositionSpans& positions) const;
  /// `bounds`: displacements of the stages where they are known; none: what the stages say.
  FrameSet readsOf(const std::optional<Moment>& displaced, std::span<const Reach* const> bounds) const;
  TileBounds boundsOfTiles(const Displacement& displacement) const;
  const std::vector<TileBounds>& steadyBounds() const;

  PlanSource source_;
  ChainReading reading_;
  PictureShape shape_;
  Rational framesAPicture_ = 1;  ///< of the source's clock, in a picture of its video
  double perPicture_ = 1;        ///< the same
  std::size_t displacing_ = 0;   ///< stages that displace pixels
  bool movesPictures_ = false;
  bool alike_ = true;  ///< stages that displace pixels read the source itself, and are steady
  std::optional<FrameLayout> layout_;

  struct Compiled {
    Key key;
    std::shared_ptr<const GatherProgram> program;
  };
  mutable std::unique_ptr<std::mutex> mutex_ = std::make_unique<std::mutex>();
  mutable std::deque<Compiled> compiled_;   ///< of late, the newest first
  mutable std::vector<TileBounds> bounds_;  ///< of the steady stages; made when first asked for
};

}  // namespace molten
