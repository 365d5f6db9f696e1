#pragma once
// How pictures move on both sides of a cut, and where near by they move more alike.

#include <memory>
#include <optional>
#include <stop_token>
#include <vector>

#include "core/engine/flow_field.h"
#include "core/media/footage.h"
#include "core/stages/stage.h"

namespace molten {

/// Of what moves most in a picture, in heights of the picture a second.
struct Motion {
  double right = 0, down = 0;
  double speed() const;
  friend bool operator==(const Motion&, const Motion&) = default;
};
/// From a picture to the next one, so many of which pass in a second: the mean of the quarter of it that moves most; none at a cut.
std::optional<Motion> motionBetween(FlowFinder& finder, const Picture& first, const Picture& second, double rate);

/// A shot where it is cut. In pictures of what leaves its chain, at `rate` a second.
struct CutSide {
  std::shared_ptr<const Footage> footage;
  InBetween between = InBetween::Whole;
  Chain chain;
  Rational rate = 25;
  std::int64_t picture = 0;  ///< its last before the cut, or its first after it
  std::int64_t least = 0, most = 0;  ///< that it could be
};
/// Of each picture that it could be within `reach` of what it is, how that moves: out of the one before it or, after the cut, into the next
/// one. In order from `least` on.
struct CutMotions {
  std::int64_t least = 0;
  std::vector<std::optional<Motion>> motions;
  std::optional<Motion> at(std::int64_t picture) const;
};
Result<CutMotions> motionsAround(const CutSide& side, bool after, std::int64_t reach, std::stop_token stop);

/// A cut so many pictures later in either shot, and how unlike both move there: 0 alike … 1 as different as can be.
struct NearCut {
  std::int64_t out = 0, in = 0;
  double unlike = 1;
};
struct CutChoice {
  std::optional<Motion> out, in;  ///< where it is cut now
  NearCut now, best;              ///< `best` is `now` where none near by is clearly better
};
CutChoice nearCuts(const CutSide& out, const CutMotions& outMotions, const CutSide& in, const CutMotions& inMotions);

}  // namespace molten
