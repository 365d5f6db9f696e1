#include "core/media/sound_track.h"

#include "core/media/plain_processor.h"

#include <algorithm>
#include <cmath>
#include <cstring>

namespace molten {
namespace {

struct Kind {
  const char* extension;
  const char* encoder;
  const char* label;
  std::int64_t bitRate;  ///< bits a second; 0: without loss
};
constexpr Kind trackKinds[] = {
    {".mp4", "aac", "AAC", 256'000},        {".mov", "pcm_s24le", "PCM, 24-bit", 0},
    {".mkv", "flac", "FLAC", 0},            {".webm", "libopus", "Opus", 192'000},
    {".wav", "pcm_s24le", "PCM, 24-bit", 0}, {".flac", "flac", "FLAC", 0},
};
constexpr int losslessBits = 24;
/// Samples a frame, of encoders that take any number.
constexpr std::size_t usualFrame = 4096;

const Kind* kindOf(const std::string& extension) {
  const auto* const at = std::find_if(std::begin(trackKinds), std::end(trackKinds), [&](const Kind& k) { return extension == k.extension; });
  return at == std::end(trackKinds) ? nullptr : at;
}

/// As a whole number of 24 bits, in the upper ones of 32.
std::int32_t wholeOf(float value) {
  constexpr float scale = 1 << (losslessBits - 1);
  const float scaled = std::clamp(std::nearbyint(value * scale), -scale, scale - 1);
  return static_cast<std::int32_t>(static_cast<std::uint32_t>(static_cast<std::int32_t>(scaled)) << (32 - losslessBits));
}

}  // namespace

std::string soundIn(const std::string& extension) {
  const Kind* const kind = kindOf(extension);
  return kind ? kind->label : "";
}

Result<std::unique_ptr<SoundTrack>> SoundTrack::open(AVFormatContext& format, const std::string& extension, Put put) {
  const Kind* const kind = kindOf(extension);
  if (!kind) return Error{"Files ending in " + extension + " hold no sound."};
  const AVCodec* const codec = avcodec_find_encoder_by_name(kind->encoder);
  if (!codec) return Error{std::string(kind->label) + " cannot be written here: its encoder is not installed."};
  std::unique_ptr<SoundTrack> track(new SoundTrack(std::move(put)));
  AVCodecContext& encoder = *(track->encoder_ = AvHandle<AVCodecContext>(avcodec_alloc_context3(codec)));
  encoder.sample_rate = soundRate;
  encoder.time_base = {1, soundRate};
  encoder.ch_layout = AV_CHANNEL_LAYOUT_STEREO;
  encoder.sample_fmt = kind->bitRate == 0           ? AV_SAMPLE_FMT_S32
                       : codec->id == AV_CODEC_ID_AAC ? AV_SAMPLE_FMT_FLTP
                                                      : AV_SAMPLE_FMT_FLT;
  if (kind->bitRate == 0) encoder.bits_per_raw_sample = losslessBits;
  encoder.bit_rate = kind->bitRate;
  if (format.oformat->flags & AVFMT_GLOBALHEADER) encoder.flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
  const int opened = [&] {
    const PlainProcessor plain;
    return avcodec_open2(&encoder, codec, nullptr);
  }();
  if (opened < 0)
    return Error{std::string(kind->label) + " cannot be written here (" + avErrorText(opened) + ")."};
  track->stream_ = avformat_new_stream(&format, nullptr);
  if (!track->stream_) return outOfMemoryError();
  avcodec_parameters_from_context(track->stream_->codecpar, &encoder);
  track->stream_->time_base = encoder.time_base;
  return track;
}

Status SoundTrack::write(const Sound& sound) {
  const std::span<const float> values = sound.values();
  for (std::size_t i = 0; i < values.size(); ++i)
    if (const float loud = std::abs(values[i]); loud > loudest_)
      loudest_ = loud, loudestAt_ = samples_ + static_cast<std::int64_t>(i) / soundChannels;
  loudness_.add(sound);
  samples_ += static_cast<std::int64_t>(sound.samples());
  waiting_.insert(waiting_.end(), values.begin(), values.end());
  const std::size_t frame = encoder_->frame_size > 0 ? static_cast<std::size_t>(encoder_->frame_size) : usualFrame;
  while (waiting_.size() >= frame * soundChannels)
    if (auto encoded = encode(frame); !encoded) return encoded;
  return {};
}

Status SoundTrack::finish() {
  if (!waiting_.empty())
    if (auto encoded = encode(waiting_.size() / soundChannels); !encoded) return encoded;
  avcodec_send_frame(encoder_.get(), nullptr);
  return drain();
}

Status SoundTrack::encode(std::size_t samples) {
  auto frame = newFrame();
  frame->format = encoder_->sample_fmt;
  frame->ch_layout = encoder_->ch_layout;
  frame->sample_rate = soundRate;
  frame->nb_samples = static_cast<int>(samples);
  if (av_frame_get_buffer(frame.get(), 0) < 0) return outOfMemoryError();
  const bool planar = av_sample_fmt_is_planar(encoder_->sample_fmt) != 0, whole = encoder_->sample_fmt == AV_SAMPLE_FMT_S32;
  for (std::size_t i = 0; i < samples; ++i)
    for (std::size_t c = 0; c < soundChannels; ++c) {
      const float value = std::clamp(waiting_[i * soundChannels + c], -1.0f, 1.0f);
      std::uint8_t* const to = planar ? frame->data[c] + i * 4 : frame->data[0] + (i * soundChannels + c) * 4;
      const std::int32_t number = wholeOf(value);
      std::memcpy(to, whole ? static_cast<const void*>(&number) : &value, 4);
    }
  waiting_.erase(waiting_.begin(), waiting_.begin() + static_cast<std::ptrdiff_t>(samples * soundChannels));
  frame->pts = encoded_;
  encoded_ += static_cast<std::int64_t>(samples);
  if (const int sent = avcodec_send_frame(encoder_.get(), frame.get()); sent < 0)
    return Error{"The sound could not be encoded (" + avErrorText(sent) + ")."};
  return drain();
}

Status SoundTrack::drain() {
  while (avcodec_receive_packet(encoder_.get(), packet_.get()) >= 0) {
    packet_->stream_index = stream_->index;
    av_packet_rescale_ts(packet_.get(), encoder_->time_base, stream_->time_base);
    if (auto put = put_(*packet_); !put) return put;
  }
  return {};
}

}  // namespace molten
