#include "core/media/decoder_watch.h"

#include <algorithm>
#include <string_view>

#include "core/machine.h"
#include "core/media/demuxer.h"

extern "C" {
#include <libavutil/imgutils.h>
#include <libavutil/log.h>
}

namespace molten {
namespace {

/// A picture is in memory about so often, from the file to the screen or to another file.
constexpr std::size_t copies = 8;

/// Decoders tell of damage in words only. They are for us, not for the screen.
void hear(void* speaker, int level, const char* words, va_list values) {
  if (level > AV_LOG_ERROR || !speaker) return;
  const bool size = std::string_view(words).starts_with("Picture size %ux%u");
  const AVClass* const kind = *static_cast<const AVClass**>(speaker);
  // A size is refused in the decoder's name.
  if (size && kind->parent_log_context_offset > 0)
    speaker = *reinterpret_cast<void**>(static_cast<char*>(speaker) + kind->parent_log_context_offset);
  if (!speaker || *static_cast<const AVClass**>(speaker) != avcodec_get_class()) return;
  // A frame that was to be forgotten is not known: so it is after any jump, and nothing is lost.
  if (std::string_view(words).starts_with("mmco")) return;
  const auto* const decoder = static_cast<const AVCodecContext*>(speaker);
  if (!decoder->opaque) return;
  const auto& announced = *static_cast<const DecoderWatch::Announced*>(decoder->opaque);
  if (size) {
    const auto width = va_arg(values, unsigned), height = va_arg(values, unsigned);
    announced.watch->refuse({static_cast<int>(width), static_cast<int>(height)});
  } else {
    announced.watch->complain(announced.packet);
  }
}

}  // namespace

void DecoderWatch::attach(AVCodecContext& decoder) {
  [[maybe_unused]] static const bool heard = (av_log_set_callback(hear), true);
  decoder.get_buffer2 = give;
  // A decoder that chooses its number of threads by itself takes 16 at most.
  constexpr int mostChosen = 16;
  announced_.assign(static_cast<std::size_t>(std::max(decoder.thread_count, mostChosen)) + 2, {this, -1});
  decoder.opaque = announced_.data();
  decoder.err_recognition |= AV_EF_CRCCHECK;
}

void DecoderWatch::announce(AVCodecContext& decoder, std::int64_t number) {
  next_ = (next_ + 1) % announced_.size();
  announced_[next_].packet = number;
  decoder.opaque = &announced_[next_];
}

void DecoderWatch::complain(std::int64_t packet) {
  const std::scoped_lock lock(mutex_);
  complaints_.insert(packet);
}

void DecoderWatch::refuse(Size size) {
  const std::scoped_lock lock(mutex_);
  refused_ = size;
}

Size DecoderWatch::refused() const {
  const std::scoped_lock lock(mutex_);
  return refused_;
}

bool DecoderWatch::complainedOf(std::int64_t packet) {
  const std::scoped_lock lock(mutex_);
  return complaints_.erase(packet) > 0;
}

int DecoderWatch::give(AVCodecContext* decoder, AVFrame* frame, int flags) {
  const std::int64_t pixels = std::int64_t(frame->width) * frame->height;
  const int bytes = av_image_get_buffer_size(static_cast<AVPixelFormat>(frame->format), frame->width, frame->height, 1);
  if (pixels > largestPicture || bytes < 0 || static_cast<std::size_t>(bytes) > machineMemory() / copies) {
    static_cast<const Announced*>(decoder->opaque)->watch->refuse({frame->width, frame->height});
    return AVERROR(ENOMEM);
  }
  return avcodec_default_get_buffer2(decoder, frame, flags);
}

Error DecoderWatch::sentence(const std::string& name, Size refused) {
  const std::string size = std::to_string(refused.width) + " × " + std::to_string(refused.height);
  if (std::int64_t(refused.width) * refused.height > largestPicture)
    return Error{name + " has pictures of " + size + " pixels; more than 32768 × 16384 is not worked on."};
  return Error{name + " has pictures of " + size + " pixels: more than can be decoded and held on this machine."};
}

}  // namespace molten
