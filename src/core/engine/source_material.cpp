#include "core/engine/source_material.h"

#include <algorithm>
#include <cmath>

#include "core/engine/evaluator.h"
#include "core/engine/loudness_courses.h"
#include "core/media/av_handles.h"
#include "core/media/title_picture.h"
#include "core/project/played.h"
#include "core/project/files_behind.h"
#include "core/project/project_file.h"
#include "core/stages/cut.h"
#include "core/stages/shot_row.h"

namespace molten {
namespace {

/// What was read is kept so far back.
constexpr std::size_t picturesKept = 6;
/// So many sources that were asked for are kept open, and so many are known.
constexpr std::size_t sourcesOpen = 8, sourcesKept = 1000;
/// So many titles are kept as they are drawn.
constexpr std::size_t titlesKept = 8;
/// The part of the budget that fields of other moments may take.
constexpr std::size_t keptPart = 8;

}  // namespace

SourceMaterial::SourceMaterial(std::shared_ptr<Sources> sources, int threads, std::stop_token stop, Urgency urgency)
    : sources_(std::move(sources)), threads_(threads), stop_(std::move(stop)), urgency_(urgency) {}

SourceMaterial::~SourceMaterial() = default;

SourceMaterial::Gray SourceMaterial::find(const std::string& what) {
  for (auto at = kept_.begin(); at != kept_.end(); ++at)
    if (at->what == what) {
      kept_.splice(kept_.begin(), kept_, at);
      return kept_.front().gray;
    }
  return nullptr;
}

SourceMaterial::Gray SourceMaterial::keep(const std::string& what, GrayPicture gray) {
  struct Counted {
    GrayPicture gray;
    MemoryBudget::Lease lease;
  };
  MemoryBudget::Lease lease(sources_->budget(), gray.bytes());
  const std::shared_ptr<const Counted> counted(new Counted{std::move(gray), std::move(lease)});
  const Gray picture(counted, &counted->gray);
  kept_.push_front({what, picture});
  const std::size_t fit = mostKept() / std::max<std::size_t>(1, picture->bytes());
  while (kept_.size() > std::clamp<std::size_t>(fit, 1, picturesKept)) kept_.pop_back();
  return picture;
}

std::size_t SourceMaterial::mostKept() const {
  return sources_->budget()->limit() / keptPart;
}

Result<Picture> SourceMaterial::read(FrameFeed& feed, std::int32_t frame) {
  auto table = feed.fetch({&frame, 1}, 1, std::nullopt, stop_, urgency_);
  if (!table) return table.error();
  return table->find(frame)->picture();
}

std::shared_ptr<const GrayPicture> SourceMaterial::ofFile(const std::string& path, const FileMoment& at, Measured what) {
  const std::scoped_lock lock(mutex_);
  if (stop_.stop_requested()) return nullptr;
  const auto fail = [&](const Error& error) {
    failed_.insert_or_assign(path, Error{"The field's picture " + fileName(path) + " cannot be read: " + error.message +
                                         " Choose another one in the Dials."});
    return nullptr;
  };
  auto feed = sources_->current({path}, stop_);
  if (!feed) return fail(feed.error());
  if (auto& known = files_[path]; known != *feed) {
    std::erase_if(kept_, [&](const Kept& kept) { return kept.what.starts_with(path + "#"); });
    known = *feed;
  }
  const Footage& footage = (*feed)->footage();
  const auto last = static_cast<std::int64_t>(footage.clock().frameCount()) - 1;
  const FramePick pick =
      footage.clock().pick(0, at.seconds * footage.clock().rate().toDouble(), at.past, InBetween::Whole);
  const std::int32_t frame =
      footage.isStills() ? foldFrame(at.picture, last + 1, at.past) : std::max(0, pick.first);
  const std::string name = path + "#" + std::to_string(frame) + (what == Measured::Motion ? "m" : "b");
  if (auto known = find(name)) return known;
  auto now = read(**feed, frame);
  if (!now) return fail(now.error());
  failed_.erase(path);
  if (what == Measured::Brightness) return keep(name, grayOf(*now));
  auto other = read(**feed, frame > 0 ? frame - 1 : std::min<std::int32_t>(1, static_cast<std::int32_t>(last)));
  if (!other) return fail(other.error());
  return keep(name, frame > 0 ? motion(*other, *now, footage.clock().rate().toDouble())
                              : motion(*now, *other, footage.clock().rate().toDouble()));
}

std::shared_ptr<const GrayPicture> SourceMaterial::ofVideo(const Chain& upstream, const Moment& moment, Measured what,
                                                          const PlanSettings& settings,
                                                          const std::shared_ptr<const SourceVideo>& source) {
  looksAtVideo_ = true;
  const std::scoped_lock lock(mutex_);
  if (stop_.stop_requested()) return nullptr;
  if (!evaluator_) evaluator_ = std::make_unique<Evaluator>(sources_, threads_, urgency_);
  if (!plan_ || plan_->settings() != settings || plan_->sourceVideo() != source || !(planned_ == upstream)) {
    plan_ = std::make_unique<PicturePlan>(evaluator_->plan(upstream, settings, nullptr, source));
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

/// With the lock held.
Result<std::shared_ptr<const SourceVideo>> SourceMaterial::known(const SourceUse& use, InBetween between, SourceStays stays,
                                                                 const std::vector<std::string>& inside) {
  const auto writtenOf = [&](const SourceVideo& source) { return source.files.empty() ? lastWritten(use.path) : lastWrittenOf(source.files); };
  // What is laid in goes on through the stages of a project; of a shot's source whole pictures are read.
  const Reading reading = stays == SourceStays::Open ? Reading::Stages : Reading::Pictures;
  for (auto at = asked_.begin(); at != asked_.end(); ++at)
    if (at->use == use && at->between == between && at->reading == reading) {
      if (at->written == writtenOf(*at->source) && !std::count(inside.begin(), inside.end(), at->source->project)) {
        asked_.splice(asked_.begin(), asked_, at);
        return at->source;
      }
      asked_.erase(at);
      break;
    }
  auto opened = open(use, between, inside, reading);
  if (!opened) return opened.error();
  if (stays == SourceStays::Open) {
    auto feed = sources_->current(opened->source->frames, stop_);
    if (!feed) return feed.error();
    opened->feed = *feed;
  }
  opened->written = writtenOf(*opened->source);
  asked_.push_front(std::move(*opened));
  std::size_t open = 0;
  for (Asked& asked : asked_)
    if (asked.feed && ++open > sourcesOpen) asked.feed.reset();
  while (asked_.size() > sourcesKept) asked_.pop_back();
  return asked_.front().source;
}

Result<std::shared_ptr<const SourceVideo>> SourceMaterial::described(const SourceUse& use, InBetween between) {
  const std::scoped_lock lock(mutex_);
  if (stop_.stop_requested()) return cancelledError();
  return known(use, between, SourceStays::Known, {});
}

std::shared_ptr<const SourceVideo> SourceMaterial::source(const SourceUse& use, InBetween between, SourceStays stays,
                                                         const std::vector<std::string>& inside) {
  const std::scoped_lock lock(mutex_);
  if (stop_.stop_requested()) return nullptr;
  auto source = known(use, between, stays, inside);
  if (!source) {
    const Error error{fileName(use.path) + (stays == SourceStays::Open ? " cannot be laid in: " : " cannot be shown: ") +
                      source.error().message};
    failed_.insert_or_assign(use.path, error);
    // Whoever reads a project is told what that one lacks.
    for (const std::string& project : inside) failed_.insert_or_assign(project, error);
    return nullptr;
  }
  failed_.erase(use.path);
  return *source;
}

std::shared_ptr<const TitleOnPicture> SourceMaterial::title(const TitleLook& look, int scale) {
  const std::scoped_lock lock(mutex_);
  for (auto at = titles_.begin(); at != titles_.end(); ++at)
    if (at->look == look && at->scale == scale) {
      titles_.splice(titles_.begin(), titles_, at);
      return titles_.front().title;
    }
  const TitleBox box = titleBox(look);
  auto title = std::make_shared<TitleOnPicture>(TitleOnPicture{titlePicture(look, scale), titleSize(look), box.left, box.top, box.right, box.bottom});
  titles_.push_front({look, scale, std::move(title)});
  while (titles_.size() > titlesKept) titles_.pop_back();
  return titles_.front().title;
}

std::shared_ptr<const LoudnessCourse> SourceMaterial::loudness(const Follow::Listening& listening, const FollowedSounds& sounds,
                                                               const std::shared_ptr<const SourceVideo>& source) {
  const Band band{listening.low, listening.high};
  if (listening.sound == 0) return sources_->loudness().own(source ? source->frames.path : sources_->footage()->path(), band);
  const Stage* const laid = sounds.find(listening.sound);
  if (laid) return sources_->loudness().laid(*laid, band);
  sources_->loudness().miss("A value follows " +
                            (listening.sound == Follow::Listening::none ? "a sound" : "sound " + std::to_string(listening.sound)) +
                            ", which is not laid: it stays as it is.");
  return nullptr;
}

Result<std::shared_ptr<const SourceVideo>> SourceMaterial::made(const std::string& path) {
  const std::scoped_lock lock(mutex_);
  auto opened = open({path, std::nullopt}, InBetween::Whole, {}, Reading::Stages);
  if (!opened) return opened.error();
  return opened->source;
}

Result<std::shared_ptr<const SourceVideo>> SourceMaterial::made(const Project& project, std::optional<Error>& trouble) {
  const std::scoped_lock lock(mutex_);
  auto source = std::make_shared<SourceVideo>();
  if (auto filled = fill(*source, sources_->footage(), &project, project.source.between, {}, trouble); !filled) return filled.error();
  return std::shared_ptr<const SourceVideo>(std::move(source));
}

Result<SourceMaterial::Asked> SourceMaterial::open(const SourceUse& use, InBetween between,
                                                 const std::vector<std::string>& inside, Reading reading) {
  auto source = std::make_shared<SourceVideo>();
  source->frames = use;
  std::optional<Project> project;
  if (namesProject(use.path) && reading == Reading::Stages) {
    std::error_code none;
    source->project = std::filesystem::weakly_canonical(use.path, none).string();
    if (std::count(inside.begin(), inside.end(), source->project))
      return Error{"it contains itself, by way of the projects that are laid in. Choose another source in one of them."};
    auto files = filesBehind(use.path);
    if (!files) return files.error();
    source->files = std::move(*files);
    auto loaded = loadProject(use.path);
    if (!loaded) return loaded.error();
    if (loaded->source.path.empty()) return Error{"that project has no footage. Open it and choose some, or lay in a clip."};
    source->frames = {loaded->source.path, loaded->source.rate};
    between = loaded->source.between;
    project = std::move(*loaded);
  }
  auto footage = sources_->describe(source->frames, stop_);
  if (!footage) return footage.error();
  if (!project) source->files = (*footage)->madeFrom();
  std::vector<std::string> within = inside;
  if (project) within.push_back(source->project);
  std::optional<Error> trouble;
  if (auto filled = fill(*source, *footage, project ? &*project : nullptr, between, within, trouble); !filled) return filled.error();
  if (trouble) return *trouble;
  return Asked{use, between, reading, {}, nullptr, std::move(source)};
}

/// What a source is made of: footage, and what a project makes of that (nullptr: nothing).
Status SourceMaterial::fill(SourceVideo& source, const std::shared_ptr<const Footage>& footage, const Project* project, InBetween between,
                            const std::vector<std::string>& inside, std::optional<Error>& trouble) {
  source.shape = footage->shape();
  source.clock = footage->clock();
  source.video = footage->video(between);
  if (project) {
    source.sounds = followedSounds(*project);
    auto played = playedOf(*project, isReel(*project) ? std::nullopt : std::optional(source.video), [&](const Source& shot) -> Result<VideoDescription> {
      auto other = known({shot.path, shot.rate}, shot.between, SourceStays::Known, inside);
      if (!other) return other.error();
      return (*other)->made;
    }, &trouble);
    if (!played) return played.error();
    source.stages = std::move(played->chain);
    const Piece& piece = played->piece;
    const Span span = spanOf(*project, piece.length);
    if (span.first > 0 || span.last + 1 < piece.length || project->output.length)
      source.stages.push_back(cutOut(Rational(span.first) / piece.rate, Rational(span.count()) / piece.rate));
  }
  source.made = videoAt(source.stages, source.stages.size(), source.video);
  return {};
}

/// How fast what stands at each place moves, in picture heights a second.
GrayPicture SourceMaterial::motion(const Picture& before, const Picture& now, double rate) {
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

std::optional<Error> SourceMaterial::troubleWith(const Chain& stages) const {
  const std::scoped_lock lock(mutex_);
  return troubleIn(stages);
}

std::optional<Error> SourceMaterial::troubleIn(const Chain& stages) const {
  for (const Stage& stage : stages) {
    if (auto within = troubleIn(stage.branch)) return within;
    if (stage.shots.row)
      for (const RowShot& shot : stage.shots.row->shots) {
        if (const auto failed = failed_.find(shot.source.use.path); failed != failed_.end()) return failed->second;
        if (auto within = troubleIn(shot.chain)) return within;
      }
    const StageDescription& described = stage.kind->description();
    for (std::size_t i = 0; i < described.parameters.size(); ++i) {
      if (!isInUse(described, stage.values, i)) continue;
      if (const auto* painting = std::get_if<Painting>(&stage.values[i]))
        if (!painting->picture && !painting->file.empty())
          return Error{"The painting " + fileName(painting->file) +
                       " cannot be read. Put it back beside the project and open that again, or paint anew."};
      const auto* path = std::get_if<std::string>(&stage.values[i]);
      if (!path || !std::holds_alternative<FileDescription>(described.parameters[i].kind)) continue;
      if (const auto failed = failed_.find(*path); failed != failed_.end()) return failed->second;
    }
  }
  return std::nullopt;
}

}  // namespace molten
