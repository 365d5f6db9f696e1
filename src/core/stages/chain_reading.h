#pragma once
// What a chain means: the one reading of it, from which the plan, the chart, the trace, the tiles and the warnings take
// their answers.

#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "core/stages/material.h"
#include "core/stages/stage.h"
#include "core/time/position_spans.h"

namespace molten {

/// Of one picture, for drawing. Positions are in pictures of the footage from its first one, and may lie outside of it.
struct MomentReads {
  double now = 0;              ///< what a pixel that is not displaced reads
  double least = 0, most = 0;  ///< bounds of what all pixels read
  std::vector<double> taps;    ///< what is mixed in
  bool beforeFirst = false;    ///< a stage reads before the first picture of its video
  bool pastLast = false;       ///< a stage reads past the last one
};

/// Consecutive pictures of a result that read outside.
struct OutsideRun {
  std::int64_t first = 0, last = 0;
  bool beforeFirst = false, pastLast = false;
  std::int64_t count() const { return last - first + 1; }
};

/// What the sites of a row read: each `base` + offset, in pictures of the source, not rounded; NaN where nothing is.
struct RowReads {
  std::int64_t base = 0;
  std::vector<double> offsets;
  double at(std::size_t i) const { return static_cast<double>(base) + offsets[i]; }
};

/// What a place of a picture reads.
struct PlaceReads {
  double position = 0;     ///< in frames of the footage from its first one; may lie outside of it
  std::int32_t frame = 0;  ///< the nearest frame of the footage, past the ends as the stage there says; or noFrame
};

/// Immutable, and for several threads. Time goes through the stages from what leaves the last one down to the source,
/// composed without rounding: a stage's own past-the-ends folds what it asks of the stages under it; what it asks of
/// the source is folded where a frame is chosen. Stages that make pictures are passed at their present moment.
class ChainReading {
 public:
  /// Of the stages that are on. `material`: none where no row is asked for. `under`: stages that have made the source
  /// of what the material knows as the footage. `clock`: of the source's frames; none: as many as the video has
  /// pictures.
  ChainReading(const Chain& chain, const VideoDescription& source, const std::shared_ptr<Material>& material = nullptr,
               const Chain& under = {}, const std::optional<FrameClock>& clock = std::nullopt);

  const Chain& stages() const { return stages_; }
  std::size_t size() const { return maps_.size(); }
  const TimeMap& map(std::size_t stage) const { return *maps_[stage]; }
  const FrameClock& clock() const { return clock_; }
  /// What enters a stage; with the number of stages, what leaves the last one.
  const VideoDescription& video(std::size_t stage) const { return videos_[stage]; }
  const VideoDescription& source() const { return videos_.front(); }
  const VideoDescription& outgoing() const { return videos_.back(); }
  /// What is read past the ends of what enters a stage; without stages, of the source.
  PastTheEnds ends(std::size_t stage) const;
  /// The stages from this one on move whole pictures; it is 0, or the one before it displaces pixels.
  std::size_t displacedUntil() const { return displacedUntil_; }

  /// The moment that is asked of the stages before `stage`, by those from it on, which must move whole pictures;
  /// folded, but for what is asked of the source. None where nothing is.
  std::optional<Moment> into(std::size_t stage, const Moment& moment) const;
  /// The moment that is seen of what leaves the stages before `stage`, by pixels that are not displaced.
  Moment present(std::size_t stage, const Moment& moment) const;
  /// The source's position that is seen of a picture that enters a stage, by pixels that are not displaced.
  double sourceOf(std::size_t stage, double position) const;
  /// The source's position that is heard at a position of what leaves the chain, in pictures; NaN: nothing is. It goes on where
  /// pictures are shown in steps, and is silent past an end where the last picture stands still.
  double heardAt(double position) const;
  /// What a row of sites reads in the picture at a moment.
  void row(const Moment& moment, const PlaneSites& sites, int row, RowReads& out) const;

  /// True if places of what leaves lie elsewhere in what enters: a stage lays pictures out anew.
  bool warps() const;
  /// A place of the picture that leaves at a moment (as a fraction of it), in what leaves the stages before `stage`, and
  /// back, for pixels that are not displaced.
  Place placeInto(std::size_t stage, Place place, const Moment& moment) const;
  Place placeOutOf(std::size_t stage, Place place, const Moment& moment) const;

  struct Bounds {
    PositionSpans spans;                         ///< of the source, not folded there
    bool beforeFirst = false, pastLast = false;  ///< some stage reads past an end, within a frame's slack
  };
  /// Bounds of what is read of the source by positions `from` that are asked of the stages before `stage`. `known`:
  /// displacements of some of the stages, where they are known more closely than the stage itself says; nullptr for the
  /// others.
  Bounds bounds(PositionSpans from, std::size_t stage, std::span<const Reach* const> known = {}) const;

  /// `position`: in pictures of what leaves the chain, from its first one.
  MomentReads at(double position) const;
  /// Of the pixel at a place, in pixels of the full size.
  PlaceReads at(const Moment& moment, double x, double y) const;

 private:
  bool lastsToTheEnd(std::size_t stage) const;
  double down(std::size_t stage, double position) const;
  void rowThroughWarps(const Moment& moment, const PlaneSites& sites, int row, RowReads& out) const;

  Chain stages_;
  std::vector<std::unique_ptr<TimeMap>> maps_;
  std::vector<VideoDescription> videos_;
  FrameClock clock_;
  std::size_t displacedUntil_ = 0;
};

}  // namespace molten
