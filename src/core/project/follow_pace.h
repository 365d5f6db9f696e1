#pragma once
// What stands on the time after a Pace goes along when the Pace gets longer or shorter there.

#include "core/project/project.h"
#include "core/time/pace_edits.h"

namespace molten {

/// How moments of a Pace's output move when its spans change: those before the change stay, those after it move by as much as the
/// length changed, and those within it keep their place between the two, in proportion. All in seconds.
class MomentShift {
 public:
  MomentShift(const PaceSetting& before, const PaceSetting& after);
  /// Where something is put in at the very moment: whether that moment moves behind it.
  Rational moved(Rational moment, bool behind = false) const;
  bool none() const { return more_ == Rational(0); }

 private:
  Rational from_, to_, more_;  ///< the change lies between these two moments of what was before
};

/// A project whose Pace, the stage of that number, has changed so: in and out, a shot's trims, keys and moments of the stages after it
/// go along. `rate`: of the result, in frames a second. Meant for chains where nothing after the Pace moves frames in time.
Project withMomentsMoved(const Project& project, std::size_t pace, const MomentShift& shift, Rational rate);

}  // namespace molten
