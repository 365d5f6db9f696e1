#include "core/media/sound_copy.h"

#include <algorithm>

namespace molten {

Result<std::unique_ptr<SoundCopy>> SoundCopy::open(AVFormatContext& format, const std::string& path, Rational from, Put put) {
  auto demuxer = Demuxer::open(path, AVMEDIA_TYPE_AUDIO);
  if (!demuxer) return demuxer.error();
  std::unique_ptr<SoundCopy> copy(new SoundCopy(std::move(*demuxer), std::move(put)));
  const AVStream& in = copy->demuxer_.stream();
  if (avformat_query_codec(format.oformat, in.codecpar->codec_id, FF_COMPLIANCE_NORMAL) != 1)
    return Error{"The sound of " + fileName(path) + " is " + avcodec_get_name(in.codecpar->codec_id) + ", which such a file (" +
                 format.oformat->name + ") cannot hold as it is. Write it anew with the mix, or choose another kind of file."};
  copy->stream_ = avformat_new_stream(&format, nullptr);
  if (!copy->stream_ || avcodec_parameters_copy(copy->stream_->codecpar, in.codecpar) < 0) return outOfMemoryError();
  copy->stream_->codecpar->codec_tag = 0;
  copy->stream_->time_base = in.time_base;
  const Rational tick(in.time_base.num, in.time_base.den);
  const Rational begins = copy->demuxer_.picturesBegin().value_or(
      in.start_time != AV_NOPTS_VALUE ? Rational(in.start_time) * tick : Rational(0));
  copy->from_ = ((begins + from) / tick).floor();
  if (from > Rational(0)) copy->demuxer_.seek(copy->from_);
  return copy;
}

Status SoundCopy::upTo(Rational seconds) {
  const AVStream& in = demuxer_.stream();
  const std::int64_t last = from_ + (seconds * Rational(in.time_base.den, in.time_base.num)).floor();
  while (!ended_) {
    if (!waits_ && !demuxer_.read(*packet_)) {
      ended_ = true;
      break;
    }
    waits_ = false;
    const std::int64_t begins = packet_->pts != AV_NOPTS_VALUE ? packet_->pts : packet_->dts;
    if (begins == AV_NOPTS_VALUE || begins + std::max<std::int64_t>(0, packet_->duration) <= from_) continue;
    if (begins >= last) {
      waits_ = true;
      break;
    }
    packet_->stream_index = stream_->index;
    if (packet_->pts != AV_NOPTS_VALUE) packet_->pts -= from_;
    if (packet_->dts != AV_NOPTS_VALUE) packet_->dts -= from_;
    packet_->pos = -1;
    av_packet_rescale_ts(packet_.get(), in.time_base, stream_->time_base);
    if (auto put = put_(*packet_); !put) return put;
  }
  return {};
}

}  // namespace molten
