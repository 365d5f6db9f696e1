#pragma once
// Stages that lay pictures out anew, and choose no time.

#include <memory>

#include "core/picture/affine.h"
#include "core/picture/picture.h"
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

/// Where places of the pictures that leave a stage lie in those that enter it. For several threads.
class Warp {
 public:
  virtual ~Warp() = default;
  /// From places of the picture that leaves at a moment to those of the one that enters, as fractions of each.
  virtual Affine toIncoming(const Moment& moment) const = 0;
};

}  // namespace molten
