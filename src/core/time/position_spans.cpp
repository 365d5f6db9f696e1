#include "core/time/position_spans.h"

namespace molten {

void PositionSpans::add(double from, double to) {
  auto at = stretches_.begin();
  while (at != stretches_.end() && at->to < from) ++at;
  if (at == stretches_.end() || at->from > to) {
    stretches_.insert(at, {from, to});
  } else {
    at->from = std::min(at->from, from);
    auto last = at;
    while (last != stretches_.end() && last->from <= to) to = std::max(to, last->to), ++last;
    at->to = to;
    stretches_.erase(at + 1, last);
  }
  while (stretches_.size() > mostStretches) {
    auto narrow = stretches_.begin();
    for (auto next = narrow; next + 1 != stretches_.end(); ++next)
      if ((next + 1)->from - next->to < (narrow + 1)->from - narrow->to) narrow = next;
    narrow->to = (narrow + 1)->to;
    stretches_.erase(narrow + 1);
  }
}

PositionSpans PositionSpans::folded(std::int64_t count, PastTheEnds past) const {
  const auto last = static_cast<double>(count - 1);
  PositionSpans result;
  for (const auto& [from, to] : stretches_) {
    if (liesWithin(from, count, past) && liesWithin(to, count, past)) {
      result.add(from, to);
      continue;
    }
    switch (past) {
      case PastTheEnds::StandStill:
        result.add(std::clamp(from, 0.0, last), std::clamp(to, 0.0, last));
        break;
      case PastTheEnds::Transparent:
        // Its two limits are themselves within, or all but.
        if (to >= -0.5 - samePosition && from <= last + 0.5) result.add(std::max(from, -0.5), std::min(to, last + 0.5));
        break;
      case PastTheEnds::GoRound: {
        const double round = last + 1, begin = std::floor((from + samePosition) / round) * round;
        if (to - from >= round)
          result.add(0, round);
        else if (to - begin < round)
          result.add(from - begin, to - begin);
        else
          result.add(from - begin, round), result.add(-samePosition, to - begin - round);
        break;
      }
      case PastTheEnds::TurnBack: {
        if (last <= 0 || to - from >= 2 * last) {
          result.add(0, last);
          break;
        }
        const double a = *foldPosition(from, count, past), b = *foldPosition(to, count, past);
        double low = std::min(a, b), high = std::max(a, b);
        // Every turn between the two is reached.
        for (double turn = std::ceil(from / last); turn * last <= to; ++turn)
          (std::fmod(turn, 2) == 0 ? low : high) = std::fmod(turn, 2) == 0 ? 0 : last;
        result.add(low, high);
        break;
      }
    }
  }
  return result;
}

}  // namespace molten
