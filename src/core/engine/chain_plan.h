#pragma once
// A chain made ready: for every pixel of an output picture, the frames of the footage that it reads.

#include <deque>
#include <memory>
#include <mutex>
#include <optional>
#include <vector>

#include "core/engine/frame_set.h"
#include "core/engine/frame_table.h"
#include "core/engine/gather_program.h"
#include "core/engine/moment_table.h"
#include "core/stages/stage.h"

namespace molten {

/// What lies beneath a chain, if it is not footage itself.
struct Beneath {
  bool endless = false;  ///< it repeats
  Chain stages = {};     ///< that have made it of the footage
};

/// Safe for several threads. Of stages that choose times only: what is mixed is a PicturePlan's.
///
/// A chain has a body: from the first stage to the last one that displaces pixels or mixes pictures. Stages that only
/// move whole pictures stand below it (at the footage) or above it (at the output): those above turn the moment into
/// one of the body's, those below turn the pictures that the body reads into frames of the footage. If the body
/// displaces pixels and nothing else, one program serves all moments.
class ChainPlan {
 public:
  /// `stages` that are on, over footage of `source` shape (already at the scale) and `clock`. `fullSize`: of the
  /// picture at scale 1. `material`: what fields are made of that are made of pictures.
  ChainPlan(const Chain& stages, const PictureShape& source, const FrameClock& clock, Size fullSize, int scale,
            const std::shared_ptr<Material>& material = nullptr, const Beneath& beneath = {});

  /// Takes over what was compiled for another chain over the same footage and scale, if its body is the same: when only
  /// stages that move pictures were changed. Call before it is used.
  void adopt(const ChainPlan& other);

  /// Those that are on.
  const Chain& stages() const { return stages_; }
  const PictureShape& shape() const { return shape_; }
  int scale() const { return scale_; }
  /// The video that leaves the chain.
  const VideoDescription& outgoing() const { return videos_.back(); }
  Rational rate() const { return outgoing().rate; }
  /// Pictures that come out at the footage's rate.
  std::int64_t length() const { return outgoing().length; }
  /// True if each picture is a frame of the footage, or nothing.
  bool passesThrough() const { return allWhole_ && mixingStages_ == 0; }
  /// True if whole pictures are moved in time: what is read need not rise with the output.
  bool movesPictures() const { return movesPictures_; }
  /// True if pictures are made of more than one frame.
  bool mixes() const { return mixingStages_ > 0; }
  /// True if what lies between two frames is made by optical flow.
  bool usesFlow() const { return usesFlow_; }
  /// True if pictures with an alpha of the footage's own are mixed.
  bool mixesAlpha() const { return source_.format.alpha && mixingStages_ > 0; }
  /// How frames should lie in memory for this chain: measured on its own field.
  const FrameLayout& layout() const { return *layout_; }

  /// What the picture at a moment reads, sample by sample. Compiled once for all moments where the distances from the
  /// picture's own frame are the same; anew where they are not: where a stage that displaces pixels meets an end of
  /// what another such stage gives, where pictures that move in time are mixed or stand between two such stages, or
  /// the footage's rate varies.
  std::shared_ptr<const GatherProgram> program(const Moment& moment) const;
  /// The frames of the footage that a program reads at a moment; rising, no repeats.
  std::vector<std::int32_t> framesOf(const GatherProgram& program, const Moment& moment) const;
  /// The program's frames out of a table. Frames that the table lacks come later, in another lot.
  FrameLookup lookUp(const GatherProgram& program, const Moment& moment, const FrameTable& table) const;
  /// The frame of the footage that a program means at a moment by one of its numbers; or noFrame.
  std::int32_t frameMeant(std::int32_t number, const Moment& moment) const;

  /// The frames that the picture at a moment reads; rising, no repeats. May name a few too many. Quick.
  std::vector<std::int32_t> framesFor(const Moment& moment) const;
  /// Likewise for each tile of the layout.
  std::vector<FrameSet> tileReads(const Moment& moment) const;

 private:
  /// Displacements of the pixels of each tile in one stage.
  struct TileBounds {
    std::vector<Reach> tiles;
  };
  struct WholeLane {
    std::int32_t frame;
    std::uint32_t weight;
  };
  void findBody();
  PastTheEnds past(std::size_t stage) const;
  /// What the picture at a moment of a stage's result reads, of a stage that moves whole pictures.
  FramePick pickAt(std::size_t stage, const Moment& moment) const;
  /// Likewise by the number of a picture.
  const FramePick& pickOf(std::size_t stage, std::int32_t picture) const { return tables_[stage]->at(picture); }
  /// The moment of the body's result that stands at a moment of the chain's; none if nothing stands there.
  std::optional<Moment> bodyMoment(const Moment& moment) const;
  /// The frame of the footage that picture i of the video that enters the body is. Requires a body.
  std::int32_t belowBody(std::int64_t i) const;
  /// The frame that a moment's picture is, or noFrame. Requires passesThrough().
  std::int32_t wholeFrame(const Moment& moment) const;
  /// A program's number at a moment, the moment of the body and whether it is usual being known.
  std::int32_t meant(std::int32_t number, const Moment& moment, const std::optional<Moment>& inBody, bool usual) const;
  /// True if the distances at a moment of the body are those of every other moment with the same rest.
  bool isUsual(const std::optional<Moment>& moment) const;
  /// Displacements at one moment of the body, for all rows of its picture.
  struct Displacements;
  void pickRow(const std::optional<Moment>& moment, bool usual, const Displacements& displacements,
               const PlaneSites& sites, int row, RowPicks& picks) const;
  /// Of a chain that moves whole pictures only: the frames that a picture is mixed of.
  std::vector<WholeLane> lanesAt(const Moment& moment) const;
  Layout bestLayout() const;
  /// `tile`: of it alone, its bounds in the stages that have them; none: of the whole picture.
  FrameSet readsOf(const Moment& moment, const std::vector<const TileBounds*>& bounds,
                   std::optional<std::size_t> tile) const;
  TileBounds boundsOfTiles(const Displacement& displacement) const;
  const std::vector<TileBounds>& tileBounds() const;

  PictureShape source_, shape_;
  int scale_;
  Chain stages_;                                      ///< those that are on
  std::vector<std::unique_ptr<TimeMap>> maps_;        ///< first stage first
  std::vector<VideoDescription> videos_;              ///< that enter the stages, and the one that leaves
  std::vector<FrameClock> clocks_;                    ///< of the videos that enter the stages
  std::vector<std::unique_ptr<MomentTable>> tables_;  ///< of the stages that move whole pictures
  std::size_t bodyBegin_ = 0, bodyEnd_ = 0;           ///< stages
  bool steady_ = true;                                ///< the body displaces pixels and nothing else
  bool allWhole_ = true, movesPictures_ = false;
  bool usesFlow_ = false;
  int mixingStages_ = 0;  ///< that make pictures of two
  std::optional<FrameLayout> layout_;

  struct Compiled {
    bool usual, nothing;  ///< nothing stands at the moment
    Moment moment;        ///< of the body
    std::shared_ptr<const GatherProgram> program;
  };
  mutable std::unique_ptr<std::mutex> mutex_ = std::make_unique<std::mutex>();
  mutable std::deque<Compiled> compiled_;   ///< of late, the newest first
  mutable std::vector<TileBounds> bounds_;  ///< of the steady stages; made when first asked for
};

}  // namespace molten
