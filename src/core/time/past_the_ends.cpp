#include "core/time/past_the_ends.h"

namespace molten {

std::optional<Moment> foldMoment(const Moment& moment, std::int64_t count, PastTheEnds past) {
  const double position = moment.pictures();
  if (liesWithin(position, count, past)) return moment;
  const std::int64_t last = count - 1;
  switch (past) {
    case PastTheEnds::StandStill:
      return Moment{position < 0 ? 0 : last};
    case PastTheEnds::TurnBack: {
      if (last <= 0) return Moment{};
      const std::int64_t period = 2 * last;
      const std::int64_t rounds = static_cast<std::int64_t>(std::floor(position / static_cast<double>(period)));
      const Moment at{moment.whole - rounds * period, moment.rest, moment.off};
      if (at.pictures() <= static_cast<double>(last)) return at;
      return Moment::ofPictures(Rational(period) - at.exact(), -at.off);
    }
    case PastTheEnds::GoRound: {
      const auto rounds = static_cast<std::int64_t>(std::floor((position + samePosition) / static_cast<double>(count)));
      return Moment{moment.whole - rounds * count, moment.rest, moment.off};
    }
    case PastTheEnds::Transparent:
      break;
  }
  return std::nullopt;
}

}  // namespace molten
