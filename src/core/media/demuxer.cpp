#include "core/media/demuxer.h"

#include <sys/stat.h>
#include <unistd.h>

#include <cerrno>
#include <filesystem>
#include <string_view>
#include <vector>

#include "core/files/read_file.h"
#include "core/media/decoder_watch.h"

namespace molten {
namespace {

constexpr int ioBufferBytes = 1 << 16;

int readFile(void* opaque, std::uint8_t* buffer, int bytes) {
  const ssize_t got =
      ::read(static_cast<int>(reinterpret_cast<std::intptr_t>(opaque)), buffer, static_cast<std::size_t>(bytes));
  return got > 0 ? static_cast<int>(got) : got == 0 ? AVERROR_EOF : AVERROR(errno);
}

std::int64_t seekFile(void* opaque, std::int64_t offset, int whence) {
  const int file = static_cast<int>(reinterpret_cast<std::intptr_t>(opaque));
  if (whence & AVSEEK_SIZE) {
    struct stat info {};
    return fstat(file, &info) == 0 ? info.st_size : AVERROR(errno);
  }
  const auto at = ::lseek(file, offset, whence & ~AVSEEK_FORCE);
  return at < 0 ? AVERROR(errno) : at;
}

/// Every file that a demuxer would open beside the one it was given.
int refuseToOpen(AVFormatContext*, AVIOContext**, const char*, int, AVDictionary**) {
  return AVERROR(EACCES);
}

/// Kinds that are lists of other places, or text taken for pictures.
bool refusedKind(const AVInputFormat& kind) {
  static constexpr std::string_view refused[] = {
      "concat",     "hls", "applehttp", "dash", "sdp", "rtsp",       "rtp",         "imf",   "image2",
      "tty",        "bin", "xbin",      "adf",  "idf", "ffmetadata", "tedcaptions", "lavfi", "webm_dash_manifest",
      "vapoursynth"};
  const std::string_view names = kind.name;
  for (const auto name : refused) {
    std::size_t from = 0;
    while (from <= names.size()) {
      const auto comma = std::min(names.find(',', from), names.size());
      if (names.substr(from, comma - from) == name) return true;
      from = comma + 1;
    }
  }
  return (kind.flags & AVFMT_NOFILE) != 0;
}

}  // namespace

Result<Demuxer> Demuxer::open(const std::string& path, AVMediaType wanted) {
  const bool sound = wanted == AVMEDIA_TYPE_AUDIO;
  const std::string name = fileName(path);
  std::error_code none;
  const std::filesystem::file_status there = std::filesystem::status(path, none);
  if (there.type() == std::filesystem::file_type::not_found)
    return noSuchFile(path);
  if (std::filesystem::is_directory(there))
    return Error{name + (sound ? " is a folder; choose a sound file." : " is a folder without numbered stills; choose a clip, or a folder of pictures.")};
  auto opened = OpenFile::open(path);
  if (!opened) return opened.error();
  if (opened->size() == 0) return Error{name + " is empty: there is no " + (sound ? "sound" : "picture") + " in it."};
  Demuxer demuxer;
  demuxer.path_ = path;
  demuxer.fileSize_ = opened->size();
  const int file = opened->release();
  demuxer.io_ =
      avio_alloc_context(static_cast<std::uint8_t*>(av_malloc(ioBufferBytes)), ioBufferBytes, 0,
                         reinterpret_cast<void*>(static_cast<std::intptr_t>(file)), readFile, nullptr, seekFile);
  const AVInputFormat* kind = nullptr;
  const int score = av_probe_input_buffer2(demuxer.io_, &kind, path.c_str(), nullptr, 0, 0);
  if (score < 0 || !kind) return Error{name + " is not " + (sound ? "sound" : "footage") + " that can be read: its kind is not known."};
  if (refusedKind(*kind))
    return Error{name + " is a list or a text, not footage itself; open the clips that it names one by one."};

  demuxer.format_ = avformat_alloc_context();
  demuxer.format_->pb = demuxer.io_;
  demuxer.format_->io_open = refuseToOpen;
  demuxer.format_->flags |= AVFMT_FLAG_CUSTOM_IO;
  AVDictionary* options = nullptr;
  av_dict_set(&options, "protocol_whitelist", "none", 0);
  const int begun = avformat_open_input(&demuxer.format_, path.c_str(), kind, &options);
  av_dict_free(&options);
  if (begun < 0) return Error{name + " cannot be read: it is damaged or cut short (" + avErrorText(begun) + ")."};
  // To learn what there is, pictures are decoded: none that would not be worked on.
  std::vector<AVDictionary*> perStream(demuxer.format_->nb_streams, nullptr);
  for (AVDictionary*& one : perStream) av_dict_set_int(&one, "max_pixels", largestPicture, 0);
  avformat_find_stream_info(demuxer.format_, perStream.data());
  for (AVDictionary*& one : perStream) av_dict_free(&one);
  const int index = av_find_best_stream(demuxer.format_, wanted, -1, -1, nullptr, 0);
  if (index < 0) return Error{name + (sound ? " has no sound in it." : " has no pictures in it, only sound or data.")};
  demuxer.streamIndex_ = index;
  for (unsigned i = 0; i < demuxer.format_->nb_streams; ++i)
    if (static_cast<int>(i) != index) demuxer.format_->streams[i]->discard = AVDISCARD_ALL;
  return demuxer;
}

Demuxer::Demuxer(Demuxer&& other) noexcept
    : format_(std::exchange(other.format_, nullptr)),
      io_(std::exchange(other.io_, nullptr)),
      streamIndex_(other.streamIndex_),
      path_(std::move(other.path_)),
      fileSize_(other.fileSize_) {}

Demuxer::~Demuxer() {
  avformat_close_input(&format_);
  if (!io_) return;
  ::close(static_cast<int>(reinterpret_cast<std::intptr_t>(io_->opaque)));
  av_freep(&io_->buffer);
  avio_context_free(&io_);
}

Result<AvHandle<AVCodecContext>> Demuxer::decoder(int threads, DecoderWatch* watch) const {
  const AVCodecParameters& parameters = *stream().codecpar;
  const AVCodec* codec = avcodec_find_decoder(parameters.codec_id);
  // Alpha in WebM lies beside the picture, where only this decoder looks.
  const AVDictionaryEntry* alpha = av_dict_get(stream().metadata, "alpha_mode", nullptr, 0);
  if (alpha && std::string_view(alpha->value) == "1" && parameters.codec_id == AV_CODEC_ID_VP9)
    if (const AVCodec* withAlpha = avcodec_find_decoder_by_name("libvpx-vp9")) codec = withAlpha;
  if (!codec)
    return Error{fileName(path_) + " uses the codec " + avcodec_get_name(parameters.codec_id) +
                 ", which cannot be decoded here. Convert it first, to ProRes or H.264 for instance."};
  AvHandle<AVCodecContext> context(avcodec_alloc_context3(codec));
  avcodec_parameters_to_context(context.get(), &parameters);
  context->thread_count = threads;
  context->pkt_timebase = {1, 1000000};
  if (watch) watch->attach(*context);
  if (const int opened = avcodec_open2(context.get(), codec, nullptr); opened < 0)
    return Error{fileName(path_) + " cannot be decoded (" + avErrorText(opened) + ")."};
  return context;
}

bool Demuxer::read(AVPacket& packet) {
  int failures = 0;
  for (;;) {
    av_packet_unref(&packet);
    const int got = av_read_frame(format_, &packet);
    if (got == AVERROR(EAGAIN) || (got == AVERROR_INVALIDDATA && ++failures < 64)) continue;
    if (got < 0) return false;
    if (packet.stream_index == streamIndex_) return true;
  }
}

std::optional<Rational> Demuxer::picturesBegin() const {
  const int index = av_find_best_stream(format_, AVMEDIA_TYPE_VIDEO, -1, -1, nullptr, 0);
  if (index < 0) return std::nullopt;
  const AVStream& pictures = *format_->streams[index];
  if (pictures.disposition & AV_DISPOSITION_ATTACHED_PIC || pictures.start_time == AV_NOPTS_VALUE) return std::nullopt;
  return Rational(pictures.start_time) * Rational(pictures.time_base.num, pictures.time_base.den);
}

bool Demuxer::seek(std::int64_t timestamp) {
  return av_seek_frame(format_, streamIndex_, timestamp, AVSEEK_FLAG_BACKWARD) >= 0;
}

}  // namespace molten
