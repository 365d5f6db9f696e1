#include "core/engine/picture_plan.h"

#include <algorithm>

#include "core/picture/accumulator.h"
#include "core/picture/halve.h"
#include "core/stages/stage.h"

namespace molten {
namespace {

/// Those of both that are on.
Chain joined(const Chain& first, const Chain& second) {
  Chain chain;
  for (const Chain* const part : {&first, &second})
    std::copy_if(part->begin(), part->end(), std::back_inserter(chain), [](const Stage& stage) { return stage.on; });
  return chain;
}

/// The pictures of a video that is made, at a rate that is not below the wanted one. A round is divided evenly.
FrameClock clockOfMade(const VideoDescription& video, Rational outputRate) {
  const Rational rate = std::max(video.rate, outputRate);
  if (rate == video.rate) return FrameClock::constant(rate, video.length);
  const Rational pictures = video.seconds() * rate;
  if (!video.endless) return FrameClock::constant(rate, picturesBefore(pictures));
  const std::int64_t count = std::max<std::int64_t>(1, (pictures + Rational(1, 2)).floor());
  return FrameClock::constant(Rational(count) / video.seconds(), count);
}

}  // namespace

PicturePlan::PicturePlan(const Chain& stages, const PlanFootage& footage, const PlanSettings& settings,
                         const std::shared_ptr<Material>& material, const PicturePlan* previous, bool wide)
    : settings_(settings), source_(footage.source), wide_(wide) {
  for (const Stage& stage : stages)
    if (stage.on) stages_.push_back(stage);
  footageBytes_ = FrameLayout(footage.shape, Layout::Blocks).frameBytes();
  VideoDescription video{footage.fullSize, footage.shape.pixelAspect, footage.clock.rate(), footage.clock.length()};
  video.between = settings.between;
  auto maps = timeMaps(stages_, video, material);
  std::size_t end = maps.size();
  while (end > 0 && worksAlone(*maps[end - 1])) --end;
  // What changes each picture in its own way, or where its pixels stand, is made before pixels of several are read.
  const auto makes = [](const TimeMap& map) {
    return map.mixing() || map.frameWork() || (map.pixelWork() && !map.pixelWork()->alike());
  };
  outgoing_ = maps.empty() ? video : maps.back()->outgoing();
  std::size_t upper = end;
  while (upper > 0 && !makes(*maps[upper - 1])) --upper;
  Chain over;
  for (std::size_t k = upper; k < maps.size(); ++k) {
    if (k < end) over.push_back(stages_[k]);
    if (worksAlone(*maps[k])) works_.push_back({std::move(maps[k]), {}});
  }
  // The same chain at another scale reads alike; to look at it anew could mean to decode what nobody wants to see.
  std::optional<Layout> layout;
  if (previous && previous->stages_ == stages_) layout = previous->gather_->layout().kind();
  if (previous && (previous->settings_ != settings_ || (previous->mixing() != nullptr) != (upper > 0)))
    previous = nullptr;
  if (upper == 0) {
    planFootageAlone(over, footage, video, material, previous, layout);
    shapeWorks(footage);
    return;
  }

  map_ = std::move(maps[upper - 1]);
  if (!map_->mixing()) workAsMixing_ = std::make_shared<const WorkAsMixing>(*map_);
  const auto last = stages_.begin() + static_cast<std::ptrdiff_t>(upper);
  made_ = Chain(stages_.begin(), last);
  planWays(footage, Chain(stages_.begin(), last - 1), material, previous);
  mixShapes_.in = ways_[0]->shape();
  mixShapes_.scale = settings.scale;
  const PictureShape given = madeShape(footage, mixShapes_.in, *map_, mixing()->mayBeClear());
  const VideoDescription& out = map_->outgoing();
  PlanSource source{given, clockOfMade(out, settings.outputRate), out, made_, settings.scale};
  pictureApart_ = out.rate / source.clock.rate();
  auto plan = std::make_shared<ChainPlan>(over, source, material);
  shape_ = plan->shape();
  mixShapes_.out = given;
  if (wide || !works_.empty() || (plan->mixes() && !over.empty())) {
    source.shape = mixShapes_.out = wideShape(given);
    plan = std::make_shared<ChainPlan>(over, source, material);
    if (wide) shape_ = plan->shape();
  }
  if (previous) plan->adopt(*previous->gather_);
  gather_ = std::move(plan);
  // What the mix has given serves again while only stages after it change.
  const bool same = previous && previous->made_ == made_ && previous->wide_ == wide_ &&
                    previous->mixShapes_.out == mixShapes_.out && previous->pictureApart_ == pictureApart_;
  cache_ = same ? previous->cache_ : std::make_shared<PictureCache>();
  shapeWorks(footage);
}

/// Nothing is rounded before the last of them.
void PicturePlan::shapeWorks(const PlanFootage& footage) {
  for (std::size_t i = 0; i < works_.size(); ++i) {
    const FrameWork* const frame = works_[i].map->frameWork();
    if (frame) shape_ = madeShape(footage, shape_, *works_[i].map, frame->mayBeClear());
    if (wide_) shape_ = wideShape(shape_);
    works_[i].shape = i + 1 < works_.size() ? wideShape(shape_) : shape_;
  }
}

void PicturePlan::planFootageAlone(const Chain& stages, const PlanFootage& footage, const VideoDescription& video,
                                   const std::shared_ptr<Material>& material, const PicturePlan* previous,
                                   std::optional<Layout> layout) {
  auto plan = std::make_shared<ChainPlan>(stages, PlanSource{footage.shape, footage.clock, video, {}, settings_.scale},
                                          material, layout);
  if (previous) plan->adopt(*previous->gather_);
  shape_ = plan->shape();
  gather_ = std::move(plan);
  cache_ = previous && previous->stages_ == stages_ ? previous->cache_ : std::make_shared<PictureCache>();
}

/// A plan of the same stages serves again as it is, with the pictures that it has made.
void PicturePlan::planWays(const PlanFootage& footage, const Chain& upstream, const std::shared_ptr<Material>& material,
                           const PicturePlan* previous) {
  for (const MixWay& way : mixing()->ways()) {
    const std::shared_ptr<const SourceVideo> source = way.source ? way.source : footage.source;
    const Chain whole = way.source ? joined(source->stages, way.stages) : joined(upstream, way.stages);
    PlanSettings settings = settings_;
    settings.between = way.source ? source->video.between : way.between.value_or(settings_.between);
    if (way.sounds) settings.sounds = *way.sounds;
    const PicturePlan* known = nullptr;
    std::shared_ptr<const PicturePlan> same;
    if (previous)
      for (const auto& its : previous->ways_) {
        if (its->source_ != source) continue;
        if (its->stages_ == whole && its->settings_ == settings) same = its;
        known = its.get();
      }
    if (!same && way.source) {
      const PlanFootage from{shapeAtScale(source->shape, settings.scale), source->clock, source->shape.size, source};
      same = std::make_shared<const PicturePlan>(whole, from, settings, material->over(source, way.sounds), known, true);
    }
    ways_.push_back(same ? same : std::make_shared<const PicturePlan>(whole, footage, settings, material, known, true));
  }
}

/// The same numbers as in what enters, unless something further is mixed of it.
PictureShape PicturePlan::madeShape(const PlanFootage& footage, const PictureShape& in, const TimeMap& map,
                                    bool mayBeClear) const {
  PictureShape made = in;
  const PictureShape& from = !ways_.empty() && ways_[0]->source_ ? ways_[0]->source_->shape : footage.shape;
  if (in.format.floating && !from.format.floating) {
    made.format = from.format;
    made.format.alpha = in.format.alpha;
  }
  made.format.alpha = made.format.alpha || mayBeClear;
  if (made.format.alpha && !avFormat(made.format) && made.format.model != ColourModel::Gray)
    made.format.alpha = in.format.alpha && !in.format.floating;
  made.size = map.outgoing().size;
  made.pixelAspect = map.outgoing().pixelAspect;
  return shapeAtScale(made, settings_.scale);
}

Works PicturePlan::worksAt(const Moment& moment) const {
  Works works;
  for (const Work& work : works_) works.all.push_back(workAt(*work.map, moment, work.shape));
  return works;
}

std::size_t PicturePlan::momentsInReach() const {
  const Reach reach = map_ ? map_->reach() : Reach{};
  constexpr double most = 1e9;
  return static_cast<std::size_t>(std::min(most, std::ceil((reach.most - reach.least) / pictureApart_.toDouble()))) + 2;
}

std::vector<std::int32_t> PicturePlan::madeCuts() const {
  std::vector<std::int32_t> cuts;
  if (!mixing()) return cuts;
  for (const std::int64_t cut : mixing()->cuts()) {
    const Rational made = Rational(cut) / pictureApart_;
    cuts.push_back(static_cast<std::int32_t>(made.part() == Rational(0) ? made.floor() : made.floor() + 1));
  }
  return cuts;
}

Moment PicturePlan::canonical(const Moment& moment) const {
  const bool alike =
      std::all_of(works_.begin(), works_.end(), [](const Work& work) { return worksAlike(*work.map); });
  if (mixing() || !alike) return moment;
  const auto frame = gather_->onlyFrame(moment);
  // Of the frame's own number; a moment of a chain has an `off` above −1.
  return frame ? Moment{*frame, 0, -8} : moment;
}

std::vector<std::int32_t> PicturePlan::framesFor(const Moment& moment, std::size_t most) const {
  std::vector<SourceFrames> own{{source(), {}, scale(), layout()}};
  collect(moment, most, false, own);
  return std::move(own.front().frames);
}

std::vector<SourceFrames> PicturePlan::sourcesFor(const Moment& moment, std::size_t most) const {
  std::vector<SourceFrames> all{{source(), {}, scale(), layout()}};
  collect(moment, most, true, all);
  return all;
}

/// `others`: also those of other sources than this plan's own.
void PicturePlan::collect(const Moment& moment, std::size_t most, bool others, std::vector<SourceFrames>& all) const {
  if (!mixing()) {
    const SourceUse use = source();
    auto at = std::find_if(all.begin(), all.end(), [&](const SourceFrames& one) { return one.source == use; });
    if (at == all.end()) {
      if (!others) return;
      at = all.insert(all.end(), {use, {}, scale(), layout()});
    }
    const auto some = gather_->framesFor(moment);
    const auto old = static_cast<std::ptrdiff_t>(at->frames.size());
    at->frames.insert(at->frames.end(), some.begin(), some.end());
    std::inplace_merge(at->frames.begin(), at->frames.begin() + old, at->frames.end());
    at->frames.erase(std::unique(at->frames.begin(), at->frames.end()), at->frames.end());
    return;
  }
  std::vector<Moment> pictures;
  if (gather_->stages().empty())
    pictures.push_back(moment);
  else
    for (const std::int32_t picture : gather_->framesFor(moment)) pictures.push_back(madeMoment(picture));
  for (const Moment& picture : pictures)
    for (const MixSource& source : mixing()->sources(picture)) {
      const PicturePlan& way = *ways_[source.way];
      if (others && (way.cache().holds(way.keyOf(source, false)) || way.cache().holds(way.keyOf(source, true)))) continue;
      way.collect(source.moment, most, others, all);
      if (all.front().frames.size() > most) return;
    }
}

std::size_t PicturePlan::framesAtOnce() const {
  const Moment middle{length() / 2};
  if (!mixing()) return gather_->framesFor(middle).size();
  std::size_t most = 0;
  for (const auto& way : ways_) most = std::max(most, way->framesAtOnce());
  const std::size_t own = gather_->stages().empty() ? 1 : gather_->framesFor(middle).size();
  return most + own * FrameLayout(mixShapes_.out, Layout::Blocks).frameBytes() / footageBytes_;
}

}  // namespace molten
