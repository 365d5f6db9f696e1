#pragma once
// Numbers of a Pace that are typed: what is asked, and what an answer makes.

#include <QString>
#include <functional>
#include <optional>

#include "core/time/pace_edits.h"

namespace molten {

struct TypedPace {
  QString question;
  QString text;  ///< the number as it is
  QString name;  ///< of the undo step; what was typed follows
  /// The Pace that a text stands for; none if it is no such number.
  std::function<std::optional<PaceSetting>(const QString& text)> edit;
  QString wanted;  ///< a sentence: what can stand there
  /// What a text was taken for, where that is not plain from it.
  std::function<QString(const QString& text)> understood = {};
};

/// `1.5s`, `1,5 s`, `36f`, `1/12s`: a time as it is typed; `rate`: of what frames are counted in.
std::optional<Rational> typedSeconds(const QString& text, Rational rate);

/// `rate`: of the output, for lengths in frames.
TypedPace typedSpeed(const PaceSetting& pace, std::size_t span, Keeping keeping);
TypedPace typedMark(const PaceSetting& pace, std::size_t mark, Rational rate);
TypedPace typedGlide(const PaceSetting& pace, std::size_t mark, Rational rate);
TypedPace typedBend(const PaceSetting& pace, std::size_t mark);
/// A length above 0 s.
TypedPace typedLength(const QString& question, Rational length, const QString& name, Rational rate,
                      std::function<PaceSetting(Rational length)> edit);
TypedPace typedSlip(const PaceSetting& pace, Rational rate);
/// All of it in as long as is said, with an ease at both ends of what follows a `~`; without it of a quarter, a second
/// at most.
TypedPace typedFit(const PaceSetting& pace, Rational rate);
/// A count, or a time: as often as fits into it.
TypedPace typedTurns(const PaceSetting& pace, std::size_t span, Rational glide, Rational rate);
/// A frame, `120` or `120f`, or a moment of the source, `4s`. `at`: the playhead, in seconds of the output.
TypedPace typedSourceFrame(const PaceSetting& pace, Rational at, Rational sourceRate);

}  // namespace molten
