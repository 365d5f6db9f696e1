#pragma once
// A chain made ready: for every pixel of an output picture, the frames of the footage that it reads.

#include <deque>
#include <memory>
#include <mutex>
#include <optional>
#include <vector>

#include "core/engine/frame_table.h"
#include "core/engine/gather_program.h"
#include "core/stages/stage.h"

namespace molten {

/// A moment of the output: a position in frames of the footage's rate, from the beginning of the chain's output.
struct OutputMoment {
  std::int64_t whole = 0;
  double rest = 0;  ///< 0 <= rest < 1
  static OutputMoment at(Rational seconds, Rational rate);
  friend bool operator==(const OutputMoment&, const OutputMoment&) = default;
};

/// Frames first…last; none if last < first.
struct FrameInterval {
  std::int32_t first = 0, last = -1;
  bool has(std::int32_t frame) const { return frame >= first && frame <= last; }
};
/// What a tile reads, or a little more. Where time wraps or turns at an end it is two intervals.
using TileReads = std::array<FrameInterval, 2>;

/// Safe for several threads.
class ChainPlan {
 public:
  /// `stages` that are on, over footage of `source` shape (already at the scale) and `clock`. `fullSize`: of the
  /// picture at scale 1.
  ChainPlan(const Chain& stages, const PictureShape& source, const FrameClock& clock, Size fullSize, int scale);

  const PictureShape& shape() const { return shape_; }
  int scale() const { return scale_; }
  Rational rate() const { return clock_.rate(); }
  /// Pictures that come out at the footage's rate.
  std::int64_t length() const { return clock_.length(); }
  /// True if pictures leave as they are in the footage.
  bool passesThrough() const { return maps_.empty(); }
  /// True if what lies between two frames is made by optical flow.
  bool usesFlow() const { return usesFlow_; }
  /// True if pictures with an alpha of the footage's own are mixed.
  bool mixesAlpha() const { return source_.format.alpha && mixingStages_ > 0; }
  /// How frames should lie in memory for this chain: measured on its own field.
  const FrameLayout& layout() const { return *layout_; }

  /// What the picture at a moment reads, sample by sample. Compiled once for all moments where the distances from the
  /// picture's own frame are the same, anew where a stage before the last one meets an end of its video, or the
  /// footage's rate varies.
  std::shared_ptr<const GatherProgram> program(const OutputMoment& moment) const;
  /// The frames of the footage that a program reads at a moment; rising, no repeats.
  std::vector<std::int32_t> framesOf(const GatherProgram& program, const OutputMoment& moment) const;
  /// The program's frames out of a table. Frames that the table lacks come later, in another lot.
  FrameLookup lookUp(const GatherProgram& program, const OutputMoment& moment, const FrameTable& table) const;
  /// The frame of the footage that a program means at a moment by one of its numbers; or noFrame.
  std::int32_t frameMeant(std::int32_t number, const OutputMoment& moment) const;

  /// The frames that the picture at a moment reads; rising, no repeats. May name a few too many. Quick.
  std::vector<std::int32_t> framesFor(const OutputMoment& moment) const;
  /// Likewise for each tile of the layout.
  std::vector<TileReads> tileReads(const OutputMoment& moment) const;

 private:
  /// Displacements of the pixels of each tile in one stage.
  struct TileBounds {
    std::vector<Reach> tiles;
  };
  /// True if the distances at a moment are those of every other moment with the same rest.
  bool isUsual(const OutputMoment& moment) const;
  void pickRow(const OutputMoment& moment, bool usual, const PlaneSites& sites, int row, RowPicks& picks) const;
  Layout bestLayout() const;
  TileReads readsOf(const OutputMoment& moment, const std::function<Reach(std::size_t stage)>& reach) const;
  const std::vector<TileBounds>& tileBounds() const;

  PictureShape source_, shape_;
  FrameClock clock_;
  int scale_;
  std::vector<std::unique_ptr<TimeMap>> maps_;  ///< first stage first
  bool usesFlow_ = false;
  int mixingStages_ = 0;  ///< that read between frames
  std::optional<FrameLayout> layout_;

  struct Compiled {
    bool usual;
    OutputMoment moment;
    std::shared_ptr<const GatherProgram> program;
  };
  mutable std::unique_ptr<std::mutex> mutex_ = std::make_unique<std::mutex>();
  mutable std::deque<Compiled> compiled_;   ///< of late, the newest first
  mutable std::vector<TileBounds> bounds_;  ///< of each stage; made when first asked for
};

}  // namespace molten
