#include "core/time/pace_on_moments.h"

#include <algorithm>

namespace molten {
PaceSetting markEvery(const PaceSetting& pace, std::span<const Rational> moments) {
  PaceSetting after = pace;
  for (const Rational moment : moments) after = dropMark(after, moment);
  return after;
}

PaceSetting turnAtEvery(const PaceSetting& pace, std::span<const Rational> moments, Rational glide) {
  PaceSetting after = markEvery(pace, moments);
  if (moments.empty() || after.spans.size() < 2) return pace;
  const auto markAt = [&](Rational moment) -> std::optional<std::size_t> {
    const PaceCurve curve = after.curve();
    for (std::size_t mark = 0; mark + 1 < after.spans.size(); ++mark)
      if (curve.beginOf(mark + 1) == moment) return mark;
    return std::nullopt;
  };
  std::optional<Rational> speed;
  bool back = false;
  for (std::size_t i = 0; i < moments.size(); ++i) {
    const auto first = markAt(moments[i]);
    if (!first) continue;
    if (!speed) speed = after.spans[*first].speed;
    back = !back;
    // Up to the next moment, or to the end; marks that lie between stay.
    const bool last = i + 1 == moments.size();
    const auto next = last ? std::nullopt : markAt(moments[i + 1]);
    const std::size_t end = next ? *next + 1 : after.spans.size();
    const Rational by = last ? *speed : back ? Rational(0) - *speed : *speed;
    for (std::size_t span = *first + 1; span < end; ++span) after.spans[span].speed = by;
    Rational room = after.spans[*first].length;
    for (const std::size_t beside : {*first, *first + 1}) room = std::min(room, after.spans[beside].length);
    after.spans[*first].glide = std::min(glide, room / 3);
  }
  return after;
}

PaceSetting fitSpan(const PaceSetting& pace, std::size_t span, Rational begin, Rational length) {
  PaceSetting after = pace;
  if (span > 0) {
    // What comes before lasts until then, at its speed.
    const Rational before = pace.curve().beginOf(span - 1);
    if (begin <= before) return pace;
    after = setLength(after, span - 1, begin - before);
  }
  const PaceSpan& fitted = after.spans[span];
  const Rational source = absolute(fitted.length * fitted.speed);
  if (source == Rational(0)) return setLength(after, span, length);
  const Rational speed = source / length;
  return setSpeed(after, span, fitted.speed < Rational(0) ? Rational(0) - speed : speed, Keeping::Footage);
}

}  // namespace molten
