#include "core/engine/field_material.h"

#include <algorithm>
#include <cmath>

#include "core/engine/evaluator.h"
#include "core/media/av_handles.h"

namespace molten {
namespace {

/// For the frames of the footage that a field is made of.
constexpr std::size_t mostForFrames = std::size_t(256) << 20;
/// What was read is kept so far back.
constexpr std::size_t picturesKept = 6;
/// The part of the budget that fields of other moments may take.
constexpr std::size_t keptPart = 8;

}  // namespace

FieldMaterial::FieldMaterial(std::shared_ptr<const Footage> footage, std::shared_ptr<MemoryBudget> budget, int threads,
                             std::stop_token stop)
    : footage_(std::move(footage)), budget_(std::move(budget)), threads_(threads), stop_(std::move(stop)) {}

FieldMaterial::~FieldMaterial() = default;

FieldMaterial::Gray FieldMaterial::find(const std::string& what) {
  for (auto at = kept_.begin(); at != kept_.end(); ++at)
    if (at->what == what) {
      kept_.splice(kept_.begin(), kept_, at);
      return kept_.front().gray;
    }
  return nullptr;
}

FieldMaterial::Gray FieldMaterial::keep(const std::string& what, GrayPicture gray) {
  struct Counted {
    GrayPicture gray;
    MemoryBudget::Lease lease;
  };
  MemoryBudget::Lease lease(budget_, gray.bytes());
  const std::shared_ptr<const Counted> counted(new Counted{std::move(gray), std::move(lease)});
  const Gray picture(counted, &counted->gray);
  kept_.push_front({what, picture});
  const std::size_t fit = mostKept() / std::max<std::size_t>(1, picture->bytes());
  while (kept_.size() > std::clamp<std::size_t>(fit, 1, picturesKept)) kept_.pop_back();
  return picture;
}

std::size_t FieldMaterial::mostKept() const {
  return budget_->limit() / keptPart;
}

Result<FieldMaterial::File*> FieldMaterial::open(const std::string& path) {
  std::error_code none;
  // Numbered stills have changed when their folder has.
  const auto written = std::filesystem::last_write_time(
      isStillsPattern(path) ? std::filesystem::absolute(path).parent_path() : std::filesystem::path(path), none);
  if (const auto known = files_.find(path); known != files_.end()) {
    if (known->second.written == written) return &known->second;
    files_.erase(known);
    std::erase_if(kept_, [&](const Kept& kept) { return kept.what.starts_with(path + "#"); });
  }
  auto footage = Footage::open(path, {}, {}, stop_);
  if (!footage) return footage.error();
  auto reader = (*footage)->newReader(1);
  if (!reader) return reader.error();
  return &(files_[path] = {std::move(*footage), std::move(*reader), written});
}

std::shared_ptr<const GrayPicture> FieldMaterial::ofFile(const std::string& path, const FileMoment& at, Measured what) {
  const std::scoped_lock lock(mutex_);
  if (stop_.stop_requested()) return nullptr;
  auto file = open(path);
  const auto fail = [&](const Error& error) {
    failed_.insert_or_assign(path, Error{"The field's picture " + fileName(path) + " cannot be read: " + error.message +
                                         " Choose another one in the Dials."});
    return nullptr;
  };
  if (!file) return fail(file.error());
  const Footage& footage = *(*file)->footage;
  const auto last = static_cast<std::int64_t>(footage.clock().frameCount()) - 1;
  const FramePick pick =
      footage.clock().pick(0, at.seconds * footage.clock().rate().toDouble(), at.past, InBetween::Whole);
  const std::int32_t frame =
      footage.isStills() ? foldFrame(at.picture, last + 1, at.past) : std::max(0, pick.first);
  const std::string name = path + "#" + std::to_string(frame) + (what == Measured::Motion ? "m" : "b");
  if (auto known = find(name)) return known;
  auto read = (*file)->reader->read(frame, {}, stop_);
  if (!read) return fail(read.error());
  failed_.erase(path);
  if (what == Measured::Brightness) return keep(name, grayOf(*read));
  auto other =
      (*file)->reader->read(frame > 0 ? frame - 1 : std::min<std::int32_t>(1, static_cast<std::int32_t>(last)), {}, stop_);
  if (!other) return fail(other.error());
  return keep(name, frame > 0 ? motion(*other, *read, footage.clock().rate().toDouble())
                              : motion(*read, *other, footage.clock().rate().toDouble()));
}

std::shared_ptr<const GrayPicture> FieldMaterial::ofVideo(const Chain& upstream, const Moment& moment, Measured what,
                                                          const PlanSettings& settings) {
  const std::scoped_lock lock(mutex_);
  if (stop_.stop_requested()) return nullptr;
  if (!evaluator_)
    evaluator_ = std::make_unique<Evaluator>(
        std::make_shared<FrameFeed>(footage_, MemoryBudget::part(budget_, mostForFrames), threads_), threads_);
  if (!plan_ || plan_->settings() != settings || !(planned_ == upstream)) {
    plan_ = std::make_unique<PicturePlan>(evaluator_->plan(upstream, settings));
    planned_ = upstream;
    std::erase_if(kept_, [](const Kept& kept) { return kept.what.starts_with("video "); });
  }
  const std::string name = "video " + std::to_string(moment.whole) + " " + rationalText(moment.rest) + " " +
                           std::to_string(moment.off) + (what == Measured::Motion ? "m" : "b");
  if (auto known = find(name)) return known;
  const auto fail = [&](const Error& error) {
    failed_.insert_or_assign(std::string(), error);
    return nullptr;
  };
  auto now = evaluator_->picture(*plan_, moment, stop_);
  if (!now) return fail(now.error());
  failed_.erase(std::string());
  if (what == Measured::Brightness) return keep(name, grayOf(*now));
  // From the picture before; at the beginning, to the one after.
  const bool first = moment.pictures() < 1;
  auto other = evaluator_->picture(*plan_,
                                   first ? Moment{std::min<std::int64_t>(1, plan_->length() - 1)}
                                         : Moment{moment.whole - 1, moment.rest, moment.off},
                                   stop_);
  if (!other) return fail(other.error());
  const double rate = plan_->rate().toDouble();
  return keep(name, first ? motion(*now, *other, rate) : motion(*other, *now, rate));
}

/// How fast what stands at each place moves, in picture heights a second.
GrayPicture FieldMaterial::motion(const Picture& before, const Picture& now, double rate) {
  if (!finder_) finder_ = std::make_unique<FlowFinder>();
  const auto flow = finder_->find(SmallLuma(before), SmallLuma(now), 1);
  const Size size = now.shape().size;
  const float cell = flow->cellSize();
  GrayPicture gray;
  gray.width = std::max(1, static_cast<int>(std::lround(static_cast<float>(size.width) / cell)));
  gray.height = std::max(1, static_cast<int>(std::lround(static_cast<float>(size.height) / cell)));
  const auto heights = static_cast<float>(rate / size.height);
  for (int y = 0; y < gray.height; ++y)
    for (int x = 0; x < gray.width; ++x) {
      const Vector v = flow->backward((static_cast<float>(x) + 0.5f) * cell, (static_cast<float>(y) + 0.5f) * cell);
      gray.samples.push_back(flow->isCut() ? 0.0f : std::hypot(v.x, v.y) * heights);
    }
  return gray;
}

std::optional<Error> FieldMaterial::troubleWith(const Chain& stages) const {
  const std::scoped_lock lock(mutex_);
  for (const Stage& stage : stages) {
    const StageDescription& described = stage.kind->description();
    for (std::size_t i = 0; i < described.parameters.size(); ++i) {
      if (!isInUse(described, stage.values, i)) continue;
      if (const auto* painting = std::get_if<Painting>(&stage.values[i]))
        if (!painting->picture && !painting->file.empty())
          return Error{"The painting " + fileName(painting->file) +
                       " cannot be read. Put it back beside the project and open that again, or paint anew."};
      const auto* path = std::get_if<std::string>(&stage.values[i]);
      if (!path) continue;
      if (const auto failed = failed_.find(*path); failed != failed_.end()) return failed->second;
    }
  }
  return std::nullopt;
}

std::vector<std::string> FieldMaterial::findings() const {
  const std::scoped_lock lock(mutex_);
  std::vector<std::string> all;
  for (const auto& [path, file] : files_) {
    const auto& warnings = file.footage->warnings();
    all.insert(all.end(), warnings.begin(), warnings.end());
    for (std::string& sentence : file.footage->faults().sentences(file.footage->name()))
      all.push_back(std::move(sentence));
  }
  return all;
}

}  // namespace molten
