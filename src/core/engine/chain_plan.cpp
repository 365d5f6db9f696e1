#include "core/engine/chain_plan.h"

#include <algorithm>
#include <cmath>

namespace molten {
namespace {

/// Runs of this many samples are copied faster from rows; shorter ones from blocks. See docs/performance.md.
constexpr double longRun = 192;

bool alphaCanBeMade(const PictureShape& shape) {
  PictureShape with = shape;
  with.format.alpha = true;
  return avFormat(with.format) || shape.format.model == ColourModel::Gray || shape.format.floating;
}

}  // namespace

ChainPlan::ChainPlan(const Chain& stages, const PlanSource& source, const std::shared_ptr<Material>& material)
    : source_(source),
      reading_(stages, source.video, material, source.under, source.clock),
      shape_(source.shape),
      framesAPicture_(source.clock.rate() / source.video.rate),
      perPicture_(framesAPicture_.toDouble()) {
  bool mayBeClear = false;  // a pixel may be left without any frame
  for (std::size_t k = 0; k < reading_.size(); ++k) {
    const TimeMap& map = reading_.map(k);
    const Reach reach = map.reach();
    const bool leaves = map.moving() || reach.least < -0.5 || reach.most > 0.5;
    mayBeClear = mayBeClear || (reading_.ends(k) == PastTheEnds::Transparent && leaves);
    if (const DisplacingMap* const displacing = map.displacing()) {
      ++displacing_;
      alike_ = alike_ && displacing->steady();
    } else {
      movesPictures_ = true;
      alike_ = alike_ && k >= reading_.displacedUntil();
    }
  }
  alike_ = alike_ && !source_.clock.varying();
  if (mayBeClear && !shape_.format.alpha) shape_.format.alpha = alphaCanBeMade(shape_);
  layout_.emplace(source_.shape, bestLayout());
}

void ChainPlan::adopt(const ChainPlan& other) {
  const auto displacing = [](const ChainPlan& plan) {
    return std::span(plan.stages()).first(plan.reading_.displacedUntil());
  };
  const auto mine = displacing(*this), its = displacing(other);
  if (!alike_ || !other.alike_ || mine.empty() || !std::equal(mine.begin(), mine.end(), its.begin(), its.end()) ||
      scale() != other.scale() || !(shape_ == other.shape_) || !(source_.shape == other.source_.shape) ||
      layout_->kind() != other.layout_->kind() || between() != other.between() ||
      framesAPicture_ != other.framesAPicture_ || source_.video.rate != other.source_.video.rate)
    return;
  // A field may depend on how long the video is that it is made for.
  const PlaneSites sites = planeSites(source_.shape, 0, scale());
  std::vector<double> here(static_cast<std::size_t>(sites.width)), there(here.size());
  for (std::size_t k = 0; k < mine.size(); ++k)
    for (const int row : {0, sites.height / 3, sites.height - 1}) {
      reading_.map(k).displacing()->displacement({})->row(sites, row, here);
      other.reading_.map(k).displacing()->displacement({})->row(sites, row, there);
      if (here != there) return;
    }
  const std::scoped_lock lock(*other.mutex_);
  for (const Compiled& known : other.compiled_)
    if (known.key.kind == Key::Kind::Shared) compiled_.push_back(known);
}

ChainPlan::Ticks ChainPlan::ticksOf(const Moment& moment) const {
  if (framesAPicture_ == Rational(1)) return {moment.whole, moment.part()};
  const Rational exact = moment.exact() * framesAPicture_;
  return {exact.floor(), exact.part().toDouble() + moment.off * perPicture_};
}

FramePick ChainPlan::wholePick(const Moment& moment) const {
  const Ticks at = ticksOf(moment);
  return source_.clock.pick(at.whole, at.part, reading_.ends(0), between());
}

std::optional<std::int32_t> ChainPlan::onlyFrame(const Moment& moment) const {
  if (!wholePictures() || !(shape_ == source_.shape)) return std::nullopt;
  const auto at = displacedMoment(moment);
  if (!at) return std::nullopt;
  const FramePick pick = wholePick(*at);
  if (pick.first == noFrame || pick.weight > 0) return std::nullopt;
  return pick.first;
}

/// By the length of the runs in some of the rows.
Layout ChainPlan::bestLayout() const {
  if (wholePictures()) return Layout::Rows;
  const Moment middle{length() / 2};
  const Key key = keyOf(displacedMoment(middle));
  const PlaneSites sites = planeSites(source_.shape, 0, scale());
  const int step = std::max(1, sites.height / 24);
  RowPicks picks;
  double samples = 0, runs = 0;
  for (int y = step / 2; y < sites.height; y += step) {
    pickRow(key, middle, sites, y, picks);
    const auto& frames = picks.lanes[0].frame;
    runs += 1;
    for (std::size_t x = 1; x < frames.size(); ++x) runs += frames[x] != frames[x - 1];
    samples += sites.width;
  }
  return samples / runs >= std::min(longRun, static_cast<double>(sites.width)) ? Layout::Rows : Layout::Blocks;
}

}  // namespace molten
