#include "core/engine/chain_plan.h"

#include <algorithm>
#include <cmath>

namespace molten {
namespace {

/// Runs of this many samples are copied faster from rows; shorter ones from blocks. See docs/frames-in-memory.md.
constexpr double longRun = 192;
constexpr std::size_t programsKept = 8;

bool alphaCanBeMade(const PictureShape& shape) {
  PictureShape with = shape;
  with.format.alpha = true;
  return avFormat(with.format) || shape.format.model == ColourModel::Gray || shape.format.floating;
}

}  // namespace

ChainPlan::ChainPlan(const Chain& stages, const PlanSource& source, const std::shared_ptr<Material>& material,
                     std::optional<Layout> layout)
    : samples_(stages, source, material), shape_(source.shape) {
  if (samples_.mayBeClear() && !shape_.format.alpha) shape_.format.alpha = alphaCanBeMade(shape_);
  layout_.emplace(source.shape, layout ? *layout : bestLayout());
}

void ChainPlan::adopt(const ChainPlan& other) {
  const auto displacing = [](const ChainPlan& plan) {
    return std::span(plan.stages()).first(plan.reading().displacedUntil());
  };
  const auto mine = displacing(*this), its = displacing(other);
  if (!samples_.alike() || !other.samples_.alike() || mine.empty() ||
      !std::equal(mine.begin(), mine.end(), its.begin(), its.end()) || scale() != other.scale() ||
      !(shape_ == other.shape_) || !(source().shape == other.source().shape) ||
      layout_->kind() != other.layout_->kind() || samples_.between() != other.samples_.between() ||
      samples_.framesAPicture() != other.samples_.framesAPicture() || source().video.rate != other.source().video.rate)
    return;
  // A field may depend on how long the video is that it is made for.
  const PlaneSites sites = planeSites(source().shape, 0, scale());
  std::vector<double> here(static_cast<std::size_t>(sites.width)), there(here.size());
  for (std::size_t k = 0; k < mine.size(); ++k)
    for (const int row : {0, sites.height / 3, sites.height - 1}) {
      reading().map(k).displacing()->displacement({})->row(sites, row, here);
      other.reading().map(k).displacing()->displacement({})->row(sites, row, there);
      if (here != there) return;
    }
  const std::scoped_lock lock(*other.mutex_);
  for (const Compiled& known : other.compiled_)
    if (known.key.kind == SampleReads::Key::Kind::Shared) compiled_.push_back(known);
}

std::optional<std::int32_t> ChainPlan::onlyFrame(const Moment& moment) const {
  if (!wholePictures() || !(shape_ == source().shape)) return std::nullopt;
  const auto at = samples_.displacedMoment(moment);
  if (!at) return std::nullopt;
  const FramePick pick = samples_.wholePick(*at);
  if (pick.first == noFrame || pick.weight > 0) return std::nullopt;
  return pick.first;
}

std::optional<EvenPair> ChainPlan::evenPair(const Moment& moment) const {
  if (!usesFlow() || !wholePictures() || !(shape_ == source().shape)) return std::nullopt;
  const auto at = samples_.displacedMoment(moment);
  if (!at) return std::nullopt;
  const FramePick pick = samples_.wholePick(*at);
  if (pick.first == noFrame || pick.second == noFrame || pick.weight == 0 || std::abs(pick.first - pick.second) != 1)
    return std::nullopt;
  return EvenPair{pick.first, pick.second, pick.weight};
}

/// By the length of the runs in some of the rows.
Layout ChainPlan::bestLayout() const {
  if (wholePictures()) return Layout::Rows;
  const Moment middle{length() / 2};
  const SampleReads::Key key = samples_.keyOf(samples_.displacedMoment(middle));
  const PlaneSites sites = planeSites(source().shape, 0, scale());
  const int step = std::max(1, sites.height / 24);
  RowPicks picks;
  double samples = 0, runs = 0;
  for (int y = step / 2; y < sites.height; y += step) {
    samples_.pickRow(key, middle, sites, y, picks);
    const auto& frames = picks.lanes[0].frame;
    runs += 1;
    for (std::size_t x = 1; x < frames.size(); ++x) runs += frames[x] != frames[x - 1];
    samples += sites.width;
  }
  return samples / runs >= std::min(longRun, static_cast<double>(sites.width)) ? Layout::Rows : Layout::Blocks;
}

std::shared_ptr<const GatherProgram> ChainPlan::compile(const SampleReads::Key& key, const Moment& moment) const {
  const PictureShape& from = source().shape;
  const PlaneSites sites[] = {planeSites(from, 0, scale()),
                              planeSites(from, from.format.model == ColourModel::Yuv ? 1 : 0, scale())};
  const bool copies = !mixes() || key.kind == SampleReads::Key::Kind::Nothing ||
                      (key.kind == SampleReads::Key::Kind::Whole && key.weight == 0 && key.first);
  const Picking picking = copies                                       ? Picking::Copy
                          : key.kind == SampleReads::Key::Kind::Shared ? Picking::Pairs
                                                                       : Picking::Lanes;
  return std::make_shared<const GatherProgram>(
      *layout_, shape_, picking, picking == Picking::Lanes ? 2 : 1,
      [&](int plane, int row, RowPicks& picks) { samples_.pickRow(key, moment, sites[plane], row, picks); });
}

std::shared_ptr<const GatherProgram> ChainPlan::programFor(const SampleReads::Key& key, const Moment& moment) const {
  {
    const std::scoped_lock lock(*mutex_);
    const auto at =
        std::find_if(compiled_.begin(), compiled_.end(), [&](const auto& known) { return known.key == key; });
    if (at != compiled_.end()) {
      std::rotate(compiled_.begin(), at, at + 1);
      return compiled_.front().program;
    }
  }
  auto made = compile(key, moment);
  const std::scoped_lock lock(*mutex_);
  compiled_.push_front({key, std::move(made)});
  if (compiled_.size() > programsKept) compiled_.pop_back();
  return compiled_.front().program;
}

Gathering ChainPlan::gathering(const Moment& moment) const {
  const auto displaced = samples_.displacedMoment(moment);
  const SampleReads::Key key = samples_.keyOf(displaced);
  return {programFor(key, moment), samples_.meaningOf(key, displaced), onlyFrame(moment)};
}

}  // namespace molten
