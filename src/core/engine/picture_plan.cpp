#include "core/engine/picture_plan.h"

#include <algorithm>

#include "core/picture/combination.h"
#include "core/picture/halve.h"

namespace molten {
namespace {

Chain joined(const Chain& first, const Chain& second) {
  Chain chain = first;
  chain.insert(chain.end(), second.begin(), second.end());
  return chain;
}

}  // namespace

PicturePlan::PicturePlan(const Chain& stages, const PlanFootage& footage, const std::shared_ptr<Material>& material,
                         const PicturePlan* before, bool wide)
    : wide_(wide) {
  for (const Stage& stage : stages)
    if (stage.on) stages_.push_back(stage);
  const VideoDescription video{footage.fullSize, footage.shape.pixelAspect, footage.clock.rate(),
                               footage.clock.length()};
  auto maps = timeMaps(stages_, video, material);
  std::size_t upper = maps.size();
  while (upper > 0 && !maps[upper - 1]->mixing()) --upper;
  footageBytes_ = FrameLayout(footage.shape, Layout::Blocks).frameBytes();
  if (upper == 0) {
    auto plan =
        std::make_shared<ChainPlan>(stages_, footage.shape, footage.clock, footage.fullSize, footage.scale, material);
    if (before && !before->mixing()) plan->adopt(*before->gather_);
    shape_ = plan->shape();
    gather_ = std::move(plan);
    cache_ = before && !before->mixing() && before->stages_ == stages_ && before->scale() == footage.scale
                 ? before->cache_
                 : std::make_shared<PictureCache>();
    return;
  }

  map_ = std::move(maps[upper - 1]);
  const auto end = stages_.begin() + static_cast<std::ptrdiff_t>(upper);
  mixed_ = Chain(stages_.begin(), end);
  const Chain under(stages_.begin(), end - 1), over(end, stages_.end());
  const bool alike = before && before->mixing() && before->scale() == footage.scale;
  for (const Chain& way : mixing()->ways()) {
    const Chain whole = joined(under, way);
    // A plan of the same stages serves again as it is, with the pictures that it has made.
    const PicturePlan* known = nullptr;
    std::shared_ptr<const PicturePlan> same;
    if (alike)
      for (const auto& its : before->ways_) {
        if (its->stages_ == whole) same = its;
        known = its.get();
      }
    ways_.push_back(same ? same : std::make_shared<const PicturePlan>(whole, footage, material, known, true));
  }
  const VideoDescription& out = map_->outgoing();
  mixShapes_.in = ways_[0]->shape();
  mixShapes_.scale = footage.scale;
  // The same numbers as in what enters, unless something further is mixed of it.
  PictureShape given = mixShapes_.in.format.floating && !footage.shape.format.floating ? footage.shape : mixShapes_.in;
  given.format.alpha = given.format.alpha || mixShapes_.in.format.alpha || mixing()->mayBeClear();
  if (given.format.alpha && !avFormat(given.format) && given.format.model != ColourModel::Gray)
    given.format.alpha = mixShapes_.in.format.alpha;
  PictureShape full = given;
  full.size = out.size;
  full.pixelAspect = out.pixelAspect;
  given = shapeAtScale(full, footage.scale);
  const auto planOver = [&](const PictureShape& shape) {
    return std::make_shared<ChainPlan>(over, shape, FrameClock::constant(out.rate, out.length), out.size, footage.scale,
                                       material, Beneath{out.endless, mixed_});
  };
  auto plan = planOver(given);
  shape_ = plan->shape();
  if (wide || plan->mixes()) {
    mixShapes_.out = wideShape(given);
    plan = planOver(mixShapes_.out);
    if (wide) shape_ = plan->shape();
  } else {
    mixShapes_.out = given;
  }
  if (alike) plan->adopt(*before->gather_);
  gather_ = std::move(plan);
  // What the mix has given serves again while only stages after it change.
  cache_ = alike && before->mixed_ == mixed_ && before->wide_ == wide_ && before->mixShapes_.out == mixShapes_.out
               ? before->cache_
               : std::make_shared<PictureCache>();
}

std::vector<std::int32_t> PicturePlan::framesFor(const Moment& moment, std::size_t most) const {
  if (!mixing()) return gather_->framesFor(moment);
  std::vector<Moment> pictures;
  if (gather_->stages().empty())
    pictures.push_back(moment);
  else
    for (const std::int32_t picture : gather_->framesFor(moment)) pictures.push_back({picture, 0});
  std::vector<std::int32_t> frames;
  for (const Moment& picture : pictures) {
    for (const MixSource& source : mixing()->sources(picture)) {
      const auto some = ways_[source.way]->framesFor(source.moment, most);
      frames.insert(frames.end(), some.begin(), some.end());
      if (frames.size() > 4 * most) break;
    }
    std::sort(frames.begin(), frames.end());
    frames.erase(std::unique(frames.begin(), frames.end()), frames.end());
    if (frames.size() > most) break;
  }
  return frames;
}

std::size_t PicturePlan::framesAtOnce() const {
  const Moment middle{length() / 2, 0};
  if (!mixing()) return gather_->framesFor(middle).size();
  std::size_t most = 0;
  for (const auto& way : ways_) most = std::max(most, way->framesAtOnce());
  const std::size_t own = gather_->stages().empty() ? 1 : gather_->framesFor(middle).size();
  return most + own * FrameLayout(mixShapes_.out, Layout::Blocks).frameBytes() / footageBytes_;
}

}  // namespace molten
