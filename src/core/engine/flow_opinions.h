#pragma once
// What a flow says about the pixels of a box that lie between its two frames.

#include <cmath>
#include <span>
#include <vector>

#include "core/engine/flow_field.h"
#include "core/engine/plane_patch.h"
#include "core/field/plane_sites.h"

namespace molten {

/// Both opinions' motions at one place (FlowMix says what they are), in samples of a plane, and by how much the way
/// there and the way back differ, in pixels of the frame.
struct FlowOpinions {
  Vector u, v;
  float uOff = 0, vOff = 0;

  bool still() const { return u.x == 0 && u.y == 0 && v.x == 0 && v.y == 0; }
  /// Both are the same motion.
  bool agree() const { return std::abs(u.x + v.x) <= sameMotion && std::abs(u.y + v.y) <= sameMotion; }
  /// Motions that differ by less, in samples, are the same.
  static constexpr float sameMotion = 0.5f;
};

/// The opinions at a place (in pixels of the frame), at the part t of the way from the first frame to the second.
FlowOpinions opinionsAt(const FlowField& flow, float x, float y, float t);
/// Straight from one to the other.
inline FlowOpinions opinionsBetween(const FlowOpinions& a, const FlowOpinions& b, float f) {
  const auto mix = [f](float p, float q) { return p + (q - p) * f; };
  return {{mix(a.u.x, b.u.x), mix(a.u.y, b.u.y)},
          {mix(a.v.x, b.v.x), mix(a.v.y, b.v.y)},
          mix(a.uOff, b.uOff),
          mix(a.vOff, b.vOff)};
}

/// What is believed of motions in pictures of a width.
class FlowTrust {
 public:
  explicit FlowTrust(int width);
  /// There and back differ so little that there is no doubt.
  bool whole(float off) const { return off <= trusted_; }
  /// 1: whole; 0: none.
  float of(float off) const { return std::clamp((3 * trusted_ - off) / (2 * trusted_), 0.0f, 1.0f); }

 private:
  float trusted_;
};

/// The opinions on the flow's cells around a box of a plane, and straight between them. Made anew for each box; keeps
/// its memory.
class OpinionGrid {
 public:
  /// Between two neighbouring cells of a row.
  struct Segment {
    FlowOpinions begin, end;
    bool still = false;  ///< nothing moves
    bool plain = false;  ///< both opinions are one, and there is no doubt
  };

  /// `sites`: of the plane, in pixels of the frame. `partAt(x, y)`: the part of the way at which the box's sample is;
  /// each cell is worked out at that of the sample nearest to its middle.
  template <class PartAt>
  void make(const FlowField& flow, const PlaneSites& sites, const PlaneBox& box, const FlowTrust& trust,
            PartAt partAt) {
    begin(flow, sites, box, trust);
    for (int j = 0; j < down_; ++j)
      for (int i = 0; i < across_; ++i) {
        const auto [x, y] = nearestSample(i, j);
        put(flow, i, j, partAt(x, y));
      }
  }
  /// No sample of the box moves.
  bool still() const { return farthest_ == 0; }
  /// How far motions lead out of the box, in samples.
  int margin() const { return still() ? 0 : static_cast<int>(farthest_) + 2; }

  /// Goes to a row of the box; then the segment of a column, and how far along it the column is, 0…1.
  void goTo(int row);
  const Segment& at(int column, float& along) {
    const float g = placeX(column) / cell_ - 0.5f - static_cast<float>(left_);
    const int i = std::clamp(static_cast<int>(g), 0, across_ - 2);
    along = g - static_cast<float>(i);
    if (i != segmentOf_) enter(i);
    return segment_;
  }

 private:
  struct Sample {
    int x, y;
  };
  void begin(const FlowField& flow, const PlaneSites& sites, const PlaneBox& box, const FlowTrust& trust);
  Sample nearestSample(int i, int j) const;
  void put(const FlowField& flow, int i, int j, float part);
  void enter(int i);
  float placeX(int x) const { return static_cast<float>(sites_.x0) + static_cast<float>(x) * stepX_; }
  float placeY(int y) const { return static_cast<float>(sites_.y0) + static_cast<float>(y) * stepY_; }
  FlowOpinions& cellAt(int i, int j) { return cells_[static_cast<std::size_t>(j * across_ + i)]; }

  PlaneSites sites_;
  PlaneBox box_;
  const FlowTrust* trust_ = nullptr;
  float stepX_ = 1, stepY_ = 1, cell_ = 1;
  int left_ = 0, top_ = 0, across_ = 0, down_ = 0;  ///< in cells
  float farthest_ = 0;                              ///< of all motions, in samples
  std::vector<FlowOpinions> cells_, line_;          ///< all; of the row that was gone to
  int row_ = 0, segmentOf_ = -1;
  Segment segment_;
};

}  // namespace molten
