#pragma once
// What a flow says about the pixels of a box that lie between its two frames.

#include <array>
#include <cmath>
#include <vector>

#include "core/engine/flow_field.h"
#include "core/engine/flow_kernels.h"
#include "core/engine/plane_patch.h"
#include "core/field/plane_sites.h"

namespace molten {

/// Both opinions' motions at one place (FlowMix says what they are), in samples of a plane, and by how much the way
/// there and the way back differ, in pixels of the frame.
struct FlowOpinions {
  Vector u, v;
  float uOff = 0, vOff = 0;

  bool still() const { return u.x == 0 && u.y == 0 && v.x == 0 && v.y == 0; }
  /// Motions that differ by less, in samples, are the same.
  static constexpr float sameMotion = 0.5f;
};
static_assert(sizeof(FlowOpinions) == 6 * sizeof(float));

/// What is believed of motions in pictures of a width.
class FlowTrust {
 public:
  explicit FlowTrust(int width);
  /// There and back may differ by this much, in pixels, without any doubt; from three times that on nothing is believed.
  float trusted() const { return trusted_; }

 private:
  float trusted_;
};

/// The opinions on the flow's cells around a box of a plane, and straight between them. Made anew for each box; keeps
/// its memory.
class OpinionGrid {
 public:
  /// Columns of a row of the box.
  struct Run {
    int from, to;
    bool still;  ///< nothing moves there
  };

  /// `sites`: of the plane, in pixels of the frame. `partAt(x, y)`: the part of the way at which the box's sample is;
  /// each cell is worked out at that of the sample nearest to its middle.
  template <class PartAt>
  void make(const FlowField& flow, const PlaneSites& sites, const PlaneBox& box, PartAt partAt) {
    begin(flow, sites, box);
    for (int j = 0; j < down_; ++j) {
      for (int i = 0; i < across_; ++i) {
        const auto [x, y] = nearestSample(i, j);
        parts_[static_cast<std::size_t>(i)] = partAt(x, y);
      }
      makeRow(flow, j);
    }
  }
  /// The same part everywhere.
  void make(const FlowField& flow, const PlaneSites& sites, const PlaneBox& box, float part) {
    begin(flow, sites, box);
    std::fill(parts_.begin(), parts_.end(), part);
    for (int j = 0; j < down_; ++j) makeRow(flow, j);
  }
  /// No sample of the box moves.
  bool still() const { return farthest_ == 0; }
  /// How far motions lead out of the box, in samples.
  int margin() const { return still() ? 0 : static_cast<int>(farthest_) + 2; }

  /// Goes to a row of the box; then its runs, from left to right, and the opinions from a column on: as FlowRun has them.
  void goTo(int row);
  const std::vector<Run>& runs() const { return runs_; }
  void tell(int column, FlowRun& run) const;

 private:
  static constexpr std::size_t opinionsOfCell = 6;
  struct Sample {
    int x, y;
  };
  void begin(const FlowField& flow, const PlaneSites& sites, const PlaneBox& box);
  Sample nearestSample(int i, int j) const;
  void makeRow(const FlowField& flow, int j);
  float placeX(int x) const { return static_cast<float>(sites_.x0) + static_cast<float>(x) * stepX_; }
  float placeY(int y) const { return static_cast<float>(sites_.y0) + static_cast<float>(y) * stepY_; }
  /// Floats of a row of cells.
  std::size_t rowFloats() const { return opinionsOfCell * cellRow_; }

  PlaneSites sites_;
  PlaneBox box_;
  float stepX_ = 1, stepY_ = 1, cell_ = 1;
  int left_ = 0, top_ = 0, across_ = 0, down_ = 0;  ///< in cells
  std::size_t cellRow_ = 0;                         ///< floats between an opinion of a row of cells and the next opinion
  float farthest_ = 0;                              ///< of all motions, in samples
  std::vector<float> places_, parts_;               ///< of a row of cells: where they are, and the part of the way
  std::vector<FlowOpinions> told_;                  ///< likewise: what the flow says
  std::vector<float> cells_, line_;                 ///< six rows of floats for a row of cells; of the row that was gone to
  std::vector<float> along_;                        ///< how far each column is from one cell to the next
  std::vector<std::int32_t> cellOf_;                ///< between which one and the next each column is
  std::vector<int> firstColumns_;                   ///< between each cell of a row and the next one; and the end
  std::vector<Run> runs_;
};

}  // namespace molten
