#include "core/media/footage.h"

#include <filesystem>

#include "core/files/read_file.h"
#include "core/media/blank_reader.h"

namespace molten {
namespace {

const Rational usualStillsRate = 24;

}  // namespace

VideoDescription Footage::video(InBetween between) const {
  VideoDescription video{shape_.size, shape_.pixelAspect, clock_.rate(), clock_.length()};
  video.between = between;
  return video;
}

bool Footage::changedOnDisk(const std::stop_token& stop) const {
  if (index_ && stampOf(path_) != index_->stamp) return true;
  for (std::size_t i = 0; stills_ && i < stills_->paths.size() && !stop.stop_requested(); ++i)
    if (stills_->stamps[i] && stampOf(stills_->paths[i]) != stills_->stamps[i]) return true;
  return false;
}

std::string Footage::name() const {
  return blank_ ? "blank" : fileName(path_);
}

Status Footage::becomeBlank(const FootageProgress& progress) {
  const auto blank = parseBlank(path_);
  if (!blank)
    return Error{"\"" + path_ + "\" is no blank: write its size, rate and length like blank:1920x1080@25:10s, at most 16384 pixels a side and a day long."};
  blank_ = true;
  codec_ = "blank";
  shape_ = drawnShape(blank->size);
  clock_ = FrameClock::constant(blank->rate, blank->pictures());
  if (progress.indexed) progress.indexed(1);
  return {};
}

Status Footage::take(const FirstFrame& first, const FootageProgress& progress) {
  target_ = first.target;
  shape_ = target_.upright();
  auto picture = FrameImporter(target_).import(*first.frame);
  if (!picture) return picture.error();
  if (progress.firstPicture) progress.firstPicture(*picture);
  return {};
}

Result<std::shared_ptr<const Footage>> Footage::open(const std::string& path, const FootageOptions& options,
                                                     const FootageProgress& progress, std::stop_token stop) {
  auto footage = std::shared_ptr<Footage>(new Footage);
  footage->path_ = path;
  footage->rateAsked_ = options.rate;
  std::error_code error;
  // A clip may have a name that looks like a pattern.
  const bool isFile = std::filesystem::is_regular_file(path, error);
  if (namesBlank(path) && !isFile) {
    if (auto done = footage->becomeBlank(progress); !done) return done.error();
    return std::shared_ptr<const Footage>(footage);
  }
  if ((isStillsPattern(path) && !isFile) || std::filesystem::is_directory(path, error)) {
    auto list = listStills(path);
    if (!list) return list.error();
    if (list->missing > 0)
      footage->warnings_.push_back(
          std::to_string(list->missing) +
          " numbers are missing among the stills; the still before each gap is held through it.");
    footage->clock_ =
        FrameClock::constant(options.rate.value_or(usualStillsRate), static_cast<std::int64_t>(list->paths.size()));
    footage->codec_ = std::filesystem::path(list->paths[0]).extension().string().substr(1);
    footage->stills_ = std::make_shared<const StillsList>(std::move(*list));
    // The first still that can be read gives the shape.
    Result<FirstFrame> first = Error{};
    for (std::size_t i = 0; i < footage->stills_->paths.size() && !first; ++i) {
      if (stop.stop_requested()) return cancelledError();
      first = decodeFirstFrame(footage->stills_->paths[i], stop);
    }
    if (!first) return Error{"None of the stills at " + path + " can be read: they are damaged."};
    if (auto taken = footage->take(*first, progress); !taken) return taken.error();
    if (progress.indexed) progress.indexed(1);
    return std::shared_ptr<const Footage>(footage);
  }
  auto first = decodeFirstFrame(path, stop);
  if (!first) return first.error();
  if (auto taken = footage->take(*first, progress); !taken) return taken.error();
  auto index = indexFrames(path, progress.indexed, stop);
  if (!index) return index.error();
  footage->clock_ = index->clock.varying() && options.rate ? index->clock.countedIn(*options.rate) : index->clock;
  footage->warnings_ = index->warnings;
  footage->index_ = std::make_shared<const FrameIndex>(std::move(*index));
  if (auto demuxer = Demuxer::open(path)) footage->codec_ = avcodec_get_name(demuxer->stream().codecpar->codec_id);
  return std::shared_ptr<const Footage>(footage);
}

std::shared_ptr<const Footage> Footage::made(MadeFrom from, const PictureShape& shape, Rational rate, std::int64_t frames, NewReader newReader) {
  auto footage = std::shared_ptr<Footage>(new Footage);
  footage->path_ = std::move(from.path);
  footage->madeFrom_ = std::move(from.files);
  footage->keptIn_ = std::move(from.keptIn);
  footage->shape_ = shape;
  footage->clock_ = FrameClock::constant(rate, frames);
  footage->maker_ = std::move(newReader);
  return footage;
}

Result<std::unique_ptr<FrameReader>> Footage::newReader(int decoderThreads) const {
  if (maker_) return maker_(decoderThreads);
  if (blank_) return std::unique_ptr<FrameReader>(new BlankReader(shape_));
  if (stills_) return std::unique_ptr<FrameReader>(new StillsReader(stills_, target_, faults_));
  return VideoReader::open(path_, index_, target_, decoderThreads, faults_);
}

}  // namespace molten
