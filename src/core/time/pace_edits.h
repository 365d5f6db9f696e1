#pragma once
// What hands do to a Pace: each edit takes one and gives the one after it. Where an edit cannot be done, the Pace comes
// back as it was. Moments are output seconds, source moments source seconds; marks are numbered by the span before
// them: mark i stands between span i and span i + 1.

#include <optional>
#include <span>

#include "core/time/pace_curve.h"

namespace molten {

/// A Pace as a value: where the source begins, and the spans.
struct PaceSetting {
  Rational from = 0;
  PaceSpans spans;  ///< at least one

  PaceCurve curve() const { return {from, spans}; }
  friend bool operator==(const PaceSetting&, const PaceSetting&) = default;
};

/// What a changed speed does to a span.
enum class Keeping {
  Footage,  ///< it shows the same stretch of source; its length changes, and what follows moves
  Length    ///< it lasts as long; it shows another stretch of source
};
/// What a mark slides along.
enum class Along {
  Output,  ///< it comes to stand at another moment; later marks stay on their moments
  Footage  ///< it comes to stand on another frame; later marks stay on their footage, and move in time
};

/// Splits the span at a moment. Nothing changes in what is seen, unless the mark falls into a glide, which then finds
/// less room. `glide`: of the new mark, once the speeds about it differ.
PaceSetting dropMark(const PaceSetting& pace, Rational t, Rational glide = 0);
/// Joins the spans about a mark: from the one before to the one after it at the even speed that covers the same source.
PaceSetting removeMark(const PaceSetting& pace, std::size_t mark);
/// With Keeping::Footage a freeze has no length and a span that stands still has no footage: then the length is kept.
PaceSetting setSpeed(const PaceSetting& pace, std::size_t span, Rational speed, Keeping keeping);
/// The span lasts as long as said, at its speed; what follows moves.
PaceSetting setLength(const PaceSetting& pace, std::size_t span, Rational length);
/// `to`: output seconds, or source seconds with Along::Footage. Speeds stay. A mark stops short of its neighbours.
PaceSetting slideMark(const PaceSetting& pace, std::size_t mark, Along along, Rational to);
PaceSetting setGlide(const PaceSetting& pace, std::size_t mark, Rational length);
PaceSetting setGlideSide(const PaceSetting& pace, std::size_t mark, GlideSide side);
PaceSetting setBend(const PaceSetting& pace, std::size_t mark, Rational bend);
/// Time stands still at a moment for a while, then goes on as it did.
PaceSetting freezeHere(const PaceSetting& pace, Rational t, Rational length);
/// The span runs the other way. The first one shows the same stretch of source from its other end (less the frame that
/// it ends at, of `frame` seconds, which the end lies behind); later ones begin where the span before ended.
PaceSetting runBackwards(const PaceSetting& pace, std::size_t span, Rational frame);
/// After the span its stretch of source is run back and forth again, `times` times, with glides at the turns.
PaceSetting backAndAgain(const PaceSetting& pace, std::size_t span, int times, Rational glide);
/// The speed changes smoothly over a length: into the span from the one before it, or from standing still …
PaceSetting pickUpSpeed(const PaceSetting& pace, std::size_t span, Rational length);
/// … and out of it into the next one, or to standing still.
PaceSetting comeToRest(const PaceSetting& pace, std::size_t span, Rational length);
/// All of it in as long as is said, over the same source; with `ease` above 0 it begins and ends standing still, and
/// takes that long to come up to speed.
PaceSetting fitTo(const PaceSetting& pace, Rational total, Rational ease);
/// Other footage under marks and speeds that stay.
PaceSetting slip(const PaceSetting& pace, Rational by);
/// This moment of the source at this moment of the output; everything else follows.
PaceSetting lineUp(const PaceSetting& pace, Rational source, Rational t);
/// What comes before, or from, a moment on is cut off; what is left stays on its footage.
PaceSetting trimStart(const PaceSetting& pace, Rational t);
PaceSetting trimEnd(const PaceSetting& pace, Rational t);
/// Takes a span out; what follows closes up, in time and on the source.
PaceSetting removeSpan(const PaceSetting& pace, std::size_t span);

/// The nearest of the speeds that are worth stopping at, within `reach`: every 5 %, and those at which pictures of the
/// output are each held equally long or pass over equally many frames (multiples and simple parts of `clean`).
Rational snappedSpeed(Rational speed, Rational clean, Rational reach);

}  // namespace molten
