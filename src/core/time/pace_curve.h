#pragma once
// Pace: which moment of the source stands at each moment of the output. The integral of a signed speed that is
// constant on spans and changes smoothly in the glides between them.

#include <cstdint>
#include <utility>
#include <vector>

#include "core/time/rational.h"

namespace molten {

/// Where a glide lies: before its mark, around it, or after it.
enum class GlideSide { Before, Around, After };

/// A stretch of output time with one speed, and the glide to the span after it.
struct PaceSpan {
  Rational length = 1;                 ///< of output time, from mark to mark, in seconds; above 0
  Rational speed = 1;                  ///< source seconds an output second: 1 is 100 %, 0 a freeze, below 0 backwards
  Rational glide = 0;                  ///< how long the speed takes to become the next span's, in seconds of output
  Rational bend = 0;                   ///< −1…1: the change comes late … early within the glide
  GlideSide side = GlideSide::Around;  ///< of the mark that the glide belongs to

  friend bool operator==(const PaceSpan&, const PaceSpan&) = default;
};
/// In output order. Where a list is empty, the source is taken as it runs.
using PaceSpans = std::vector<PaceSpan>;

inline constexpr int fastestSpeed = 100;   ///< either way: 10 000 %
inline constexpr int longestPace = 86400;  ///< seconds of output, of all spans together
inline constexpr std::size_t mostSpans = 1000;

/// A glide of g seconds lies at the mark between two spans of the speeds a and b: with u from 0 at its beginning to 1
/// at its end, the speed is
///   v(u) = a + (b − a)·s(u),   s(u) = 3u² − 2u³ + 3·bend·u²(1 − u)²
/// (s rises from 0 to 1, level at both ends; bend moves the change), and the source moves on by
///   g·(a·u + (b − a)·S(u)),    S(u) = u³ − u⁴/2 + 3·bend·(u³/3 − u⁴/2 + u⁵/5),   S(1) = 1/2 + bend/10.
/// Around the mark it begins g·(1/2 − bend/10) before it, so that it takes the source just as far as a sudden change at
/// the mark would: such glides, wide or bent, move no mark, neither along the output nor along the source. Before the
/// mark it ends there, after the mark it begins there: the span on the other side keeps its full length and speed, and
/// what follows is moved along the source by g·(b − a)·S(1) or by g·(a − b)·(1 − S(1)).
/// A glide that finds no room is narrowed: what it takes of a span that has a glide at each end is half of it at most.
class PaceCurve {
 public:
  /// A moment of the source in seconds: `exact` + `glide`, the latter 0 outside of glides.
  struct Moment {
    Rational exact;
    double glide = 0;
    double seconds() const { return exact.toDouble() + glide; }
  };
  /// A glide as it is used.
  struct Glide {
    Rational begin, length;  ///< output seconds
  };

  /// `from`: the source's moment at output 0, in seconds. Requires at least one span.
  PaceCurve(Rational from, PaceSpans spans);

  const PaceSpans& spans() const { return spans_; }
  Rational from() const { return from_; }
  /// In output seconds.
  Rational length() const { return begins_.back(); }
  /// Where a span begins, in output seconds; with i the number of spans, where the last one ends.
  Rational beginOf(std::size_t i) const { return begins_[i]; }
  /// The source's moment there, in seconds.
  Rational sourceAt(std::size_t i) const { return sources_[i]; }
  /// The glide after a span. Of length 0 where there is none.
  const Glide& glideAfter(std::size_t i) const { return glides_[i]; }
  /// True if the glide after a span has less room than it asks for.
  bool isNarrowed(std::size_t i) const;
  /// The span that a moment of the output lies in.
  std::size_t spanAt(Rational t) const;

  /// Exact outside of glides; before the beginning and after the end the speed there goes on. `off`: further seconds of
  /// output, which went through floating point.
  Moment at(Rational t, double off = 0) const;
  /// The same in doubles.
  double atSeconds(double t) const;
  /// Bounds of the source's moments, in seconds, between two of the output's.
  std::pair<double, double> range(double from, double to) const;
  /// Source seconds an output second.
  double speedAt(double t) const;

 private:
  PaceSpans spans_;
  Rational from_;
  std::vector<Rational> begins_, sources_;
  std::vector<Rational> lines_;  ///< the source's moment at a span's beginning, if there were no glide at it
  std::vector<Glide> glides_;
  /// A span in doubles.
  struct Rough {
    double begin, source, speed, glideBegin, glideLength, bend;
  };
  const Rough* roughAt(double t) const;
  Rational straightAt(std::size_t span, Rational t) const;
  double inGlide(const Rough& span, double t) const;
  std::vector<Rough> rough_;
};

}  // namespace molten
