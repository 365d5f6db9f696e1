#include "app/chart/typed_pace.h"

#include <QCoreApplication>
#include <algorithm>
#include <cmath>

#include "core/time/pace_text.h"

namespace molten {
namespace {

struct Words {
  Q_DECLARE_TR_FUNCTIONS(molten::TypedPace)
};

QString inSeconds(Rational seconds) {
  return QString::fromStdString(rationalText(seconds)) + "s";
}
QString inPercent(Rational part) {
  return QString::fromStdString(rationalText(part * 100)) + "%";
}
/// As it is parsed: without spaces, in small letters, with a plain minus and with a point.
std::string plain(QString text) {
  return text.remove(' ').replace(QChar(0x2212), '-').replace(',', '.').toLower().toStdString();
}
QString aTime() {
  return Words::tr("A time: 0.3s, 12f or 1/12s.");
}
/// As often as back and forth of a span fits into a time, once at least.
int turnsIn(const PaceSetting& pace, std::size_t span, Rational seconds, Rational glide) {
  const Rational once = backAndAgain(pace, span, 1, glide).curve().length() - pace.curve().length();
  if (once <= Rational(0)) return 0;
  return static_cast<int>(std::clamp<std::int64_t>((seconds / once + Rational(1, 2)).floor(), 1, 100));
}

}  // namespace

std::optional<Rational> typedSeconds(const QString& text, Rational rate) {
  return parseSeconds(plain(text), rate);
}

TypedPace typedSpeed(const PaceSetting& pace, std::size_t span, Keeping keeping) {
  return {
      keeping == Keeping::Footage ? Words::tr("Speed, keeping its footage") : Words::tr("Speed, keeping its length"),
      inPercent(pace.spans[span].speed), Words::tr("Span %1 at").arg(span + 1),
      [=](const QString& text) -> std::optional<PaceSetting> {
        const auto speed = parseSpeed(plain(text));
        return speed ? std::optional(setSpeed(pace, span, *speed, keeping)) : std::nullopt;
      },
      Words::tr("A speed: 40%, -100% or 1/3; up to 10 000 %.")};
}

TypedPace typedMark(const PaceSetting& pace, std::size_t mark, Rational rate) {
  const QString name = Words::tr("Mark %1 at").arg(mark + 1);
  return {name, inSeconds(pace.curve().beginOf(mark + 1)), name,
          [=](const QString& text) -> std::optional<PaceSetting> {
            const auto at = typedSeconds(text, rate);
            return at ? std::optional(slideMark(pace, mark, Along::Output, *at)) : std::nullopt;
          },
          aTime()};
}

TypedPace typedGlide(const PaceSetting& pace, std::size_t mark, Rational rate) {
  return {Words::tr("Glide of"), inSeconds(pace.spans[mark].glide), Words::tr("Glide %1 of").arg(mark + 1),
          [=](const QString& text) -> std::optional<PaceSetting> {
            const auto length = typedSeconds(text, rate);
            return length && *length >= Rational(0) ? std::optional(setGlide(pace, mark, *length)) : std::nullopt;
          },
          aTime()};
}

TypedPace typedBend(const PaceSetting& pace, std::size_t mark) {
  return {Words::tr("Bent by"), inPercent(pace.spans[mark].bend), Words::tr("Glide %1 bent by").arg(mark + 1),
          [=](const QString& text) -> std::optional<PaceSetting> {
            const auto bend = parseSpeed(plain(text));
            return bend && *bend >= Rational(-1) && *bend <= Rational(1) ? std::optional(setBend(pace, mark, *bend))
                                                                         : std::nullopt;
          },
          Words::tr("From -100% (late) to 100% (early).")};
}

TypedPace typedLength(const QString& question, Rational length, const QString& name, Rational rate,
                      std::function<PaceSetting(Rational length)> edit) {
  return {question, inSeconds(length), name,
          [rate, edit = std::move(edit)](const QString& text) -> std::optional<PaceSetting> {
            const auto typed = typedSeconds(text, rate);
            return typed && *typed > Rational(0) ? std::optional(edit(*typed)) : std::nullopt;
          },
          aTime()};
}

TypedPace typedSlip(const PaceSetting& pace, Rational rate) {
  return {Words::tr("Slip the footage by"), "1f", Words::tr("Slip by"),
          [=](const QString& text) -> std::optional<PaceSetting> {
            const auto by = typedSeconds(text, rate);
            return by ? std::optional(slip(pace, *by)) : std::nullopt;
          },
          aTime()};
}

TypedPace typedFit(const PaceSetting& pace, Rational rate) {
  const auto usual = [](Rational total) { return std::min(total / 4, Rational(1)); };
  struct Fit {
    Rational total, ease;
  };
  const auto read = [=](const QString& text) -> std::optional<Fit> {
    const auto total = typedSeconds(text.section('~', 0, 0), rate);
    if (!total) return std::nullopt;
    const auto ease = text.contains('~') ? typedSeconds(text.section('~', 1), rate) : std::optional(usual(*total));
    if (!ease || *total <= Rational(0) || *ease < Rational(0)) return std::nullopt;
    // At both ends: half of it each at most.
    return Fit{*total, std::min(*ease, *total / 2)};
  };
  return {Words::tr("Fit all of it to, eased"),
          inSeconds(pace.curve().length()) + "~" + inSeconds(usual(pace.curve().length())),
          Words::tr("Fit, eased, to"),
          [=](const QString& text) -> std::optional<PaceSetting> {
            const auto fit = read(text);
            return fit ? std::optional(fitTo(pace, fit->total, fit->ease)) : std::nullopt;
          },
          Words::tr("A length, ~ and how long the ease is at both ends: 4s~0.5s."),
          [=](const QString& text) {
            const auto fit = read(text);
            return fit ? Words::tr("eases %1 at both ends").arg(inSeconds(fit->ease)) : QString();
          }};
}

TypedPace typedTurns(const PaceSetting& pace, std::size_t span, Rational glide, Rational rate) {
  const auto timesIn = [=](const QString& text) -> int {
    bool count = false;
    const int times = text.trimmed().toInt(&count);
    if (count) return times;
    const auto seconds = typedSeconds(text, rate);
    return seconds && *seconds > Rational(0) ? turnsIn(pace, span, *seconds, glide) : 0;
  };
  return {Words::tr("Back and again, how often"), "1", Words::tr("Back and again"),
          [=](const QString& text) -> std::optional<PaceSetting> {
            const int times = timesIn(text);
            return times >= 1 && times <= 100 ? std::optional(backAndAgain(pace, span, times, glide)) : std::nullopt;
          },
          Words::tr("How often, 1 to 100; or a time to fill: 5s."),
          [=](const QString& text) {
            const int times = timesIn(text);
            return times == 1 ? Words::tr("once") : Words::tr("%1 times").arg(times);
          }};
}

TypedPace typedSourceFrame(const PaceSetting& pace, Rational at, Rational sourceRate) {
  constexpr std::int64_t most = 1 << 30;
  const auto now = static_cast<std::int64_t>(std::floor(pace.curve().at(at).seconds() * sourceRate.toDouble() + 0.5));
  const auto momentIn = [=](const QString& text) -> std::optional<Rational> {
    bool number = false;
    const qlonglong frame = text.trimmed().toLongLong(&number);
    if (number) return std::abs(frame) < most ? std::optional(Rational(frame) / sourceRate) : std::nullopt;
    return typedSeconds(text, sourceRate);
  };
  return {Words::tr("This source frame at the playhead"), QString::number(now), Words::tr("Line up source frame"),
          [=](const QString& text) -> std::optional<PaceSetting> {
            const auto moment = momentIn(text);
            return moment ? std::optional(lineUp(pace, *moment, at)) : std::nullopt;
          },
          Words::tr("A frame, 120, or a moment of the source, 4s."),
          [=](const QString& text) {
            const auto moment = momentIn(text);
            return moment ? Words::tr("frame %1").arg((*moment * sourceRate + Rational(1, 2)).floor()) : QString();
          }};
}

}  // namespace molten
