#include "core/project/piece.h"

#include <algorithm>
#include <cmath>

namespace molten {
namespace {

constexpr std::int64_t mostLooked = 20'000;

}  // namespace

Moment Piece::moment(std::int64_t picture) const {
  const Moment at = Moment::ofPictures(Rational(picture) * step);
  if (at.whole < chainLength) return at;
  if (!chainEndless) return {chainLength - 1};
  return {at.whole % chainLength, at.rest};
}

double heardAt(const ChainReading& reading, const Piece& piece, double seconds) {
  const double at = seconds * (piece.rate * piece.step).toDouble(), length = reading.outgoing().pictures().toDouble();
  // A piece that lasts longer than its chain stands still, and is silent.
  if (!piece.chainEndless && at >= length) return std::nan("");
  const double heard = reading.heardAt(piece.chainEndless ? std::fmod(at, length) : at);
  return heard / reading.source().rate.toDouble();
}

Piece pieceOf(const VideoDescription& leaving, const OutputSettings& output) {
  Piece piece;
  piece.chainRate = leaving.rate;
  piece.chainLength = leaving.length;
  piece.chainEndless = leaving.endless;
  piece.rate = output.rate.value_or(leaving.rate);
  piece.fixed = output.length.has_value();
  piece.step = leaving.rate / piece.rate;
  const Rational seconds = output.length.value_or(leaving.seconds());
  if (leaving.endless) {
    // A loop closes if the piece holds a whole number of rounds: each is divided by the nearest number of pictures.
    const Rational rounds = seconds / leaving.seconds();
    const std::int64_t inRound = std::max<std::int64_t>(1, (leaving.seconds() * piece.rate + Rational(1, 2)).floor());
    if (rounds.den() == 1) {
      piece.endless = true;
      piece.length = inRound * rounds.num();
      piece.step = leaving.pictures() / Rational(inRound);
      return piece;
    }
  }
  piece.length = picturesBefore(seconds * piece.rate);
  return piece;
}

Piece pieceOf(const Chain& chain, const OutputSettings& output, const VideoDescription& footage) {
  return pieceOf(videoAt(chain, chain.size(), footage), output);
}

Piece pieceOf(const Project& project, const VideoDescription& footage) {
  return pieceOf(project.chain, project.output, footage);
}

std::vector<OutsideRun> outsideRuns(const ChainReading& reading, const Piece& piece, const Span& span, const std::stop_token& stop) {
  std::vector<OutsideRun> runs;
  const std::int64_t step = std::max<std::int64_t>(1, span.count() / mostLooked);
  for (std::int64_t n = span.first; n <= span.last && !stop.stop_requested(); n += step) {
    const double moment = piece.moment(n).pictures();
    const auto at = reading.bounds({moment, moment}, reading.size());
    if (!at.beforeFirst && !at.pastLast) continue;
    const std::int64_t last = std::min(n + step - 1, span.last);
    if (!runs.empty() && runs.back().last == n - 1 && runs.back().beforeFirst == at.beforeFirst &&
        runs.back().pastLast == at.pastLast)
      runs.back().last = last;
    else
      runs.push_back({n, last, at.beforeFirst, at.pastLast});
  }
  return runs;
}

std::optional<Edit> trimToFootage(const Project& before, const VideoDescription& footage) {
  const Piece piece = pieceOf(before, footage);
  const Span span = spanOf(before, piece.length);
  Span best{0, -1};
  std::int64_t from = span.first;
  const auto end = [&](std::int64_t to) {
    if (to - from + 1 > best.count()) best = {from, to};
  };
  for (const OutsideRun& run : outsideRuns(ChainReading(before.chain, footage), piece, span)) {
    end(run.first - 1);
    from = run.last + 1;
  }
  end(span.last);
  if (best.count() < 1) return std::nullopt;
  return setSpan(before, best.first, best.last, "Trim to the footage");
}

Edit setOutputRate(const Project& before, std::optional<Rational> rate, const VideoDescription& footage) {
  if (rate && *rate == footage.rate) rate.reset();
  const Rational was = before.output.rate.value_or(footage.rate), is = rate.value_or(footage.rate);
  Edit edit{"Output at " + rateText(is) + " fps", before, {}};
  edit.after.output.rate = rate;
  const auto moved = [&](std::int64_t picture) { return (Rational(picture) / was * is + Rational(1, 2)).floor(); };
  if (before.in) edit.after.in = moved(*before.in);
  // The last picture ends where it did.
  if (before.out) edit.after.out = std::max(edit.after.in.value_or(0), moved(*before.out + 1) - 1);
  return edit;
}

Edit setOutputLength(const Project& before, std::optional<Rational> seconds) {
  Edit edit{seconds ? "Output of " + rationalText(*seconds) + " s" : "Output length follows the chain", before, {}};
  edit.after.output.length = seconds;
  return edit;
}

}  // namespace molten
