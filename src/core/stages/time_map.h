#pragma once
// From the pictures that leave a stage to the pictures that enter it.

#include <functional>
#include <memory>
#include <span>
#include <vector>

#include "core/field/plane_sites.h"
#include "core/picture/video_description.h"
#include "core/time/frame_clock.h"
#include "core/time/moment.h"

namespace molten {

/// Bounds of displacements or of positions, in incoming pictures.
struct Reach {
  double least = 0, most = 0;
};

class MovingMap;
class DisplacingMap;
class Mixing;
class PixelWork;
class FrameWork;
class Warp;

/// From the moments of what leaves a stage to those of what enters it, in continuous time; nothing is rounded. Both
/// videos have the same rate and size. There are two kinds: a MovingMap moves whole pictures in time, a DisplacingMap
/// displaces the pixels of each about its own moment. Either may make its pictures of several moments: then it is the
/// map of the present one, mixing() tells the rest, and what leaves may have another size. Safe for several threads.
class TimeMap {
 public:
  virtual ~TimeMap() = default;
  /// What leaves the stage.
  const VideoDescription& outgoing() const { return outgoing_; }

  /// As what it is one of the two; nullptr: it is the other.
  virtual const MovingMap* moving() const { return nullptr; }
  virtual const DisplacingMap* displacing() const { return nullptr; }
  /// How its pictures are made if each is made of several; nullptr if they are not.
  virtual const Mixing* mixing() const { return nullptr; }
  /// What is done to the colours of its pictures, where it is a map that moves none; nullptr: nothing.
  virtual const PixelWork* pixelWork() const { return nullptr; }
  /// How its pictures are laid out anew, likewise.
  virtual const FrameWork* frameWork() const { return nullptr; }
  /// Where places of what leaves lie in what enters; nullptr: where they are.
  virtual const Warp* warp() const { return nullptr; }

  /// What a pixel that is not displaced reads at a moment.
  virtual Moment readAt(const Moment& moment) const { return moment; }
  /// The same for a position in doubles, within 1e-9 of it and of its own rounding.
  virtual double positionAt(double position) const { return position; }
  /// The same for what is heard: that goes on while a picture stays.
  virtual double heardAt(double position) const { return positionAt(position); }
  /// Bounds of what is read beside that: of the displacements, or of what is mixed, of all pictures. Quick.
  virtual Reach reach() const { return {}; }

  virtual PastTheEnds pastTheEnds() const = 0;

 protected:
  explicit TimeMap(const VideoDescription& outgoing) : outgoing_(outgoing) {}

 private:
  VideoDescription outgoing_;
};

/// All pixels of a picture at a moment read the same: readAt(moment).
class MovingMap : public TimeMap {
 public:
  using TimeMap::TimeMap;
  const MovingMap* moving() const final { return this; }
  /// Bounds of what positions between two read: not too narrow.
  virtual Reach readsBetween(double from, double to) const { return {from, to}; }
};

/// The displacements of one picture. Immutable: for several threads.
class Displacement {
 public:
  virtual ~Displacement() = default;
  /// In incoming pictures, for every site of a row. Requires out.size() == sites.width.
  virtual void row(const PlaneSites& sites, int row, std::span<double> out) const = 0;
};

/// The pixel at a site of the picture at a moment reads that moment's position + its displacement.
class DisplacingMap : public TimeMap {
 public:
  using TimeMap::TimeMap;
  const DisplacingMap* displacing() const final { return this; }
  /// Of the picture at a moment. May read files and footage.
  virtual std::shared_ptr<const Displacement> displacement(const Moment& moment) const = 0;
  /// True if the displacements are those of every other moment.
  virtual bool steady() const { return true; }
  /// Where each pixel of a row is of a moment of its own (positions; NaN: of none, left out): its displacement there.
  /// What changes in the stage from picture to picture is that of the nearest picture of its rate; what follows time
  /// itself is exact.
  virtual void displaceEach(std::span<const double> positions, const PlaneSites& sites, int row,
                            std::span<double> out) const;
  /// As reach(), of the picture at a moment; of those of all moments between two positions. Quick.
  virtual Reach reachAt(const Moment&) const { return reach(); }
  Reach reachBetween(double from, double to) const;
};

/// For pixels of a row that are each of a moment of their own (positions; NaN: of none, left out): calls make(picture,
/// stretch of the row, its positions, its displacements) for each picture that is nearest to some of them.
using MakeStretch = std::function<void(std::int64_t picture, const PlaneSites& stretch,
                                       std::span<const double> positions, std::span<double> out)>;
void overPictures(std::span<const double> positions, const PlaneSites& sites, const MakeStretch& make,
                  std::span<double> out);

}  // namespace molten
