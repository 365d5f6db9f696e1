#pragma once
// Shots in a row, as one video: what a reel is to everything that makes pictures. It is not among the stages that are offered.

#include <optional>
#include <vector>

#include "core/picture/video_description.h"
#include "core/stages/followed_sounds.h"
#include "core/stages/source_use.h"
#include "core/stages/stage.h"

namespace molten {

/// A shot where it lies in a row. In seconds.
struct RowShot {
  OwnSource source;        ///< without a path: it cannot be had, and nothing is seen
  Chain chain;             ///< over that
  Rational begin, length;  ///< of the row, with both dissolves; whole pictures
  Rational from;           ///< of what leaves the chain: what is seen at `begin`
  Rational comes = 0;      ///< how long the shot before it is still seen
  bool linearLight = false;  ///< both are mixed as light is
  bool fills = false;      ///< of another shape than the row: it is cut to that, not fitted into it
  FollowedSounds sounds;   ///< by which values of its chain go, on the time of what leaves that
  Rational end() const { return begin + length; }
  friend bool operator==(const RowShot&, const RowShot&) = default;
};

/// Requires one shot at least; each begins where the one before it ends, or `comes` earlier.
struct ShotRow {
  Size size;                 ///< in pixels, of all of it
  Rational pixelAspect = 1;
  Rational rate = 25;        ///< pictures a second
  InBetween between = InBetween::Whole;  ///< what is seen between two of its pictures
  std::vector<RowShot> shots;

  Rational seconds() const { return shots.back().end(); }
  friend bool operator==(const ShotRow&, const ShotRow&) = default;
};

/// What is seen at a moment of a row: a shot, and during a dissolve the next one as well.
struct RowMoment {
  std::size_t shot = 0;  ///< its number in the row
  std::optional<std::size_t> next = std::nullopt;
  double share = 0;  ///< of the next one, 0…1
};
/// Before the beginning the first is seen, after the end the last.
RowMoment rowMoment(const ShotRow& row, Rational seconds);

/// The first stage of a chain: nothing that enters is seen. A shot's picture is conformed to the row's shape: what has another
/// one is resampled (Lanczos), fitted into it over black, or cut to it; what differs in format alone is converted; what has the
/// same shape comes out as it is, sample for sample.
Stage shotRow(std::shared_ptr<const ShotRow> row);

}  // namespace molten
