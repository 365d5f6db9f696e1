#include "core/engine/render_job.h"

#include <algorithm>
#include <filesystem>

#include "core/engine/delivery.h"
#include "core/engine/source_material.h"
#include "core/engine/sound_job.h"
#include "core/files/safe_file.h"
#include "core/machine.h"
#include "core/media/stills_reader.h"
#include "core/project/files_behind.h"
#include "core/project/files_read.h"
#include "core/project/played.h"
#include "core/stopwatch.h"
#include "core/thrown.h"

namespace molten {
namespace {

/// The picture's shape at another size: the same picture on the screen, pixels square where that is all but so.
PictureShape resized(PictureShape shape, Size size) {
  const Rational aspect =
      shape.pixelAspect * Rational(shape.size.width, shape.size.height) * Rational(size.height, size.width);
  shape.size = size;
  shape.pixelAspect = std::abs(aspect.toDouble() - 1) < 0.01 ? Rational(1) : aspect;
  return shape;
}

/// What decoded frames may take where pictures are made of several. Those that neighbouring pictures share are kept
/// themselves, so that what one of them reads is enough; what is not shared is read again from all frames within reach.
std::size_t feedBytes(const PicturePlan& plan, const Footage& footage, std::size_t budget) {
  constexpr std::size_t usual = Sources::usualFeedBytes, ahead = 16;
  if (!plan.mixing()) return usual;
  const std::size_t frame = footage.shape().bytes();
  if (!plan.mixing()->sharesSources())
    return std::min(std::max(usual, (plan.momentsInReach() + ahead) * frame), budget / 4 * 3);
  return std::min((plan.framesAtOnce() + ahead) * frame, budget / 2);
}

Result<RenderWork> jobOf(const RenderSettings& settings, std::stop_token stop) {
  RenderWork job;
  job.budget = std::make_shared<MemoryBudget>(settings.memoryBytes);
  const Project& project = settings.project;
  const VideoDescription video = settings.footage->video(project.source.between);
  job.wish = {1, project.source.between, project.output.rate.value_or(video.rate), followedSounds(project)};
  const std::size_t bytes = isReel(project) ? Sources::usualFeedBytes
                                            : feedBytes(PicturePlan(project.chain, planFootageOf(*settings.footage), job.wish), *settings.footage, settings.memoryBytes);
  job.sources = std::make_shared<Sources>(settings.footage, job.budget, settings.threads, bytes);
  job.material = std::make_shared<SourceMaterial>(job.sources, settings.threads, std::move(stop));
  std::optional<Error> trouble;
  auto played = playedOf(project, video, describedBy(*job.material), &trouble);
  if (!played) return played.error();
  if (trouble) return *trouble;
  job.played = std::move(*played);
  return job;
}

/// Finds the files that would be replaced; fails if one of them is read, or if they are more than may be.
std::optional<Error> findReplaced(const RenderSettings& settings, RenderOutline& outline) {
  const FilesRead read(settings.project);
  std::optional<FilesRead> readBesides;
  if (settings.open) readBesides.emplace(*settings.open);
  const OutputSpec& spec = outline.spec;
  const std::int64_t files = outputFile(spec, 0) == outputFile(spec, 1) ? 1 : outline.pictures.count();
  for (std::int64_t k = 0; k < files; ++k) {
    const std::string path = outputFile(spec, k);
    if (read.holds(path) || (readBesides && readBesides->holds(path)))
      return Error{fileName(path) + " is, or would become, part of what the project reads; choose another name or " +
                   "folder for the result."};
    if (!identityOf(path)) continue;
    outline.lastReplaced = fileName(path);
    if (outline.replaced++ == 0) outline.firstReplaced = outline.lastReplaced;
  }
  if (settings.mayReplace && outline.replaced > *settings.mayReplace)
    return Error{outline.lastReplaced + " has come to be there since the render was asked for. Render again to " +
                 "replace it, or choose another name."};
  return std::nullopt;
}

Result<RenderOutline> outlineWhole(const RenderSettings& settings, const RenderWork& job) {
  const Footage& footage = *settings.footage;
  const OutputSettings& output = settings.project.output;
  const PicturePlan plan = planOf(settings, job, false);
  const Piece& piece = job.played.piece;
  if (settings.timeMap && job.played.row)
    return Error{"A time map is of one shot's footage: render the shots one by one, each as a project of its own."};
  RenderOutline outline;
  outline.spec.rate = piece.rate;
  const std::int64_t total = spanOf(settings.project, piece.length).count();
  outline.pictures = settings.pictures.value_or(Span{0, total - 1});
  if (outline.pictures.first < 0 || outline.pictures.last < outline.pictures.first || outline.pictures.first >= total)
    return Error{"The result has the frames 0 to " + std::to_string(total - 1) + "; " +
                 std::to_string(outline.pictures.first) + "-" + std::to_string(outline.pictures.last) +
                 " is not among them."};
  const bool beyond = outline.pictures.last >= total;
  outline.pictures.last = std::min(outline.pictures.last, total - 1);
  outline.spec.path = output.path;
  outline.spec.codec = output.codec;
  outline.spec.quality = output.quality;
  outline.spec.shape = output.size ? resized(plan.shape(), *output.size) : plan.shape();
  if (settings.timeMap) {
    // One number a pixel of the footage, as deep as the file can hold it.
    outline.spec.shape.size = footage.shape().size;
    outline.spec.shape.pixelAspect = footage.shape().pixelAspect;
    outline.spec.shape.format = {ColourModel::Gray, 16, 0, 0, false, false};
    outline.spec.shape.colour = {};
    outline.spec.shape.colour.range = AVCOL_RANGE_JPEG;
    if (auto first = planOutput(outline.spec); first && first->codec->id == "exr")
      outline.spec.shape.format = {ColourModel::Gray, 32, 0, 0, false, true};
  }
  outline.spec.first = outline.pictures.first;
  // One picture needs no number in its name.
  outline.spec.single = outline.pictures.count() == 1 && !isStillsPattern(output.path);
  outline.spec.threads = settings.threads;
  const auto heard = heardIn(settings, job.played, describedBy(*job.material), job.budget);
  if (!heard) return heard.error();
  outline.spec.sound = heard->has_value();
  if (settings.sound == SoundWish::Copy && job.played.row)
    return Error{"The sound of several shots cannot be copied as it lies in their files; mix it, or leave it out."};
  if (settings.sound == SoundWish::Copy && namesProject(settings.project.source.path))
    return Error{"The sound of " + fileName(settings.project.source.path) + " is mixed as it is heard, and lies in no file to be copied; mix it, or leave it out."};
  if (settings.sound == SoundWish::Copy && !settings.timeMap) {
    outline.spec.soundOf = settings.project.source.path;
    outline.spec.soundFrom = Rational(spanOf(settings.project, piece.length).first + outline.pictures.first) / piece.rate;
  }
  auto planned = planOutput(outline.spec);
  if (!planned) return planned.error();
  if (const auto forbidden = findReplaced(settings, outline)) return *forbidden;
  if (auto possible = SafeFile::mayCreate(outputFile(outline.spec, 0)); !possible) return possible.error();
  if (settings.timeMap && (!planned->codec->stills || planned->codec->id == "png" || planned->codec->id == "tiff"))
    return Error{
        "A time map is written as stills of 16 bits or more: end the name in -%05d.png, -%05d.tif or "
        "-%05d.exr, and choose 16 bits."};
  outline.plan = std::move(*planned);
  if (beyond)
    outline.plan.notes.push_back("Fewer frames than were asked for are written: the last one of the result is " +
                                 std::to_string(total - 1) + ".");
  return outline;
}

/// Into pieces, one after another.
class PiecesWriter : public PictureWriter {
 public:
  PiecesWriter(const OutputSpec& spec, const PieceRun& run) : spec_(spec), run_(run), next_(run.spans.front().first) {}

  Status write(const Picture& picture) override {
    const PieceSpan& span = run_.spans[at_];
    if (!piece_) {
      auto piece = PictureWriter::openPiece(spec_, span.first, run_.path(span), run_.key);
      if (!piece) return piece.error();
      piece_ = std::move(*piece);
    }
    if (auto written = piece_->write(picture); !written) return written;
    if (next_++ < span.last) return {};
    ++at_;
    auto done = piece_->finish();
    encoded_ += piece_->encoded();
    piece_.reset();
    return done;
  }
  std::int64_t encoded() const override { return encoded_ + (piece_ ? piece_->encoded() : 0); }
  Status finish(std::vector<SafeFile>, const FinishWatch&) override { return {}; }

 private:
  OutputSpec spec_;
  const PieceRun& run_;
  std::int64_t next_, encoded_ = 0;
  std::size_t at_ = 0;
  std::unique_ptr<PictureWriter> piece_;
};

std::vector<std::string> allFindings(const Footage& footage, const SourceMaterial& material, const std::optional<Heard>& heard) {
  std::vector<std::string> all = footage.faults().sentences(footage.name());
  const auto add = [&](std::vector<std::string> more) {
    for (std::string& finding : more)
      if (!std::count(all.begin(), all.end(), finding)) all.push_back(std::move(finding));
  };
  add(material.findings());
  if (heard) add(findingsOf(*heard));
  return all;
}

std::optional<SoundWriting> soundAlong(const std::optional<Heard>& heard, std::int64_t first, Rational rate) {
  std::optional<SoundWriting> sounds;
  if (heard) sounds.emplace(heard->mix, first, rate);
  return sounds;
}

void noteLoudness(const SoundTrack* track, RenderOutline& outline) {
  if (!track) return;
  for (std::string said : {loudnessOf(*track), tooLoud(*track)})
    if (!said.empty()) outline.plan.notes.push_back(std::move(said));
}

/// The pictures' pace does not say how long what follows the last of them takes.
std::function<void(const RenderProgress&)> tellingPictures(const std::function<void(const RenderProgress&)>& progress, const OutputPlan& plan) {
  if (!progress || !plan.secondPass) return progress;
  return [progress](RenderProgress told) {
    told.secondsLeft.reset();
    progress(told);
  };
}

/// Tells how far a file of so many pictures is finished, by how far a pass is that goes from one part of the work to another, and how
/// long the rest takes at the pace of this pass. That is measured from its first picture on: before it colours may be chosen.
std::function<void(double)> tellingFinish(const std::function<void(const RenderProgress&)>& progress, std::int64_t pictures, double from, double to) {
  struct Begun {
    Stopwatch watch;
    double part;
    double waited = 0;  // whoever is told may hold the render
  };
  return [=, begun = std::optional<Begun>()](double ofPass) mutable {
    const double part = from + (to - from) * ofPass;
    if (!begun) {
      begun.emplace(Begun{{}, part});
    } else if (progress) {
      const double worked = begun->watch.seconds() - begun->waited;
      progress({pictures, pictures, worked / (part - begun->part) * (1 - part), part});
      begun->waited = begun->watch.seconds() - worked;
    }
  };
}

Result<RenderOutline> renderWhole(const RenderSettings& settings,
                                  const std::function<void(const RenderProgress&)>& progress, std::stop_token stop) {
  auto job = jobOf(settings, stop);
  if (!job) return job.error();
  auto outline = outlineWhole(settings, *job);
  if (!outline) return outline;
  clearLeftovers(std::filesystem::path(outline->spec.path).parent_path().string());
  auto writer = PictureWriter::open(outline->spec);
  if (!writer) return writer.error();
  const Piece& piece = job->played.piece;
  const Span span = spanOf(settings.project, piece.length);
  std::optional<TimeMapMaker> maker;
  if (settings.timeMap)
    maker.emplace(
        settings.project.chain, settings.footage, job->material, job->wish, *settings.timeMap,
        [&](std::int64_t k) { return piece.moment(span.first + k); }, span.count());
  auto found = heardIn(settings, job->played, describedBy(*job->material), job->budget);
  if (!found) return found.error();
  const std::optional<Heard> heard = std::move(*found);
  const Delivery to{**writer, outline->pictures, soundAlong(heard, span.first + outline->pictures.first, piece.rate), maker ? &*maker : nullptr};
  if (auto delivered = deliver(settings, *job, outline->spec, to, tellingPictures(progress, outline->plan), stop); !delivered) return delivered.error();
  std::vector<SafeFile> beside;
  if (maker) {
    TimeMapScale scale = maker->scale();
    scale.floating = outline->spec.shape.format.floating;
    scale.files = outline->spec.path;
    auto written = writeTimeMapScale(scale, outline->spec.path);
    if (!written) return written.error();
    beside.push_back(std::move(*written));
  }
  if (auto finished = (*writer)->finish(std::move(beside), {tellingFinish(progress, outline->pictures.count(), 0, 1), stop}); !finished) return finished.error();
  noteLoudness((*writer)->sound(), *outline);
  outline->findings = allFindings(*settings.footage, *job->material, heard);
  return outline;
}

/// Of a file that is gone through twice: how much of the work the first time is, by a clip of a camera.
constexpr double firstOfTwo = 0.25;

/// A piece more or less changes nothing of what the whole is to be.
Result<std::vector<std::string>> renderRun(const RenderSettings& settings, const PieceRun& run,
                                           const std::function<void(const RenderProgress&)>& progress, std::stop_token stop) {
  auto job = jobOf(settings, stop);
  if (!job) return job.error();
  const auto outline = outlineWhole(settings, *job);
  if (!outline) return outline.error();
  PiecesWriter writer(outline->spec, run);
  const std::int64_t zero = outline->pictures.first;
  const Delivery to{writer, {zero + run.spans.front().first, zero + run.spans.back().last}, std::nullopt, nullptr};
  if (auto delivered = deliver(settings, *job, outline->spec, to, tellingPictures(progress, outline->plan), stop); !delivered) return delivered.error();
  return allFindings(*settings.footage, *job->material, std::nullopt);
}

Result<RenderOutline> joinAll(const RenderSettings& settings, const PieceRun& run,
                              const std::function<void(const RenderProgress&)>& progress, std::stop_token stop) {
  auto job = jobOf(settings, stop);
  if (!job) return job.error();
  auto outline = outlineWhole(settings, *job);
  if (!outline) return outline;
  clearLeftovers(std::filesystem::path(outline->spec.path).parent_path().string());
  auto joiner = PieceJoiner::open(outline->spec, run.key);
  if (!joiner) return joiner.error();
  const Piece& piece = job->played.piece;
  auto found = heardIn(settings, job->played, describedBy(*job->material), job->budget);
  if (!found) return found.error();
  const std::optional<Heard> heard = std::move(*found);
  auto sounds = soundAlong(heard, spanOf(settings.project, piece.length).first + outline->pictures.first, piece.rate);
  const std::int64_t count = outline->pictures.count();
  const double firstPass = outline->plan.secondPass ? firstOfTwo : 1;
  const auto told = tellingFinish(progress, count, 0, firstPass);
  const auto along = [&](std::int64_t pictures) -> Status {
    if (stop.stop_requested()) return cancelledError();
    told(static_cast<double>(pictures) / static_cast<double>(count));
    if (!sounds) return {};
    auto sound = sounds->upTo(pictures - 1, stop);
    return sound ? (*joiner)->write(*sound) : Status(sound.error());
  };
  for (const PieceSpan& span : run.spans)
    if (auto added = (*joiner)->add(run.path(span), span.count(), along); !added) return added.error();
  if (auto finished = (*joiner)->finish({tellingFinish(progress, count, firstPass, 1), stop}); !finished) return finished.error();
  noteLoudness((*joiner)->sound(), *outline);
  outline->findings = allFindings(*settings.footage, *job->material, heard);
  return outline;
}

}  // namespace

std::size_t usualBudget() {
  return std::min<std::size_t>(machineMemory() / 4, std::size_t(4) << 30);
}

Result<RenderOutline> outlineRender(const RenderSettings& settings, std::stop_token stop) {
  return orThrown([&]() -> Result<RenderOutline> {
    const auto job = jobOf(settings, stop);
    if (!job) return job.error();
    return outlineWhole(settings, *job);
  });
}

Result<RenderOutline> render(const RenderSettings& settings, const std::function<void(const RenderProgress&)>& progress,
                             std::stop_token stop) {
  if (!settings.timeMap && holdsSoundAlone(settings.project.output.path))
    return orThrown([&]() -> Result<RenderOutline> {
      auto sound = renderSound(settings, progress, std::move(stop));
      if (!sound) return sound.error();
      RenderOutline outline;
      outline.spec.path = settings.project.output.path;
      for (const auto* const said : {&sound->findings, &sound->notes}) outline.findings.insert(outline.findings.end(), said->begin(), said->end());
      return outline;
    });
  return orThrown([&] { return renderWhole(settings, progress, std::move(stop)); });
}

Result<std::vector<std::string>> renderPieces(const RenderSettings& settings, const PieceRun& run,
                                              const std::function<void(const RenderProgress&)>& progress, std::stop_token stop) {
  return orThrown([&] { return renderRun(settings, run, progress, std::move(stop)); });
}

Result<RenderOutline> joinPieces(const RenderSettings& settings, const PieceRun& run,
                                 const std::function<void(const RenderProgress&)>& progress, std::stop_token stop) {
  return orThrown([&] { return joinAll(settings, run, progress, std::move(stop)); });
}

}  // namespace molten
