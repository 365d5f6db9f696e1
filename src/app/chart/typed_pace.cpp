#include "app/chart/typed_pace.h"

#include <QCoreApplication>
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
/// As it is parsed: without spaces, in small letters and with a plain minus.
std::string plain(QString text) {
  return text.remove(' ').replace(QChar(0x2212), '-').toLower().toStdString();
}
std::optional<Rational> secondsIn(const QString& text, Rational rate) {
  const auto seconds = parseSeconds(plain(text), rate);
  return seconds ? std::optional(*seconds) : std::nullopt;
}

}  // namespace

TypedPace typedSpeed(const PaceSetting& pace, std::size_t span, Keeping keeping) {
  return {
      keeping == Keeping::Footage ? Words::tr("Speed, keeping its footage") : Words::tr("Speed, keeping its length"),
      inPercent(pace.spans[span].speed), Words::tr("Span %1 at").arg(span + 1),
      [=](const QString& text) -> std::optional<PaceSetting> {
        const auto speed = parseSpeed(plain(text));
        return speed ? std::optional(setSpeed(pace, span, *speed, keeping)) : std::nullopt;
      }};
}

TypedPace typedMark(const PaceSetting& pace, std::size_t mark, Rational rate) {
  const QString name = Words::tr("Mark %1 at").arg(mark + 1);
  return {name, inSeconds(pace.curve().beginOf(mark + 1)), name,
          [=](const QString& text) -> std::optional<PaceSetting> {
            const auto at = secondsIn(text, rate);
            return at ? std::optional(slideMark(pace, mark, Along::Output, *at)) : std::nullopt;
          }};
}

TypedPace typedGlide(const PaceSetting& pace, std::size_t mark, Rational rate) {
  return {Words::tr("Glide of"), inSeconds(pace.spans[mark].glide), Words::tr("Glide %1 of").arg(mark + 1),
          [=](const QString& text) -> std::optional<PaceSetting> {
            const auto length = secondsIn(text, rate);
            return length && *length >= Rational(0) ? std::optional(setGlide(pace, mark, *length)) : std::nullopt;
          }};
}

TypedPace typedBend(const PaceSetting& pace, std::size_t mark) {
  return {Words::tr("Bent by"), inPercent(pace.spans[mark].bend), Words::tr("Glide %1 bent by").arg(mark + 1),
          [=](const QString& text) -> std::optional<PaceSetting> {
            const auto bend = parseSpeed(plain(text));
            return bend && *bend >= Rational(-1) && *bend <= Rational(1) ? std::optional(setBend(pace, mark, *bend))
                                                                         : std::nullopt;
          }};
}

TypedPace typedLength(const QString& question, Rational length, const QString& name, Rational rate,
                      std::function<PaceSetting(Rational length)> edit) {
  return {question, inSeconds(length), name,
          [rate, edit = std::move(edit)](const QString& text) -> std::optional<PaceSetting> {
            const auto typed = secondsIn(text, rate);
            return typed && *typed > Rational(0) ? std::optional(edit(*typed)) : std::nullopt;
          }};
}

TypedPace typedSlip(const PaceSetting& pace, Rational rate) {
  return {Words::tr("Slip the footage by"), "1f", Words::tr("Slip by"),
          [=](const QString& text) -> std::optional<PaceSetting> {
            const auto by = secondsIn(text, rate);
            return by ? std::optional(slip(pace, *by)) : std::nullopt;
          }};
}

TypedPace typedTurns(const PaceSetting& pace, std::size_t span, Rational glide) {
  return {Words::tr("Back and again, how often"), "1", Words::tr("Back and again"),
          [=](const QString& text) -> std::optional<PaceSetting> {
            const int times = text.trimmed().toInt();
            return times >= 1 && times <= 100 ? std::optional(backAndAgain(pace, span, times, glide)) : std::nullopt;
          }};
}

TypedPace typedSourceFrame(const PaceSetting& pace, Rational at, Rational sourceRate) {
  constexpr std::int64_t most = 1 << 30;
  const auto now = static_cast<std::int64_t>(std::floor(pace.curve().at(at).seconds() * sourceRate.toDouble() + 0.5));
  return {Words::tr("This source frame at the playhead"), QString::number(now), Words::tr("Line up source frame"),
          [=](const QString& text) -> std::optional<PaceSetting> {
            bool number = false;
            const qlonglong frame = text.trimmed().toLongLong(&number);
            return number && std::abs(frame) < most ? std::optional(lineUp(pace, Rational(frame) / sourceRate, at))
                                                    : std::nullopt;
          }};
}

}  // namespace molten
