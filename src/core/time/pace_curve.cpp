#include "core/time/pace_curve.h"

#include <algorithm>

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

/// Output seconds that a glide may take of a span beside it.
Rational room(const PaceSpans& spans, std::size_t span) {
  return span > 0 && glides(spans, span - 1) && glides(spans, span) ? spans[span].length / 2 : spans[span].length;
}

PaceCurve::Glide glideBetween(const PaceSpans& spans, std::size_t i, Rational mark) {
  const PaceSpan& span = spans[i];
  if (!glides(spans, i)) return {mark, 0};
  const Rational before = Rational(1, 2) - span.bend / 10, after = Rational(1) - before;
  const Rational length = std::min({span.glide, room(spans, i) / before, room(spans, i + 1) / after});
  return {mark - length * before, length};
}

}  // namespace

PaceCurve::PaceCurve(Rational from, PaceSpans spans) : spans_(std::move(spans)), from_(from) {
  begins_.push_back(0);
  sources_.push_back(from);
  for (const PaceSpan& span : spans_) {
    begins_.push_back(begins_.back() + span.length);
    sources_.push_back(sources_.back() + span.length * span.speed);
  }
  for (std::size_t i = 0; i < spans_.size(); ++i) {
    glides_.push_back(glideBetween(spans_, i, begins_[i + 1]));
    rough_.push_back({begins_[i].toDouble(), sources_[i].toDouble(), spans_[i].speed.toDouble(),
                      glides_[i].begin.toDouble(), glides_[i].length.toDouble()});
  }
}

std::size_t PaceCurve::spanAt(Rational t) const {
  const auto after = std::upper_bound(begins_.begin() + 1, begins_.end() - 1, t);
  return static_cast<std::size_t>(after - begins_.begin()) - 1;
}

PaceCurve::Moment PaceCurve::at(Rational t) const {
  std::size_t i = spanAt(t);
  // The glide at the span's beginning belongs to the span before.
  if (i > 0 && t < glides_[i - 1].begin + glides_[i - 1].length) --i;
  const Rational straight = sources_[i] + (t - begins_[i]) * spans_[i].speed;
  const Glide& glide = glides_[i];
  if (t <= glide.begin || glide.length == Rational(0)) return {straight, 0};
  const double u = ((t - glide.begin) / glide.length).toDouble();
  const double change = (spans_[i + 1].speed - spans_[i].speed).toDouble();
  return {straight, glide.length.toDouble() * change * changeUntil(u, spans_[i].bend.toDouble())};
}

double PaceCurve::roughly(double t) const {
  const auto after = std::upper_bound(rough_.begin() + 1, rough_.end(), t,
                                      [](double moment, const Rough& span) { return moment < span.begin; });
  auto span = after - 1;
  if (span > rough_.begin() && t < (span - 1)->glideBegin + (span - 1)->glideLength) --span;
  const double straight = span->source + (t - span->begin) * span->speed;
  if (t <= span->glideBegin || span->glideLength == 0) return straight;
  return straight + span->glideLength * ((span + 1)->speed - span->speed) *
                        changeUntil((t - span->glideBegin) / span->glideLength,
                                    spans_[static_cast<std::size_t>(span - rough_.begin())].bend.toDouble());
}

double PaceCurve::speedAt(double t) const {
  std::size_t i = 0;
  while (i + 1 < rough_.size() && t >= rough_[i + 1].begin) ++i;
  if (i > 0 && t < rough_[i - 1].glideBegin + rough_[i - 1].glideLength) --i;
  const Rough& span = rough_[i];
  if (t <= span.glideBegin || span.glideLength == 0) return span.speed;
  return span.speed + (rough_[i + 1].speed - span.speed) *
                          changeAt((t - span.glideBegin) / span.glideLength, spans_[i].bend.toDouble());
}

}  // namespace molten
