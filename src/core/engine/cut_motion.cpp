#include "core/engine/cut_motion.h"

#include <algorithm>
#include <cmath>

#include "core/engine/evaluator.h"

namespace molten {
namespace {

/// Rows and columns of a picture that motion is looked at in.
constexpr int looked = 24;
/// Of frames and what is made of them. In bytes.
constexpr std::size_t lookedBytes = std::size_t(256) << 20;
/// Motion so slow, in heights a second, is none.
constexpr double still = 0.02;
/// Of being unlike, a picture farther off; and what a better cut has to be better by.
constexpr double farther = 0.02, clearly = 0.1;

double unlike(const Motion& a, const Motion& b) {
  return std::hypot(a.right - b.right, a.down - b.down) / (a.speed() + b.speed() + still);
}

}  // namespace

double Motion::speed() const {
  return std::hypot(right, down);
}

std::optional<Motion> CutMotions::at(std::int64_t picture) const {
  const std::int64_t n = picture - least;
  return n >= 0 && n < static_cast<std::int64_t>(motions.size()) ? motions[static_cast<std::size_t>(n)] : std::nullopt;
}

std::optional<Motion> motionBetween(FlowFinder& finder, const Picture& first, const Picture& second, double rate) {
  const auto flow = finder.find(SmallLuma(first), SmallLuma(second), 1);
  if (flow->isCut()) return std::nullopt;
  const Size size = first.shape().size;
  std::vector<Vector> vectors;
  for (int y = 0; y < looked; ++y)
    for (int x = 0; x < looked; ++x)
      vectors.push_back(flow->forward((static_cast<float>(x) + 0.5f) * static_cast<float>(size.width) / looked, (static_cast<float>(y) + 0.5f) * static_cast<float>(size.height) / looked));
  const auto quarter = static_cast<std::ptrdiff_t>(vectors.size() / 4);
  std::nth_element(vectors.begin(), vectors.begin() + quarter, vectors.end(),
                   [](const Vector& a, const Vector& b) { return std::hypot(a.x, a.y) > std::hypot(b.x, b.y); });
  Motion motion;
  for (auto at = vectors.begin(); at != vectors.begin() + quarter; ++at) motion.right += at->x, motion.down += at->y;
  const double toHeights = rate / size.height / static_cast<double>(quarter);
  const double aspect = first.shape().pixelAspect.toDouble();
  return Motion{motion.right * toHeights * aspect, motion.down * toHeights};
}

Result<CutMotions> motionsAround(const CutSide& side, bool after, std::int64_t reach, std::stop_token stop) {
  Evaluator evaluator(std::make_shared<Sources>(side.footage, std::make_shared<MemoryBudget>(lookedBytes), 1), 1);
  const PicturePlan plan = evaluator.plan(side.chain, {1, side.between, side.rate, {}});
  const std::int64_t first = std::max(side.least, side.picture - reach), last = std::min(side.most, side.picture + reach);
  const auto pictureAt = [&](std::int64_t n) { return evaluator.picture(plan, Moment::at(Rational(n) / side.rate, plan.outgoing().rate), stop); };
  FlowFinder finder;
  CutMotions all{first, {}};
  std::optional<Picture> before;
  // Of the motion into the next one a picture more is needed at the end, otherwise one at the beginning.
  for (std::int64_t n = after ? first : first - 1; n <= (after ? last + 1 : last); ++n) {
    if (n < side.least || n > side.most) {
      before.reset();
      if (n >= first) all.motions.push_back(std::nullopt);
      continue;
    }
    auto picture = pictureAt(n);
    if (!picture) return picture.error();
    const bool counts = after ? n > first : n >= first;
    if (counts) all.motions.push_back(before ? motionBetween(finder, *before, *picture, side.rate.toDouble()) : std::nullopt);
    before = std::move(*picture);
  }
  return all;
}

CutChoice nearCuts(const CutSide& out, const CutMotions& outMotions, const CutSide& in, const CutMotions& inMotions) {
  CutChoice choice{outMotions.at(out.picture), inMotions.at(in.picture), {}, {}};
  if (choice.out && choice.in) choice.now.unlike = unlike(*choice.out, *choice.in);
  double least = choice.now.unlike - clearly;
  choice.best = choice.now;
  for (std::size_t i = 0; i < outMotions.motions.size(); ++i)
    for (std::size_t k = 0; k < inMotions.motions.size(); ++k) {
      const auto &a = outMotions.motions[i], &b = inMotions.motions[k];
      if (!a || !b) continue;
      const NearCut cut{outMotions.least + static_cast<std::int64_t>(i) - out.picture, inMotions.least + static_cast<std::int64_t>(k) - in.picture, unlike(*a, *b)};
      const double cost = cut.unlike + farther * static_cast<double>(std::abs(cut.out) + std::abs(cut.in));
      if (cost < least) least = cost, choice.best = cut;
    }
  return choice;
}

}  // namespace molten
