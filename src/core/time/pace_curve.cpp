#include "core/time/pace_curve.h"

#include <algorithm>
#include <cmath>

namespace molten {
namespace {

/// S(u) of the header.
double changeUntil(double u, double bend) {
  const double u2 = u * u, u3 = u2 * u;
  return u3 - u2 * u2 / 2 + 3 * bend * (u3 / 3 - u2 * u2 / 2 + u2 * u3 / 5);
}

double changeAt(double u, double bend) {
  return u * u * (3 - 2 * u) + 3 * bend * u * u * (1 - u) * (1 - u);
}

bool glides(const PaceSpans& spans, std::size_t i) {
  return i + 1 < spans.size() && spans[i].glide > Rational(0) && spans[i].speed != spans[i + 1].speed;
}

/// The parts of a glide that lie before its mark and after it.
struct Sides {
  Rational before, after;
};
Sides sidesOf(const PaceSpan& span) {
  if (span.side == GlideSide::Before) return {1, 0};
  if (span.side == GlideSide::After) return {0, 1};
  const Rational before = Rational(1, 2) - span.bend / 10;
  return {before, Rational(1) - before};
}

/// Output seconds that glides may take of a span: half of it each, where both reach into it.
Rational room(const PaceSpans& spans, std::size_t span) {
  const bool reachesIn = span > 0 && glides(spans, span - 1) && sidesOf(spans[span - 1]).after > Rational(0);
  const bool reachesOut = glides(spans, span) && sidesOf(spans[span]).before > Rational(0);
  return reachesIn && reachesOut ? spans[span].length / 2 : spans[span].length;
}

PaceCurve::Glide glideBetween(const PaceSpans& spans, std::size_t i, Rational mark) {
  const PaceSpan& span = spans[i];
  if (!glides(spans, i)) return {mark, 0};
  const Sides sides = sidesOf(span);
  Rational length = span.glide;
  if (sides.before > Rational(0)) length = std::min(length, room(spans, i) / sides.before);
  if (sides.after > Rational(0)) length = std::min(length, room(spans, i + 1) / sides.after);
  return {mark - length * sides.before, length};
}

}  // namespace

PaceCurve::PaceCurve(Rational from, PaceSpans spans) : spans_(std::move(spans)), from_(from) {
  begins_.push_back(0);
  for (const PaceSpan& span : spans_) begins_.push_back(begins_.back() + span.length);
  sources_.push_back(from);
  lines_.push_back(from);
  for (std::size_t i = 0; i < spans_.size(); ++i) {
    const Glide glide = glideBetween(spans_, i, begins_[i + 1]);
    glides_.push_back(glide);
    const Rational straight = straightAt(i, begins_[i + 1]);
    Rational next = straight;
    // What a glide before or after its mark brings more than a sudden change at the mark would.
    const Rational early = begins_[i + 1] - glide.begin, whole = Rational(1, 2) + spans_[i].bend / 10;
    if (glide.length > Rational(0))
      next = next + (spans_[i + 1].speed - spans_[i].speed) * (glide.length * whole - (glide.length - early));
    lines_.push_back(next);
    sources_.push_back(early == Rational(0) ? straight : next);
  }
  for (std::size_t i = 0; i < spans_.size(); ++i)
    rough_.push_back({begins_[i].toDouble(), lines_[i].toDouble(), spans_[i].speed.toDouble(),
                      glides_[i].begin.toDouble(), glides_[i].length.toDouble(), spans_[i].bend.toDouble()});
}

bool PaceCurve::isNarrowed(std::size_t i) const {
  return glides(spans_, i) && glides_[i].length < spans_[i].glide;
}

std::size_t PaceCurve::spanAt(Rational t) const {
  const auto after = std::upper_bound(begins_.begin() + 1, begins_.end() - 1, t);
  return static_cast<std::size_t>(after - begins_.begin()) - 1;
}

Rational PaceCurve::straightAt(std::size_t span, Rational t) const {
  return lines_[span] + (t - begins_[span]) * spans_[span].speed;
}

PaceCurve::Moment PaceCurve::at(Rational t, double off) const {
  // Which span leads is told by all of the moment, the rest by the exact part as far as it goes.
  const auto i = static_cast<std::size_t>(roughAt(t.toDouble() + off) - rough_.data());
  const Rough& span = rough_[i];
  const Rational straight = straightAt(i, t);
  return {straight, span.speed * off + inGlide(span, t.toDouble() + off)};
}

double PaceCurve::atSeconds(double t) const {
  const Rough& span = *roughAt(t);
  return span.source + (t - span.begin) * span.speed + inGlide(span, t);
}

const PaceCurve::Rough* PaceCurve::roughAt(double t) const {
  const auto after = std::upper_bound(rough_.begin() + 1, rough_.end(), t,
                                      [](double moment, const Rough& span) { return moment < span.begin; });
  const Rough* span = &*(after - 1);
  // A glide that reaches beyond its mark belongs to the span before.
  if (span > rough_.data() && t < (span - 1)->glideBegin + (span - 1)->glideLength) --span;
  return span;
}

/// What the glide after a span adds to its straight line.
double PaceCurve::inGlide(const Rough& span, double t) const {
  if (t <= span.glideBegin || span.glideLength == 0) return 0;
  const double change = (&span + 1)->speed - span.speed;
  return span.glideLength * change * changeUntil((t - span.glideBegin) / span.glideLength, span.bend);
}

std::pair<double, double> PaceCurve::range(double from, double to) const {
  double least = atSeconds(from), most = least;
  const auto take = [&](double t) {
    const double source = atSeconds(std::clamp(t, from, to));
    least = std::min(least, source), most = std::max(most, source);
  };
  take(to);
  for (const Rough* span = roughAt(from); span < rough_.data() + rough_.size() && span->begin <= to + span->glideLength;
       ++span) {
    take(span->begin);
    if (span->glideLength == 0) continue;
    take(span->glideBegin), take(span->glideBegin + span->glideLength);
    // Where the speed passes through 0 within a glide, the source turns: it is not further than what is run there.
    const double next = (span + 1)->speed, slack = span->glideLength * std::min(std::abs(span->speed), std::abs(next));
    if (span->speed * next >= 0 || span->glideBegin > to || span->glideBegin + span->glideLength < from) continue;
    least -= slack, most += slack;
  }
  return {least, most};
}

double PaceCurve::speedAt(double t) const {
  const Rough& span = *roughAt(t);
  if (t <= span.glideBegin || span.glideLength == 0) return span.speed;
  return span.speed + ((&span + 1)->speed - span.speed) * changeAt((t - span.glideBegin) / span.glideLength, span.bend);
}

}  // namespace molten
