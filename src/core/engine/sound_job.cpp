#include "core/engine/sound_job.h"

#include <filesystem>

#include "core/engine/source_material.h"
#include "core/files/safe_file.h"
#include "core/media/footage.h"
#include "core/media/muxer.h"
#include "core/number_text.h"
#include "core/project/files_read.h"

namespace molten {
namespace {

/// Pictures' worth of sound that is made at a time.
constexpr std::int64_t picturesALot = 25;

}  // namespace

Result<std::optional<Heard>> heardIn(const RenderSettings& settings, const Played& played, const DescribeSource& describe,
                             const std::shared_ptr<MemoryBudget>& budget) {
  if (settings.sound != SoundWish::Mix || settings.timeMap) return std::optional<Heard>();
  SoundFiles files(budget, Outline::No);
  const Project& project = settings.project;
  Heard heard = heardOf(project, played, readingsOf(project, played, settings.footage->video(project.source.between), describe), files);
  if (heard.missing) return Error{heard.missing->message + " It is among the sounds that are mixed: find it, or switch it off there."};
  if (heard.own.empty() && heard.laid.empty()) return std::optional<Heard>();
  return std::optional(std::move(heard));
}

Result<Sound> SoundWriting::upTo(std::int64_t k, std::stop_token stop) {
  const std::int64_t end = samplesBefore(first_ + k + 1, rate_);
  Sound sound(static_cast<std::size_t>(end - at_));
  if (auto read = mix_->read(at_, sound, std::move(stop)); !read) return read.error();
  at_ = end;
  return sound;
}

std::string loudnessOf(const SoundTrack& track) {
  if (track.loudest() <= 0) return {};
  const std::string peak = fixedText(decibelsOf(track.loudest()), 1) + " dB";
  if (const auto whole = track.loudness().whole()) return "The sound's loudness is " + fixedText(*whole, 1) + " LUFS, its loudest sample " + peak + ".";
  return "The sound's loudest sample is " + peak + "; it is too short or too soft for a loudness.";
}

std::string tooLoud(const SoundTrack& track) {
  if (track.loudest() <= 1) return {};
  return "The sound goes " + fixedText(decibelsOf(track.loudest()), 1) + " dB over full scale, most at " +
         fixedText(static_cast<double>(track.loudestAt()) / soundRate, 2) + " s, and was cut there: lower it by as much.";
}

bool holdsSoundAlone(const std::string& path) {
  const std::string extension = std::filesystem::path(path).extension().string();
  return extension == ".wav" || extension == ".flac";
}

Result<SoundRendered> renderSound(const RenderSettings& settings, const std::function<void(const RenderProgress&)>& progress, std::stop_token stop) {
  const std::string& path = settings.project.output.path;
  for (const Project* const project : {&settings.project, settings.open ? &*settings.open : nullptr})
    if (project && FilesRead(*project).holds(path))
      return Error{fileName(path) + " is part of what the project reads; choose another name or folder for the result."};
  const auto budget = std::make_shared<MemoryBudget>(settings.memoryBytes);
  SourceMaterial material(std::make_shared<Sources>(settings.footage, budget, 1), 1, stop);
  const DescribeSource describe = describedBy(material);
  const auto played = playedOf(settings.project, settings.footage->video(settings.project.source.between), describe);
  if (!played) return played.error();
  const Piece& piece = played->piece;
  auto found = heardIn(settings, *played, describe, budget);
  if (!found) return found.error();
  const std::optional<Heard> heard = std::move(*found);
  if (!heard) return Error{"There is no sound to write: the footage has none, and none is laid."};
  const Span whole = spanOf(settings.project, piece.length);
  const Span wished = settings.pictures.value_or(Span{0, whole.count() - 1});
  if (wished.first < 0 || wished.last < wished.first || wished.first >= whole.count())
    return Error{"The result has the frames 0 to " + std::to_string(whole.count() - 1) + "; " + std::to_string(wished.first) + "-" +
                 std::to_string(wished.last) + " is not among them."};
  const Span span{whole.first + wished.first, std::min(whole.first + wished.last, whole.last)};
  auto muxer = Muxer::open(path);
  if (!muxer) return muxer.error();
  auto track = SoundTrack::open((*muxer)->format(), (*muxer)->extension(), [&](AVPacket& packet) { return (*muxer)->put(packet); });
  if (!track) return track.error();
  if (auto begun = (*muxer)->begin(soundIn((*muxer)->extension())); !begun) return begun.error();
  SoundWriting writing(heard->mix, span.first, piece.rate);
  for (std::int64_t k = 0; k < span.count(); k = std::min(k + picturesALot, span.count())) {
    const std::int64_t last = std::min(k + picturesALot, span.count()) - 1;
    auto sound = writing.upTo(last, stop);
    if (!sound) return sound.error();
    if (auto written = (*track)->write(*sound); !written) return written.error();
    if (progress) progress({last + 1, span.count(), 0});
  }
  if (auto finished = (*track)->finish(); !finished) return finished.error();
  if (auto finished = (*muxer)->finish(); !finished) return finished.error();
  std::vector<SafeFile> files;
  files.push_back((*muxer)->takeFile());
  if (auto done = commitTogether(std::move(files)); !done) return done.error();
  SoundRendered rendered{{}, findingsOf(*heard)};
  for (std::string said : {loudnessOf(**track), tooLoud(**track)})
    if (!said.empty()) rendered.notes.push_back(std::move(said));
  return rendered;
}

}  // namespace molten
