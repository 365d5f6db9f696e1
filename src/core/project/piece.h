#pragma once
// The piece that a project makes: its picture rate and length, and which moment of the chain each picture shows.

#include <stop_token>
#include <vector>

#include "core/project/project.h"
#include "core/stages/chain_reading.h"

namespace molten {

struct Piece {
  Rational rate = 25;       ///< pictures a second
  std::int64_t length = 1;  ///< pictures
  bool fixed = false;       ///< the length is set; otherwise it follows the chain
  bool endless = false;     ///< it is a whole number of rounds of a loop
  /// Pictures of the chain's video from one of the piece to the next. A loop is divided evenly: time then runs a little
  /// faster or slower than the rates say.
  Rational step = 1;
  Rational chainRate = 25;       ///< of the video that leaves the chain
  std::int64_t chainLength = 1;  ///< of that video, in its pictures
  bool chainEndless = false;

  Rational seconds() const { return Rational(length) / rate; }
  /// How much faster than the rates say its time runs: 0 but for a loop that its rate does not divide.
  double faster() const { return (step * rate / chainRate).toDouble() - 1; }
  /// The chain's moment that a picture shows. Past the chain's end: from its beginning again if it is endless, its last
  /// picture otherwise.
  Moment moment(std::int64_t picture) const;
  friend bool operator==(const Piece&, const Piece&) = default;
};

/// Seconds of the footage that are heard at so many seconds of the piece; NaN: nothing is.
double heardAt(const ChainReading& reading, const Piece& piece, double seconds);

Piece pieceOf(const Project& project, const VideoDescription& footage);
/// The same of a video that leaves a chain, and of a chain other than the project's own.
Piece pieceOf(const VideoDescription& leaving, const OutputSettings& output);
Piece pieceOf(const Chain& chain, const OutputSettings& output, const VideoDescription& footage);

/// Where the pictures of a stretch of the piece read outside of the footage; rising. Of a very long stretch every few
/// pictures are looked at.
std::vector<OutsideRun> outsideRuns(const ChainReading& reading, const Piece& piece, const Span& span, const std::stop_token& stop = {});

/// In and out so that no picture reads outside: the longest stretch of that kind; nothing if there is none.
std::optional<Edit> trimToFootage(const Project& before, const VideoDescription& footage);
/// Sets the piece's rate; in and out keep their moments. None: the footage's.
Edit setOutputRate(const Project& before, std::optional<Rational> rate, const VideoDescription& footage);
/// Fixes the piece's length in seconds; none: it follows the chain.
Edit setOutputLength(const Project& before, std::optional<Rational> seconds);

}  // namespace molten
