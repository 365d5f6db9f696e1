#include "core/engine/evaluator.h"

#include <algorithm>

#include "core/engine/alpha_mix.h"
#include "core/engine/source_material.h"
#include "core/picture/halve.h"
#include "core/engine/flow_mix.h"
#include "core/picture/accumulator.h"

namespace molten {
namespace {

/// work(plane, from, to) for all rows of tiles of all planes.
void onTiles(const ChainPlan& plan, const std::function<void(int, int, int)>& work) {
  const int down = plan.layout().tilesDown(), planes = plan.shape().format.planes();
  parallelRows(down * planes, 1, [&](int from, int to) {
    for (int i = from; i < to; ++i) work(i / down, i % down, i % down + 1);
  });
}

/// True if some of a program's pixels lie between frames, and are made along the flow.
bool flows(const ChainPlan& plan, const GatherProgram& program) {
  return plan.usesFlow() && program.sources() == 2;
}

void mixAlongFlow(const ChainPlan& plan, const Gathering& gathering, const FrameTable& table, Picture& out) {
  const FlowMix mix(gathering.program(), plan.layout(), plan.shape(), table, gathering.meaning());
  onTiles(plan, [&](int plane, int from, int to) { mix.assemble(out, plane, from, to); });
}

/// Of footage with alpha: each source whole first, then all of them by what is there of each.
template <class MakeRows>
void mixSources(const ChainPlan& plan, const GatherProgram& program, Picture& out, MakeRows makeRows) {
  std::vector<Picture> sources;
  std::vector<std::vector<float>> weights;
  for (int s = 0; s < program.sources(); ++s) {
    Picture& source = sources.emplace_back(plan.shape());
    onTiles(plan, [&](int plane, int from, int to) { makeRows(s, source, plane, from, to); });
    weights.push_back(program.sourceWeights(s));
  }
  mixWithAlpha(sources, weights, out);
}

}  // namespace

Picture assembled(const ChainPlan& plan, const EvenPair& pair, const FrameTable& table) {
  Picture out(plan.shape());
  const FlowMix mix(pair, plan.layout(), plan.shape(), table);
  for (int plane = 0; plane < plan.shape().format.planes(); ++plane)
    parallelRows((out.planeHeight(plane) + FlowMix::evenDown - 1) / FlowMix::evenDown, 1, [&](int from, int to) {
      for (int row = from; row < to; ++row) mix.assembleEven(out, plane, row);
    });
  return out;
}

Picture assembled(const ChainPlan& plan, const Moment& moment, const FrameTable& table) {
  if (const auto even = plan.evenPair(moment)) return assembled(plan, *even, table);
  return assembled(plan, plan.gathering(moment), table);
}

Picture assembled(const ChainPlan& plan, const Gathering& gathering, const FrameTable& table) {
  const GatherProgram& program = gathering.program();
  Picture out(plan.shape());
  if (flows(plan, program)) {
    mixAlongFlow(plan, gathering, table, out);
    return out;
  }
  const FrameLookup lookup = gathering.lookUp(table);
  if (plan.mixesAlpha() && program.sources() > 1) {
    mixSources(plan, program, out, [&](int source, Picture& to, int plane, int a, int b) {
      program.assembleSource(source, lookup, to, plane, a, b);
    });
    return out;
  }
  onTiles(plan, [&](int plane, int from, int to) { program.assemble(lookup, out, plane, from, to); });
  return out;
}

Evaluator::Evaluator(std::shared_ptr<Sources> sources, int threads, Urgency urgency)
    : sources_(std::move(sources)),
      feed_(sources_->feed()),
      threads_(threads),
      urgency_(urgency),
      material_(std::make_shared<SourceMaterial>(sources_, threads, std::stop_token(), urgency)) {}

Evaluator::Evaluator(std::shared_ptr<FrameFeed> feed, int threads)
    : Evaluator(std::make_shared<Sources>(std::move(feed), threads), threads) {}

std::shared_ptr<const SourceVideo> Evaluator::source(const OwnSource& use) {
  const auto described = material_->described(use.use, use.between);
  return described ? *described : nullptr;
}

bool Evaluator::looksAtVideo() const {
  return material_->looksAtVideo();
}

Evaluator::~Evaluator() = default;

/// Where the frames of a plan come from.
class Evaluator::Frames {
 public:
  virtual ~Frames() = default;
  virtual Result<FrameTable> fetch(std::span<const std::int32_t> frames, std::stop_token stop) = 0;
  virtual std::size_t thatFit() const = 0;
  virtual FlowCache& flows() = 0;
};

class Evaluator::DecodedFrames : public Frames {
 public:
  DecodedFrames(std::shared_ptr<FrameFeed> feed, FlowCache& flows, const ChainPlan& plan, Urgency urgency)
      : feed_(std::move(feed)), flows_(flows), plan_(plan), urgency_(urgency) {}
  Result<FrameTable> fetch(std::span<const std::int32_t> frames, std::stop_token stop) override {
    return feed_->fetch(frames, plan_.scale(), plan_.layout().kind(), stop, urgency_);
  }
  std::size_t thatFit() const override { return feed_->framesThatFit(plan_.scale()); }
  FlowCache& flows() override { return flows_; }

 private:
  std::shared_ptr<FrameFeed> feed_;
  FlowCache& flows_;
  const ChainPlan& plan_;
  Urgency urgency_;
};

class Evaluator::MixedFrames : public Frames {
 public:
  MixedFrames(Evaluator& evaluator, const PicturePlan& plan) : evaluator_(evaluator), plan_(plan) {}
  Result<FrameTable> fetch(std::span<const std::int32_t> frames, std::stop_token stop) override {
    FrameTable table;
    const FrameLayout& layout = plan_.gather().layout();
    const auto& budget = evaluator_.feed_->budget();
    for (const std::int32_t picture : frames) {
      auto held = plan_.cache().findTiles(picture, layout);
      if (!held) {
        auto made = evaluator_.mixed(plan_, plan_.madeMoment(picture), stop);
        if (!made) return made.error();
        held = plan_.cache().keepTiles(picture, *made, layout, budget);
      }
      table.put(picture, std::move(held));
    }
    return table;
  }
  std::size_t thatFit() const override {
    const std::size_t bytes = plan_.gather().layout().frameBytes();
    return std::max<std::size_t>(2, evaluator_.feed_->budget()->limit() / 2 / bytes);
  }
  FlowCache& flows() override { return plan_.cache().flows(evaluator_.feed_->budget(), plan_.madeCuts()); }

 private:
  Evaluator& evaluator_;
  const PicturePlan& plan_;
};

FlowCache& Evaluator::flowsOf(const std::shared_ptr<FrameFeed>& feed) {
  // Those of feeds that are gone are of no use.
  std::erase_if(flows_, [&](const auto& one) { return one.first.expired(); });
  return flows_.try_emplace(feed, feed->budget()).first->second;
}

PicturePlan Evaluator::plan(const Chain& chain, const PlanSettings& settings, const PicturePlan* previous,
                            const std::shared_ptr<const SourceVideo>& source) {
  const Footage& footage = feed_->footage();
  std::optional<PicturePlan> made;
  material_->forgetLooking();
  const auto material = std::make_shared<MaterialAt>(material_, settings, source);
  const PlanFootage from = source ? PlanFootage{shapeAtScale(source->shape, settings.scale), source->clock,
                                                source->shape.size, source}
                                  : PlanFootage{feed_->shapeAt(settings.scale), footage.clock(), footage.shape().size};
  threads_.run([&] { made.emplace(chain, from, settings, material, previous); });
  return std::move(*made);
}

Result<Picture> Evaluator::picture(const PicturePlan& plan, const Moment& moment, std::stop_token stop) {
  auto picture = made(plan, moment, stop);
  if (!picture) return picture;
  if (const auto trouble = material_->troubleWith(plan.stages())) return *trouble;
  if (!(picture->shape() == plan.shape())) threads_.run([&] { *picture = narrowed(*picture, plan.shape()); });
  return picture;
}

Result<Picture> Evaluator::made(const PicturePlan& plan, const Moment& moment, std::stop_token stop) {
  auto picture = plain(plan, moment, stop);
  if (!picture) return picture;
  if (plan.worksOnPixels())
    threads_.run([&] { *picture = finished(*picture, plan.worksAt(moment)); });
  return picture;
}

Result<Picture> Evaluator::plain(const PicturePlan& plan, const Moment& moment, std::stop_token stop) {
  if (!plan.mixing()) {
    const auto feed = sources_->feed(plan.source(), stop);
    if (!feed) return feed.error();
    DecodedFrames frames(*feed, flowsOf(*feed), plan.gather(), urgency_);
    return gathered(plan.gather(), frames, moment, stop);
  }
  if (plan.gather().stages().empty()) return mixed(plan, moment, stop);
  MixedFrames frames(*this, plan);
  return gathered(plan.gather(), frames, moment, stop);
}

/// What lies at one place between two frames needs no program.
Result<Picture> Evaluator::evenlyBetween(const ChainPlan& plan, Frames& from, const EvenPair& pair, std::stop_token stop) {
  const std::int32_t frames[] = {std::min(pair.first, pair.second), std::max(pair.first, pair.second)};
  auto table = from.fetch(frames, stop);
  if (!table) return table.error();
  Picture out;
  bool whole = true;
  threads_.run([&] {
    whole = from.flows().complete(*table, plan.scale(), stop);
    if (whole) out = assembled(plan, pair, *table);
  });
  if (!whole) return cancelledError();
  return out;
}

Result<Picture> Evaluator::gathered(const ChainPlan& plan, Frames& from, const Moment& moment, std::stop_token stop) {
  if (const auto even = plan.evenPair(moment)) return evenlyBetween(plan, from, *even, stop);
  std::optional<Gathering> made;
  threads_.run([&] { made.emplace(plan.gathering(moment)); });
  const Gathering& gathering = *made;
  if (stop.stop_requested()) return cancelledError();
  const bool alongFlow = flows(plan, gathering.program());
  if (gathering.frames().size() > from.thatFit())
    return alongFlow ? flowInLots(plan, from, gathering, stop) : inLots(plan, from, gathering, stop);
  auto table = from.fetch(gathering.frames(), stop);
  if (!table) return table.error();
  if (const auto only = gathering.onlyFrame()) return table->find(*only)->picture();
  Picture out;
  bool whole = true;
  threads_.run([&] {
    whole = !alongFlow || from.flows().complete(*table, plan.scale(), stop);
    if (whole) out = assembled(plan, gathering, *table);
  });
  if (!whole) return cancelledError();
  return out;
}

/// Neighbours are mostly made of the same ones.
Result<Picture> Evaluator::source(const PicturePlan& plan, const MixSource& source, const Keeping& keep,
                                  std::stop_token stop) {
  auto picture = made(plan, source.moment, stop);
  if (!picture) return picture;
  if (source.part.right > source.part.left)
    *picture = plan.cache().part(*picture, partAtScale(source.part, picture->shape(), plan.scale()));
  if (keep.form) threads_.run([&] { *picture = keep.form->keep(*picture); });
  PictureCache::Room room = keep.room;
  if (!keep.shared) room.centre = source.moment.pictures();
  plan.cache().keep(plan.keyOf(source, keep.form != nullptr), *picture, sources_->budget(), room);
  return picture;
}

/// All that neighbouring pictures share is at hand where it has room: then what footage it was made of need not be. A form of
/// its own is worth it there alone.
Evaluator::Keeping Evaluator::keeping(const PicturePlan& plan, const Mixture& mixture, const Moment& moment) const {
  const std::vector<MixSource>& sources = mixture.sources();
  Keeping keep;
  keep.room = {moment.pictures(), std::max(plan.momentsInReach(), 2 * sources.size()), sources_->budget()->limit() / 3 * 2};
  if (!plan.mixing()->sharesSources()) {
    // Of a picture's own sources some may be one and the same.
    keep.shared = false;
    keep.room.most = 2;
    return keep;
  }
  const KeptLight* const form = mixture.keptForm();
  if (form && plan.momentsInReach() <= keep.room.bytes / 2 / form->shape().bytes()) keep.form = form;
  return keep;
}

/// Frames are decoded forwards, whatever the order of the sources.
Result<FrameTable> Evaluator::framesOf(const PicturePlan& plan, std::span<const MixSource> sources, std::stop_token stop) {
  if (urgency_ == Urgency::AtOnce) return FrameTable();
  std::vector<std::int32_t> frames;
  const std::size_t most = feed_->framesThatFit(plan.scale());
  for (const MixSource& source : sources) {
    const PicturePlan& way = plan.way(source.way);
    if (way.mixing() || way.source() != plan.source()) break;
    const auto some = way.framesFor(source.moment);
    frames.insert(frames.end(), some.begin(), some.end());
    std::sort(frames.begin(), frames.end());
    frames.erase(std::unique(frames.begin(), frames.end()), frames.end());
    if (frames.size() > most) return FrameTable();
  }
  if (frames.size() < 2) return FrameTable();
  const auto feed = sources_->feed(plan.source(), stop);
  if (!feed) return feed.error();
  const Layout layout = plan.way(sources.front().way).gather().layout().kind();
  return (*feed)->fetch(frames, plan.scale(), layout, stop, urgency_);
}

Result<Picture> Evaluator::mixed(const PicturePlan& plan, const Moment& moment, std::stop_token stop) {
  const auto mixture = plan.mixing()->mixture(moment, plan.mixShapes());
  const std::vector<MixSource>& sources = mixture->sources();
  const Keeping keep = keeping(plan, *mixture, moment);
  constexpr std::size_t mostAtOnce = 16;
  const std::size_t fit = sources_->budget()->limit() / 4 / std::max<std::size_t>(1, plan.mixShapes().in.bytes());
  const std::size_t lot = std::clamp<std::size_t>(fit, 1, mostAtOnce);
  for (std::size_t from = 0; from < sources.size(); from += lot) {
    const std::span<const MixSource> some = std::span(sources).subspan(from, std::min(lot, sources.size() - from));
    std::vector<Picture> pictures;
    std::vector<MixSource> lacking;
    for (const MixSource& source : some) {
      const PicturePlan& way = plan.way(source.way);
      pictures.push_back(way.cache().find(way.keyOf(source, keep.form != nullptr)));
      if (!pictures.back()) lacking.push_back(source);
    }
    const auto held = framesOf(plan, lacking, stop);
    if (!held) return held.error();
    for (std::size_t i = 0; i < some.size(); ++i) {
      if (pictures[i]) continue;
      const PicturePlan& way = plan.way(some[i].way);
      // Several sources may be one and the same picture.
      pictures[i] = way.cache().find(way.keyOf(some[i], keep.form != nullptr));
      if (pictures[i]) continue;
      auto picture = source(way, some[i], keep, stop);
      if (!picture) return picture;
      pictures[i] = std::move(*picture);
    }
    if (stop.stop_requested()) return cancelledError();
    threads_.run([&] { mixture->add(from, pictures); });
  }
  if (stop.stop_requested()) return cancelledError();
  Picture out;
  threads_.run([&] { out = mixture->finish(); });
  return out;
}

Result<Picture> Evaluator::inLots(const ChainPlan& plan, Frames& from, const Gathering& gathering,
                                  std::stop_token stop) {
  const GatherProgram& program = gathering.program();
  const std::span<const std::int32_t> frames = gathering.frames();
  const std::size_t lot = from.thatFit();
  LotSamples samples;
  program.beginLots(samples);
  for (std::size_t at = 0; at < frames.size(); at += lot) {
    auto table = from.fetch(frames.subspan(at, std::min(lot, frames.size() - at)), stop);
    if (!table) return table.error();
    const FrameLookup lookup = gathering.lookUp(*table);
    threads_.run(
        [&] { onTiles(plan, [&](int plane, int a, int b) { program.assembleLot(lookup, samples, plane, a, b); }); });
  }
  Picture out(plan.shape());
  threads_.run([&] {
    if (plan.mixesAlpha() && program.sources() > 1)
      mixSources(plan, program, out, [&](int source, Picture& to, int plane, int a, int b) {
        program.finishSource(source, samples, to, plane, a, b);
      });
    else
      onTiles(plan, [&](int plane, int a, int b) { program.finishLots(samples, out, plane, a, b); });
  });
  return out;
}

/// Lots overlap by a frame, so that every two neighbours are in one of them. Time that wraps goes from the last frame
/// to the first.
Result<Picture> Evaluator::flowInLots(const ChainPlan& plan, Frames& from, const Gathering& gathering,
                                      std::stop_token stop) {
  const std::span<const std::int32_t> frames = gathering.frames();
  const std::size_t lot = from.thatFit();
  Picture out(plan.shape());
  const auto mixLot = [&](std::span<const std::int32_t> some) -> Status {
    auto table = from.fetch(some, stop);
    if (!table) return table.error();
    bool whole = true;
    threads_.run([&] {
      whole = from.flows().complete(*table, plan.scale(), stop);
      if (whole) mixAlongFlow(plan, gathering, *table, out);
    });
    return whole ? Status() : Status(cancelledError());
  };
  for (std::size_t at = 0; at == 0 || at + 1 < frames.size(); at += lot - 1)
    if (auto done = mixLot(frames.subspan(at, std::min(lot, frames.size() - at))); !done) return done.error();
  const std::int32_t ends[] = {frames.front(), frames.back()};
  if (auto done = mixLot(ends); !done) return done.error();
  return out;
}

}  // namespace molten
