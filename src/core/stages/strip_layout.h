#pragma once
// How a picture is cut into strips.

#include <cmath>
#include <cstdint>
#include <vector>

#include "core/field/field_shape.h"
#include "core/field/response_curve.h"
#include "core/picture/video_description.h"

namespace molten {

enum class StripShape { Bars, Rings, Grid, Tiles };

/// Bars: strip i covers the pixels from round(i·E/N) to round((i + 1)·E/N) along their direction, E the picture's
/// extent that way: exactly W or H for a quarter turn. Rings: likewise from the centre to the farthest corner. Grid and
/// Tiles: N columns and M rows, counted as one reads. An offset moves the bars along by round(offset·E) pixels; what
/// leaves on one side comes in on the other.
class StripLayout {
 public:
  struct Cut {
    StripShape shape = StripShape::Bars;
    int count = 20, rows = 1;
    double width = 0;    ///< of a strip in pixels, in place of a count; 0: by count
    double degrees = 0;  ///< of the bars' direction: 0 is rightwards, 90 down
    Place centre{0.5, 0.5};
    double offset = 0;  ///< in extents
  };
  StripLayout(const Cut& cut, const VideoDescription& video);

  /// Strips in all.
  int count() const { return count_ * (hasRows() ? rows_ : 1); }
  /// Of a strip, in pixels: on average.
  double width() const { return extent_ / count_; }
  double extent() const { return extent_; }

  struct At {
    int strip = 0;
    int other = -1;       ///< beyond the nearest border; −1: there is none
    double beyond = 1e9;  ///< how far that border is passed, in pixels: below 0 it lies ahead
  };
  /// Of a place in pixels of the full size.
  At at(double x, double y) const;
  int stripAt(double x, double y) const;
  /// take(i, strip) for the sites of a row, each `stretch` times as far from the corner as it stands.
  template <class Take>
  void stripsOf(const PlaneSites& sites, int row, Place stretch, Take take) const {
    const double y = (sites.y0 + row * sites.stepY) * stretch.y;
    const int line = hasRows() ? rowAt(y) * count_ : 0;
    // Neighbours lie in one band, or in the next.
    int band = 0;
    for (int i = 0; i < sites.width; ++i) {
      const double u = within((sites.x0 + i * sites.stepX) * stretch.x, y);
      if (band + 1 < count_ && u >= border(band + 1)) ++band;
      if (u < border(band) || u >= border(band + 1)) band = bandAt(u);
      take(i, line + band);
    }
  }
  /// How far along the direction a place is, in pixels, and where a strip begins.
  double along(double x, double y) const {
    if (shape_ == StripShape::Bars) return x * cos_ + y * down_ * sin_ - from_;
    return hasRows() ? x : std::hypot(x - x_, (y - y_) * down_);
  }
  double border(int i) const { return borders_[static_cast<std::size_t>(i)]; }
  int columns() const { return count_; }
  int rows() const { return hasRows() ? rows_ : 1; }
  /// Where a row of a grid begins, in pixels.
  double rowBorder(int i) const { return rowBorders_[static_cast<std::size_t>(i)]; }
  /// All rows, or all columns, are cut alike.
  bool acrossOnly() const { return shape_ == StripShape::Bars && sin_ == 0; }
  bool downOnly() const { return shape_ == StripShape::Bars && cos_ == 0; }
  /// The direction, in pixels across and down.
  Place direction() const { return {cos_, sin_ / down_}; }

 private:
  bool hasRows() const { return shape_ == StripShape::Grid || shape_ == StripShape::Tiles; }
  /// How far along a place is within the bands, which an offset moves.
  double within(double x, double y) const {
    const double u = along(x, y) - shift_;
    return shift_ > 0 && u < 0 ? u + extent_ : u;
  }
  int bandAt(double u) const;
  int rowAt(double y) const;

  StripShape shape_;
  int count_, rows_ = 1;
  double strip_ = 0;  ///< fixed width, or 0
  double extent_ = 1, from_ = 0, cos_ = 1, sin_ = 0, shift_ = 0;
  double x_ = 0, y_ = 0, down_ = 1, height_ = 1;
  double bandsAPixel_ = 1;                   ///< about
  std::vector<double> borders_, rowBorders_;  ///< where bands and rows begin, and where the last one ends
};

/// The strip, or strips, that read the present moment.
enum class NowStandsAt { First, Last, Middle, BothEdges };
/// How far the others are from it: evenly further, by lot, or as a curve says; or each strip at a delay of its own.
enum class StripDelays { Even, ByLot, Drawn, Typed };

/// Staggers by which each of `count` strips is behind: 0…count − 1 (about half of that from the middle and from both
/// edges). By lot, a permutation, whatever stands at now. Drawn: `curve` (of 0…1) of the part of the way, times the
/// longest way. Not of typed ones.
std::vector<double> stripRanks(int count, NowStandsAt now, StripDelays delays, std::uint32_t seed,
                               const CurvePoints& curve);

}  // namespace molten
