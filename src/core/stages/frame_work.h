#pragma once
// Stages that lay pictures out anew, and choose no time.

#include <memory>

#include "core/picture/picture.h"
#include "core/stages/parameter.h"
#include "core/time/moment.h"

namespace molten {

/// How one picture is laid out anew. Immutable: for several threads.
class FrameChange {
 public:
  virtual ~FrameChange() = default;
  /// `to`: the shape that comes out, of the stage's size or as much smaller as the picture is. On the threads of the
  /// caller's ThreadLimit.
  virtual Picture made(const Picture& picture, const PictureShape& to) const = 0;
};

/// How a stage lays out its pictures, each of the one at the same moment. Safe for several threads.
class FrameWork {
 public:
  virtual ~FrameWork() = default;
  /// Of the picture at a moment; nullptr: not a sample of it is changed.
  virtual std::shared_ptr<const FrameChange> changeAt(const Moment& moment) const = 0;
  /// True if all pictures are laid out alike.
  virtual bool alike() const = 0;
  /// True if places may be left empty.
  virtual bool mayBeClear() const = 0;
};

/// Where places of the pictures that leave a stage lie in those that enter it, as fractions of each. For several threads.
class Warp {
 public:
  virtual ~Warp() = default;
  /// In the picture at a moment.
  virtual Place toIncoming(Place place, const Moment& moment) const = 0;
  virtual Place toOutgoing(Place place, const Moment& moment) const = 0;
};

}  // namespace molten
