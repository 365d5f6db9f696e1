#pragma once
// A chain made ready: for every pixel of an output picture, the frames of the footage that it reads.

#include <memory>
#include <optional>
#include <span>
#include <vector>

#include "core/engine/frame_feed.h"
#include "core/stages/stage.h"

namespace molten {

/// A moment of the output: a position in frames of the footage's rate, from the beginning of the chain's output.
struct OutputMoment {
  std::int64_t whole = 0;
  double rest = 0;  ///< 0 <= rest < 1
  static OutputMoment at(Rational seconds, Rational rate);
};

/// Consecutive samples of a row that read frames at one distance.
struct Run {
  std::int32_t x;       ///< first sample
  std::int32_t length;  ///< in samples
  std::int32_t offset;  ///< in frames, from the output's frame
};

/// A plane's runs, row after row.
struct PlaneRuns {
  std::vector<Run> runs;
  std::vector<std::uint32_t> rowStart;  ///< index of each row's first run; one more than there are rows
  std::vector<std::uint32_t> weights;   ///< Blend: of the frame after, in 1/65536, a sample each; else empty
};

/// What sums of several frames need when they come in several lots: one number a sample, for each plane.
struct Accumulators {
  std::vector<std::vector<double>> planes;
};

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
  /// True if a pixel may be left without any frame.
  bool mayBeClear() const { return mayBeClear_; }

  /// The frames of the footage that the picture at a moment reads; rising, no repeats. May name a few too many.
  std::vector<std::int32_t> framesFor(const OutputMoment& moment) const;

  /// Assembles rows [from, to) of a plane from the frames in the table, which must hold all that framesFor() names;
  /// or, with `sums`, only some of them: then the rows are right after the last lot. A frame is in one lot only.
  void assemble(const OutputMoment& moment, const FrameTable& table, Picture& out, int plane, int from, int to,
                Accumulators* sums) const;
  void beginSums(Accumulators& sums) const;

  /// For tests: the same pictures without prepared runs.
  void usePlainPath() { runs_.clear(); }

 private:
  struct Lanes;
  void compile();
  void picksOfRow(const OutputMoment& moment, const PlaneSites& sites, int row, Lanes& lanes) const;
  template <class Sample>
  void assembleRuns(std::int64_t n, const FrameTable& table, Picture& out, int plane, int from, int to) const;
  template <class Sample>
  void assembleLanes(const OutputMoment& moment, const FrameTable& table, Picture& out, int plane, int from, int to,
                     Accumulators* sums) const;
  template <class Visit>
  void visitSampleType(Visit visit) const;

  PictureShape source_, shape_;
  FrameClock clock_;
  int scale_;
  std::vector<std::unique_ptr<TimeMap>> maps_;  ///< first stage first
  bool mayBeClear_ = false;
  std::vector<PlaneRuns> runs_;  ///< a plane of the source each; empty: every picture is worked out pixel by pixel
  std::vector<std::int32_t> offsets_;  ///< of all runs; rising, no repeats
};

}  // namespace molten
