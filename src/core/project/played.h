#pragma once
// What is played and rendered of a project, whatever its shots are: one chain over the footage of its first shot.

#include <functional>

#include "core/project/piece.h"
#include "core/project/reel.h"
#include "core/stages/shot_row.h"

namespace molten {

struct Played {
  Chain chain;
  Piece piece;
  std::vector<ShotTime> times;           ///< of a reel; none: it is none
  std::shared_ptr<const ShotRow> row;    ///< likewise nullptr
};

/// What a shot's source gives: of a project, its result.
using DescribeSource = std::function<Result<VideoDescription>(const Source&)>;

/// True if its shots have to be put in a row: they are several, or the one is trimmed, or something comes after the last cut.
bool isReel(const Project& project);

/// `first`: the first shot's footage; none: it cannot be had. Of a project that is no reel nothing else is asked for. A shot whose source cannot be
/// described lasts as long as it is trimmed to, or a second, shows nothing, and the first of such errors is kept in `trouble`. Fails if no shot
/// is on.
Result<Played> playedOf(const Project& project, const std::optional<VideoDescription>& first, const DescribeSource& describe,
                        std::optional<Error>* trouble = nullptr);

/// A row with what comes after the last cut of a project.
Chain chainOfRow(const Project& project, const std::shared_ptr<const ShotRow>& row);
/// A chain of a shot with what runs it through its cuts, as it stands in a row.
Chain chainInRow(const Chain& chain, const ShotTime& time);
/// Of each shot's chain over its source, as it stands in the row; nullptr where that cannot be described.
std::vector<std::shared_ptr<const ChainReading>> readingsOf(const Project& project, const Played& played, const std::optional<VideoDescription>& first,
                                                            const DescribeSource& describe);

}  // namespace molten
