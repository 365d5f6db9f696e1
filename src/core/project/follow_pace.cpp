#include "core/project/follow_pace.h"

#include <algorithm>

namespace molten {
namespace {

Rational lengthOf(const PaceSpans& spans) {
  Rational all = 0;
  for (const PaceSpan& span : spans) all = all + span.length;
  return all;
}

/// For how long two rows of spans, walked from the beginning or from the end, run at the same speeds.
Rational alike(const PaceSpans& a, const PaceSpans& b, bool fromEnd) {
  const auto at = [fromEnd](const PaceSpans& spans, std::size_t i) { return fromEnd ? spans[spans.size() - 1 - i] : spans[i]; };
  Rational all = 0, ofA = 0, ofB = 0;  // ofA, ofB: how much of the two present spans has been walked
  for (std::size_t i = 0, k = 0; i < a.size() && k < b.size() && at(a, i).speed == at(b, k).speed;) {
    const Rational leftA = at(a, i).length - ofA, leftB = at(b, k).length - ofB, step = std::min(leftA, leftB);
    all = all + step, ofA = ofA + step, ofB = ofB + step;
    if (leftA == step) ++i, ofA = 0;
    if (leftB == step) ++k, ofB = 0;
  }
  return all;
}

}  // namespace

MomentShift::MomentShift(const PaceSetting& before, const PaceSetting& after) {
  const Rational was = lengthOf(before.spans), is = lengthOf(after.spans), shorter = std::min(was, is);
  const Rational start = before.from == after.from ? std::min(alike(before.spans, after.spans, false), shorter) : Rational(0);
  const Rational end = std::min(alike(before.spans, after.spans, true), shorter - start);
  from_ = start, to_ = was - end, more_ = is - was;
}

Rational MomentShift::moved(Rational moment, bool behind) const {
  if (moment == from_ && from_ == to_) return behind ? moment + more_ : moment;
  if (moment <= from_) return moment;
  if (moment >= to_) return moment + more_;
  return from_ + (moment - from_) * (to_ + more_ - from_) / (to_ - from_);
}

Project withMomentsMoved(const Project& project, std::size_t pace, const MomentShift& shift, Rational rate) {
  Project after = project;
  if (shift.none()) return after;
  const auto frame = [&](std::int64_t one, bool behind) {
    return std::max<std::int64_t>(0, (shift.moved(Rational(one) / rate, behind) * rate + Rational(1, 2)).floor());
  };
  if (after.in) after.in = frame(*after.in, false);
  // The last frame ends where it did.
  if (after.out) after.out = std::max(after.in.value_or(0), frame(*after.out + 1, true) - 1);
  if (after.place.from) after.place.from = shift.moved(*after.place.from);
  if (after.place.to) after.place.to = shift.moved(*after.place.to, true);
  for (std::size_t k = pace + 1; k < after.chain.size(); ++k) {
    Stage& stage = after.chain[k];
    const auto& parameters = stage.kind->description().parameters;
    for (std::size_t i = 0; i < parameters.size(); ++i) {
      Movement movement = movementOf(stage, i);
      const auto* const number = std::get_if<NumberDescription>(&parameters[i].kind);
      if (movement.keys.empty() && !(number && number->moment)) continue;
      for (Key& key : movement.keys) key.at = shift.moved(key.at);
      // Two keys never share a moment: of those that are pressed together the last stays.
      const auto same = [](const Key& a, const Key& b) { return a.at == b.at; };
      movement.keys.erase(movement.keys.begin(), std::unique(movement.keys.rbegin(), movement.keys.rend(), same).base());
      if (number && number->moment) movement.value = shift.moved(Rational::near(std::get<double>(movement.value))).toDouble();
      setMovement(stage, i, movement);
    }
  }
  return after;
}

}  // namespace molten
