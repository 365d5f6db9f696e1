#pragma once
// Stages that change colours where they stand, and choose no time.

#include <memory>

#include "core/picture/working_format.h"
#include "core/time/moment.h"

namespace molten {

/// What the colours of one picture become. Immutable: for several threads.
class PixelChange {
 public:
  virtual ~PixelChange() = default;
  /// Every pixel of a tile, margins too, from its own values alone: R G B as they are shown, 0 black and 1 white,
  /// neither cut off. `format`: whose tile it is.
  virtual void apply(WorkingTile& tile, const WorkingFormat& format) const = 0;
};

/// How a stage changes colours. Its map reads every moment as it is. Safe for several threads.
class PixelWork {
 public:
  virtual ~PixelWork() = default;
  /// Of the picture at a moment; nullptr: not a sample of it is changed.
  virtual std::shared_ptr<const PixelChange> changeAt(const Moment& moment) const = 0;
  /// True if all pictures are changed alike: then it commutes with whatever only chooses times.
  virtual bool alike() const = 0;
};

}  // namespace molten
