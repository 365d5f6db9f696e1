#include "core/media/video_file.h"

namespace molten {

Result<std::unique_ptr<PacketSink>> VideoFile::open(const OutputSpec& spec, const OutputPlan& plan) {
  auto muxer = Muxer::open(spec.path, spec.growing ? Muxer::Stands::Growing : Muxer::Stands::AtTheEnd);
  if (!muxer) return muxer.error();
  return std::unique_ptr<PacketSink>(new VideoFile(spec, plan, std::move(*muxer)));
}

Status VideoFile::begin(const EncodedStream* stream) {
  AVFormatContext& format = muxer_->format();
  stream_ = avformat_new_stream(&format, nullptr);
  if (!stream_ || avcodec_parameters_copy(stream_->codecpar, stream->parameters.get()) < 0) return outOfMemoryError();
  stream_->avg_frame_rate = stream_->r_frame_rate = {static_cast<int>(stream->rate.num()), static_cast<int>(stream->rate.den())};
  stream_->time_base = tick_ = av_inv_q(stream_->avg_frame_rate);
  stream_->sample_aspect_ratio = {static_cast<int>(stream->pixelAspect.num()), static_cast<int>(stream->pixelAspect.den())};
  if (stream->alphaBeside) av_dict_set(&stream_->metadata, "alpha_mode", "1", 0);
  const auto intoMuxer = [this](AVPacket& packet) { return muxer_->put(packet); };
  if (spec_.sound) {
    auto track = SoundTrack::open(format, muxer_->extension(), intoMuxer);
    if (!track) return track.error();
    track_ = std::move(*track);
  } else if (!spec_.soundOf.empty()) {
    auto copy = SoundCopy::open(format, spec_.soundOf, spec_.soundFrom, intoMuxer);
    if (!copy) return copy.error();
    copy_ = std::move(*copy);
  }
  return muxer_->begin(plan_.codec->label);
}

Status VideoFile::put(AVPacket& packet) {
  packet.stream_index = stream_->index;
  av_packet_rescale_ts(&packet, tick_, stream_->time_base);
  return muxer_->put(packet);
}

Status VideoFile::upTo(std::int64_t pictures) {
  return copy_ ? copy_->upTo(Rational(pictures) / spec_.rate) : Status();
}

Status VideoFile::finish(std::vector<SafeFile> beside, const FinishWatch&) {
  if (track_)
    if (auto flushed = track_->finish(); !flushed) return flushed;
  if (auto finished = muxer_->finish(); !finished) return finished;
  beside.push_back(muxer_->takeFile());
  return commitTogether(std::move(beside));
}

}  // namespace molten
