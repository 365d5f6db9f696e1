#include "core/time/pace_edits.h"

#include <algorithm>

namespace molten {
namespace {

/// Spans are not made shorter than this, in seconds.
const Rational shortest(1, 1000);

/// Splits at a moment within (0, length); index of the span that begins there.
std::size_t split(PaceSetting& pace, Rational t) {
  const PaceCurve curve = pace.curve();
  const std::size_t i = curve.spanAt(t);
  const Rational before = t - curve.beginOf(i);
  if (before == Rational(0)) return i;
  PaceSpan first = pace.spans[i], second = first;
  first.length = before;
  first.glide = 0;
  first.bend = 0;
  first.side = GlideSide::Around;
  second.length = second.length - before;
  pace.spans[i] = first;
  pace.spans.insert(pace.spans.begin() + static_cast<std::ptrdiff_t>(i) + 1, second);
  return i + 1;
}

bool within(const PaceSetting& pace, Rational t) {
  return t >= shortest && t <= pace.curve().length() - shortest;
}

/// Refuses what no Pace may be.
PaceSetting checked(const PaceSetting& before, PaceSetting after) {
  if (after.spans.empty() || after.spans.size() > mostSpans) return before;
  Rational total = 0;
  for (const PaceSpan& span : after.spans) {
    if (span.length <= Rational(0) || absolute(span.speed) > Rational(fastestSpeed)) return before;
    total = total + span.length;
  }
  // The last span has nothing to glide to.
  after.spans.back().glide = 0;
  after.spans.back().bend = 0;
  after.spans.back().side = GlideSide::Around;
  return total > Rational(longestPace) ? before : after;
}

}  // namespace

PaceSetting dropMark(const PaceSetting& pace, Rational t, Rational glide) {
  if (!within(pace, t)) return pace;
  PaceSetting after = pace;
  const std::size_t at = split(after, t);
  if (after.spans.size() > pace.spans.size()) after.spans[at - 1].glide = glide;
  return checked(pace, std::move(after));
}

PaceSetting removeMark(const PaceSetting& pace, std::size_t mark) {
  if (mark + 1 >= pace.spans.size()) return pace;
  PaceSetting after = pace;
  PaceSpan& joined = after.spans[mark];
  const PaceSpan& second = pace.spans[mark + 1];
  const Rational source = joined.length * joined.speed + second.length * second.speed;
  joined.length = joined.length + second.length;
  joined.speed = source / joined.length;
  joined.glide = second.glide;
  joined.bend = second.bend;
  joined.side = second.side;
  after.spans.erase(after.spans.begin() + static_cast<std::ptrdiff_t>(mark) + 1);
  return checked(pace, std::move(after));
}

PaceSetting setSpeed(const PaceSetting& pace, std::size_t span, Rational speed, Keeping keeping) {
  PaceSetting after = pace;
  PaceSpan& changed = after.spans[span];
  const Rational source = absolute(changed.length * changed.speed);
  changed.speed = std::clamp(speed, Rational(-fastestSpeed), Rational(fastestSpeed));
  if (keeping == Keeping::Footage && source != Rational(0) && changed.speed != Rational(0))
    changed.length = source / absolute(changed.speed);
  return checked(pace, std::move(after));
}

PaceSetting setLength(const PaceSetting& pace, std::size_t span, Rational length) {
  PaceSetting after = pace;
  after.spans[span].length = std::max(length, shortest);
  return checked(pace, std::move(after));
}

PaceSetting slideMark(const PaceSetting& pace, std::size_t mark, Along along, Rational to) {
  if (mark + 1 >= pace.spans.size()) return pace;
  const PaceCurve curve = pace.curve();
  PaceSetting after = pace;
  PaceSpan &before = after.spans[mark], &next = after.spans[mark + 1];
  if (along == Along::Output) {
    const Rational t = std::clamp(to, curve.beginOf(mark) + shortest, curve.beginOf(mark + 2) - shortest);
    before.length = t - curve.beginOf(mark);
    next.length = curve.beginOf(mark + 2) - t;
    return checked(pace, std::move(after));
  }
  // On spans that stand still no other frame is met.
  if (before.speed == Rational(0) || next.speed == Rational(0)) return pace;
  const Rational further = to - curve.sourceAt(mark + 1);
  const Rational first = before.length + further / before.speed, second = next.length - further / next.speed;
  if (first < shortest || second < shortest) return pace;
  before.length = first;
  next.length = second;
  return checked(pace, std::move(after));
}

PaceSetting setGlide(const PaceSetting& pace, std::size_t mark, Rational length) {
  if (mark + 1 >= pace.spans.size()) return pace;
  PaceSetting after = pace;
  after.spans[mark].glide = std::clamp(length, Rational(0), Rational(longestPace));
  return checked(pace, std::move(after));
}

PaceSetting setGlideSide(const PaceSetting& pace, std::size_t mark, GlideSide side) {
  if (mark + 1 >= pace.spans.size()) return pace;
  PaceSetting after = pace;
  after.spans[mark].side = side;
  return checked(pace, std::move(after));
}

PaceSetting setBend(const PaceSetting& pace, std::size_t mark, Rational bend) {
  if (mark + 1 >= pace.spans.size()) return pace;
  PaceSetting after = pace;
  after.spans[mark].bend = std::clamp(bend, Rational(-1), Rational(1));
  return checked(pace, std::move(after));
}

PaceSetting freezeHere(const PaceSetting& pace, Rational t, Rational length) {
  if (length < shortest) return pace;
  PaceSetting after = pace;
  std::size_t at;
  if (t <= Rational(0))
    at = 0;
  else if (t >= pace.curve().length())
    at = after.spans.size();
  else
    at = split(after, t);
  after.spans.insert(after.spans.begin() + static_cast<std::ptrdiff_t>(at), PaceSpan{length, 0});
  return checked(pace, std::move(after));
}

PaceSetting runBackwards(const PaceSetting& pace, std::size_t span, Rational frame) {
  PaceSetting after = pace;
  PaceSpan& turned = after.spans[span];
  const Rational source = turned.length * turned.speed;
  if (span == 0) after.from = pace.from + source + (source > Rational(0) ? Rational(0) - frame : frame);
  turned.speed = Rational(0) - turned.speed;
  return checked(pace, std::move(after));
}

PaceSetting backAndAgain(const PaceSetting& pace, std::size_t span, int times, Rational glide) {
  if (times < 1 || pace.spans[span].speed == Rational(0)) return pace;
  PaceSetting after = pace;
  PaceSpan forth = pace.spans[span];
  const PaceSpan last = forth;
  forth.glide = glide;
  forth.bend = 0;
  forth.side = GlideSide::Around;
  PaceSpan back = forth;
  back.speed = Rational(0) - forth.speed;
  std::vector<PaceSpan> passes{forth};
  for (int i = 0; i < times; ++i) {
    passes.push_back(back);
    passes.push_back(i + 1 < times ? forth : last);
  }
  const auto at = after.spans.begin() + static_cast<std::ptrdiff_t>(span);
  after.spans.insert(after.spans.erase(at), passes.begin(), passes.end());
  return checked(pace, std::move(after));
}

PaceSetting pickUpSpeed(const PaceSetting& pace, std::size_t span, Rational length) {
  if (span > 0) return setGlide(pace, span - 1, length);
  PaceSetting after = pace;
  after.spans.insert(after.spans.begin(), PaceSpan{length / 2, 0, length});
  return length < shortest ? pace : checked(pace, std::move(after));
}

PaceSetting comeToRest(const PaceSetting& pace, std::size_t span, Rational length) {
  if (span + 1 < pace.spans.size()) return setGlide(pace, span, length);
  if (length < shortest) return pace;
  PaceSetting after = pace;
  after.spans.back().glide = length;
  after.spans.back().bend = 0;
  after.spans.push_back({length / 2, 0});
  return checked(pace, std::move(after));
}

PaceSetting fitTo(const PaceSetting& pace, Rational total, Rational ease) {
  const Rational inner = total - ease;
  if (inner < shortest || ease < Rational(0)) return pace;
  const Rational scale = inner / pace.curve().length();
  PaceSetting after = pace;
  for (PaceSpan& span : after.spans) {
    span.length = span.length * scale;
    span.glide = span.glide * scale;
    span.speed = span.speed / scale;
  }
  after = checked(pace, std::move(after));
  if (after == pace && scale != Rational(1)) return pace;
  if (ease == Rational(0)) return after;
  // Half of an ease is standing still, which takes no source.
  return comeToRest(pickUpSpeed(after, 0, ease), after.spans.size(), ease);
}

PaceSetting slip(const PaceSetting& pace, Rational by) {
  PaceSetting after = pace;
  after.from = pace.from + by;
  return after;
}

PaceSetting lineUp(const PaceSetting& pace, Rational source, Rational t) {
  const PaceCurve::Moment now = pace.curve().at(t);
  return slip(pace, source - now.exact - Rational::near(now.glide));
}

PaceSetting trimStart(const PaceSetting& pace, Rational t) {
  if (!within(pace, t)) return pace;
  PaceSetting after = pace;
  const std::size_t at = split(after, t);
  const PaceCurve curve = after.curve();
  after.from = curve.sourceAt(at);
  after.spans.erase(after.spans.begin(), after.spans.begin() + static_cast<std::ptrdiff_t>(at));
  return checked(pace, std::move(after));
}

PaceSetting trimEnd(const PaceSetting& pace, Rational t) {
  if (!within(pace, t)) return pace;
  PaceSetting after = pace;
  const std::size_t at = split(after, t);
  after.spans.resize(at);
  return checked(pace, std::move(after));
}

PaceSetting removeSpan(const PaceSetting& pace, std::size_t span) {
  if (pace.spans.size() < 2) return pace;
  PaceSetting after = pace;
  // What is left begins on its own footage.
  if (span == 0) after.from = pace.curve().sourceAt(1);
  after.spans.erase(after.spans.begin() + static_cast<std::ptrdiff_t>(span));
  return checked(pace, std::move(after));
}

Rational snappedSpeed(Rational speed, Rational clean, Rational reach) {
  std::vector<Rational> worth{(speed * 20 + Rational(1, 2)).floor() * Rational(1, 20), 0};
  const Rational size = absolute(speed);
  const Rational times = std::max(Rational((size / clean + Rational(1, 2)).floor()), Rational(1));
  for (const Rational nice : {clean * times, clean / 2, clean / 3, clean / 4})
    worth.push_back(speed < Rational(0) ? Rational(0) - nice : nice);
  Rational best = speed, nearest = reach;
  for (const Rational nice : worth) {
    const Rational off = absolute(nice - speed);
    if (off > nearest) continue;
    nearest = off;
    best = nice;
  }
  return best;
}

}  // namespace molten
