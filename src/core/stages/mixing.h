#pragma once
// Stages whose pictures are made of several moments of what enters.

#include <memory>
#include <span>
#include <vector>

#include "core/picture/kept_light.h"
#include "core/stages/source_video.h"
#include "core/stages/stage.h"

namespace molten {

/// A picture that one is made of.
struct MixSource {
  std::size_t way = 0;  ///< of Mixing::ways()
  Moment moment;        ///< of what leaves the way; within it
  PixelBox part = {};   ///< what is needed of it, in pixels of the full size; empty: all of it
};

/// One picture in the making. For one thread at a time, on whose ThreadLimit it works.
class Mixture {
 public:
  virtual ~Mixture() = default;
  /// What it is to be made of.
  virtual const std::vector<MixSource>& sources() const = 0;
  /// In what form a source's picture is mixed sooner, if neighbouring pictures are made of it too; none: as it is.
  virtual const KeptLight* keptForm() const { return nullptr; }
  /// The pictures of the sources from number `first` on, as they are or in that form; each once, in order, in lots of any
  /// size.
  virtual void add(std::size_t first, std::span<const Picture> pictures) = 0;
  /// After the last one.
  virtual Picture finish() = 0;
};

/// What pictures are made in.
struct MixShapes {
  PictureShape in, out;  ///< what enters, and what leaves: the same format, or `out` in floats that are not cut off: wideShape()
  int scale = 1;         ///< both are so many times smaller than the full size
};

/// What enters, or another source, on its way into a mix.
struct MixWay {
  Chain stages = {};  ///< to be passed before it is mixed: of what enters, such as choose times only
  std::optional<InBetween> between = std::nullopt;  ///< another in-between than the footage's
  std::shared_ptr<const SourceVideo> source = {};   ///< nullptr: what enters
  std::optional<FollowedSounds> sounds = std::nullopt;  ///< that values of the way's stages go by; none: the same as elsewhere
  friend bool operator==(const MixWay&, const MixWay&) = default;
};

/// How a stage makes its pictures. Safe for several threads.
class Mixing {
 public:
  virtual ~Mixing() = default;
  /// The ways of what enters; each is read on its own.
  virtual std::vector<MixWay> ways() const { return {MixWay{}}; }
  /// Every moment that the picture at a moment is made of; quick. Moments past the ends are those that are meant.
  virtual std::vector<MixSource> sources(const Moment& moment) const = 0;
  virtual std::unique_ptr<Mixture> mixture(const Moment& moment, const MixShapes& shapes) const = 0;
  /// Moments that are mixed in beside the present one, for drawing: in incoming pictures, about as many as an eye can
  /// tell apart.
  virtual std::vector<double> taps(double) const { return {}; }
  /// True if neighbouring pictures are mostly made of the same ones.
  virtual bool sharesSources() const { return true; }
  /// Pictures of what leaves, rising, that show nothing of what the one before them does: nothing lies between the two.
  virtual std::vector<std::int64_t> cuts() const { return {}; }
  /// True if places of the picture may be left empty.
  virtual bool mayBeClear() const { return false; }
};

}  // namespace molten
