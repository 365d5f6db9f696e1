#include "core/media/muxer.h"

#include <cerrno>
#include <filesystem>

namespace molten {

int Muxer::write(void* opaque, AvWrittenBytes bytes, int count) {
  auto& sink = *static_cast<Sink*>(opaque);
  if (sink.failed) return AVERROR(EIO);
  if (auto put = sink.file.write({bytes, static_cast<std::size_t>(count)}); !put) {
    if (!sink.failed) sink.failed = put.error();
    return AVERROR(EIO);
  }
  return count;
}

std::int64_t Muxer::seek(void* opaque, std::int64_t offset, int whence) {
  if (whence & AVSEEK_SIZE) return AVERROR(ENOSYS);
  const auto at = static_cast<Sink*>(opaque)->file.seek(offset, whence & ~AVSEEK_FORCE);
  return at < 0 ? AVERROR(errno) : at;
}

Result<std::unique_ptr<Muxer>> Muxer::open(const std::string& path, Stands stands) {
  auto file = stands == Stands::Growing ? SafeFile::growing(path) : SafeFile::create(path);
  if (!file) return file.error();
  std::unique_ptr<Muxer> muxer(new Muxer(std::move(*file)));
  muxer->growing_ = stands == Stands::Growing;
  muxer->extension_ = std::filesystem::path(path).extension().string();
  const AVOutputFormat* const kind = av_guess_format(nullptr, ("x" + muxer->extension_).c_str(), nullptr);
  if (avformat_alloc_output_context2(&muxer->format_, kind, nullptr, nullptr) < 0)
    return Error{"Files ending in " + muxer->extension_ + " cannot be written here."};
  constexpr int bufferBytes = 1 << 18;
  muxer->io_ = avio_alloc_context(static_cast<std::uint8_t*>(av_malloc(bufferBytes)), bufferBytes, 1, &muxer->sink_, nullptr,
                                  &Muxer::write, &Muxer::seek);
  muxer->format_->pb = muxer->io_;
  muxer->format_->flags |= AVFMT_FLAG_CUSTOM_IO | AVFMT_FLAG_BITEXACT;
  return muxer;
}

Muxer::~Muxer() {
  if (begun_ && !ended_) {
    // Some kinds of file let go of the picture before only at their end, which goes nowhere.
    if (!sink_.failed) sink_.failed = cancelledError();
    av_write_trailer(format_);
  }
  if (io_) {
    av_freep(&io_->buffer);
    avio_context_free(&io_);
  }
  if (format_) {
    format_->pb = nullptr;
    avformat_free_context(format_);
  }
}

Status Muxer::begin(const std::string& what) {
  AVDictionary* options = nullptr;
  if (extension_ == ".mp4" || extension_ == ".mov")
    av_dict_set(&options, "movflags", growing_ ? "+write_colr+frag_keyframe+empty_moov+default_base_moof" : "+write_colr", 0);
  if (growing_) format_->flags |= AVFMT_FLAG_FLUSH_PACKETS;
  const int written = avformat_write_header(format_, &options);
  av_dict_free(&options);
  begun_ = written >= 0;
  if (begun_) return {};
  return sink_.failed ? failed()
                      : Error{what + " cannot be put into a " + extension_ + " file (" + avErrorText(written) + ")."};
}

Status Muxer::put(AVPacket& packet) {
  if (av_interleaved_write_frame(format_, &packet) < 0 || sink_.failed) return failed();
  return {};
}

Status Muxer::finish() {
  ended_ = true;
  if (av_write_trailer(format_) < 0 || format_->pb->error < 0 || sink_.failed) return failed();
  avio_flush(format_->pb);
  if (sink_.failed) return failed();
  return {};
}

}  // namespace molten
