#include "core/media/video_reader.h"

#include <algorithm>
#include <cmath>

#include "core/media/av_versions.h"

extern "C" {
#include <libavutil/display.h>
#include <libavutil/pixdesc.h>
}

namespace molten {
namespace {

/// A picture that keeps the decoder's own buffer.
Picture borrow(const AVFrame& frame, const PictureShape& shape) {
  AVFrame* held = av_frame_clone(&frame);
  std::shared_ptr<const void> owner(held, [](const void* p) {
    auto* f = const_cast<AVFrame*>(static_cast<const AVFrame*>(p));
    av_frame_free(&f);
  });
  std::array<Picture::Plane, 4> planes{};
  for (std::size_t p = 0; p < 4; ++p) planes[p] = {held->data[p], held->linesize[p]};
  return {shape, planes, std::move(owner)};
}

bool fullRange(const AVFrame& frame) {
  const auto format = static_cast<AVPixelFormat>(frame.format);
  return impliesFullRange(format) || frame.color_range == AVCOL_RANGE_JPEG;
}

/// Clockwise degrees (0, 90, 180, 270) by which the stream asks to be turned.
int uprightTurn(const AVStream& stream) {
  const std::int32_t* const matrix = displayMatrix(stream);
  if (!matrix) return 0;
  const double theta = -av_display_rotation_get(matrix);
  if (std::isnan(theta)) return 0;
  return ((static_cast<int>(std::lround(theta / 90)) % 4 + 4) % 4) * 90;
}

/// How many packets may be decoded to reach a frame before a jump to its key packet is the quicker way.
constexpr std::int32_t shortWay = 12;
/// A frame that has not come out when one this much later has, will not come.
constexpr std::int32_t patience = 40;

}  // namespace

ImportTarget ImportTarget::of(const AVFrame& first, Rational pixelAspect, int degrees) {
  ImportTarget target;
  target.degrees = degrees;
  PictureShape& shape = target.decoded;
  shape.format = exactFormat(static_cast<AVPixelFormat>(first.format));
  if (!turnable(shape.format, degrees)) shape.format.shiftX = shape.format.shiftY = 0;
  shape.size = {first.width, first.height};
  shape.pixelAspect = pixelAspect;
  shape.colour = {fullRange(first) ? AVCOL_RANGE_JPEG : first.color_range, first.colorspace, first.color_primaries,
                  first.color_trc, first.chroma_location};
  if (shape.format.model == ColourModel::Gray && first.color_range == AVCOL_RANGE_UNSPECIFIED)
    shape.colour.range = AVCOL_RANGE_JPEG;
  return target;
}

PictureShape ImportTarget::upright() const {
  return turnedShape(decoded, degrees);
}

Result<FirstFrame> decodeFirstFrame(const std::string& path, std::stop_token stop) {
  auto demuxer = Demuxer::open(path);
  if (!demuxer) return demuxer.error();
  const AVCodecParameters& parameters = *demuxer->stream().codecpar;
  if (std::int64_t(parameters.width) * parameters.height > largestPicture)
    return DecoderWatch::sentence(fileName(path), {parameters.width, parameters.height});
  DecoderWatch watch;
  auto decoder = demuxer->decoder(1, &watch);
  if (!decoder) return decoder.error();
  auto packet = newPacket();
  auto frame = newFrame();
  for (bool more = true; more;) {
    if (stop.stop_requested()) return cancelledError();
    more = demuxer->read(*packet);
    avcodec_send_packet(decoder->get(), more ? packet.get() : nullptr);
    av_packet_unref(packet.get());
    const bool got = avcodec_receive_frame(decoder->get(), frame.get()) >= 0;
    if (watch.refused().width > 0) return DecoderWatch::sentence(fileName(path), watch.refused());
    if (!got) continue;
    const AVRational aspect = av_guess_sample_aspect_ratio(const_cast<AVFormatContext*>(&demuxer->format()),
                                                           const_cast<AVStream*>(&demuxer->stream()), frame.get());
    const Rational pixelAspect = aspect.num > 0 && aspect.den > 0 ? Rational(aspect.num, aspect.den) : Rational(1);
    auto target = ImportTarget::of(*frame, pixelAspect, uprightTurn(demuxer->stream()));
    return FirstFrame{std::move(frame), std::move(target), watch.complainedOf(-1)};
  }
  return Error{fileName(path) + " holds no frame that can be decoded: it is cut short or damaged."};
}

Result<Picture> FrameImporter::planar(const AVFrame& frame) {
  const auto format = static_cast<AVPixelFormat>(frame.format);
  PictureShape own = target_.decoded;
  own.size = {frame.width, frame.height};
  const auto plain = avFormat(own.format);
  const bool same = plain && (*plain == format || (exactFormat(format) == own.format &&
                                                   std::string_view(av_get_pix_fmt_name(format)).starts_with("yuvj")));
  Picture picture;
  if (same) {
    picture = borrow(frame, own);
  } else {
    auto imported = layout_.import(frame.data, frame.linesize, format, fullRange(frame), own);
    if (!imported) return imported;
    picture = *imported;
  }
  return own.size == target_.decoded.size ? Result<Picture>(picture) : size_.convert(picture, target_.decoded);
}

Result<Picture> FrameImporter::import(const AVFrame& frame) {
  auto picture = planar(frame);
  if (!picture) return picture;
  return turned(*picture, target_.degrees);
}

Result<std::unique_ptr<FrameReader>> VideoReader::open(const std::string& path, std::shared_ptr<const FrameIndex> index,
                                                       const ImportTarget& target, int threads,
                                                       std::shared_ptr<FrameFaults> faults) {
  auto demuxer = Demuxer::open(path);
  if (!demuxer) return demuxer.error();
  auto watch = std::make_unique<DecoderWatch>();
  auto decoder = demuxer->decoder(threads, watch.get());
  if (!decoder) return decoder.error();
  return std::unique_ptr<FrameReader>(new VideoReader(std::move(*demuxer), std::move(watch), std::move(*decoder),
                                                      std::move(index), target, std::move(faults)));
}

VideoReader::VideoReader(Demuxer demuxer, std::unique_ptr<DecoderWatch> watch, AvHandle<AVCodecContext> decoder,
                         std::shared_ptr<const FrameIndex> index, const ImportTarget& target,
                         std::shared_ptr<FrameFaults> faults)
    : demuxer_(std::make_unique<Demuxer>(std::move(demuxer))),
      watch_(std::move(watch)),
      decoder_(std::move(decoder)),
      index_(std::move(index)),
      importer_(target),
      faults_(std::move(faults)) {
  const AVCodecDescriptor* const codec = avcodec_descriptor_get(decoder_->codec_id);
  intraOnly_ = codec && codec->props & AV_CODEC_PROP_INTRA_ONLY;
  missing_.resize(index_->frames.size());
}

/// Back to the first packet, whatever the file can do.
bool VideoReader::restart() {
  auto fresh = Demuxer::open(demuxer_->path());
  if (!fresh) return false;
  demuxer_ = std::make_unique<Demuxer>(std::move(*fresh));
  av_packet_unref(packet_.get());
  packetHeld_ = false;
  nextPacket_ = 0;
  return true;
}

/// After a jump into the file: reads on until a packet is known from the index, and on to the wanted one.
bool VideoReader::locate(std::int32_t packet) {
  const auto known = [&](std::int32_t i) {
    const IndexedPacket& p = index_->packets[static_cast<std::size_t>(i)];
    if (p.size != packet_->size) return false;
    return p.pts != AV_NOPTS_VALUE ? p.pts == packet_->pts : p.pos >= 0 && p.pos == packet_->pos;
  };
  for (int tries = 0; tries < 64 && demuxer_->read(*packet_); ++tries) {
    // Jumps land at the wanted packet or a little before it.
    for (std::int32_t i = packet; i >= 0; --i) {
      if (!known(i)) continue;
      packetHeld_ = true;
      nextPacket_ = i;
      while (nextPacket_ < packet) {
        if (!demuxer_->read(*packet_)) return false;
        ++nextPacket_;
      }
      return true;
    }
    av_packet_unref(packet_.get());
  }
  return false;
}

bool VideoReader::goTo(std::int32_t packet) {
  avcodec_flush_buffers(decoder_.get());
  ended_ = false;
  shownUpTo_ = -1;
  av_packet_unref(packet_.get());
  packetHeld_ = false;
  nextPacket_ = -1;
  const IndexedPacket& wanted = index_->packets[static_cast<std::size_t>(packet)];
  sureFrom_ = packet;
  if (packet > 0 && !intraOnly_)
    do ++sureFrom_;
    while (sureFrom_ < static_cast<std::int32_t>(index_->packets.size()) &&
           !index_->packets[static_cast<std::size_t>(sureFrom_)].key);
  if (packet > 0) {
    for (const std::int64_t stamp : {wanted.dts, wanted.pts})
      if (stamp != AV_NOPTS_VALUE && demuxer_->seek(stamp) && locate(packet)) return true;
  }
  if (!restart()) return false;
  while (nextPacket_ < packet) {
    if (!demuxer_->read(*packet_)) return false;
    av_packet_unref(packet_.get());
    ++nextPacket_;
  }
  return true;
}

void VideoReader::feed(std::int32_t wanted) {
  const bool more = packetHeld_ || demuxer_->read(*packet_);
  packetHeld_ = false;
  if (!more) {
    avcodec_send_packet(decoder_.get(), nullptr);
    ended_ = true;
    return;
  }
  const std::int32_t frame = nextPacket_ < static_cast<std::int32_t>(index_->packets.size())
                                 ? index_->packets[static_cast<std::size_t>(nextPacket_)].frame
                                 : -1;
  const bool passed = passOver_ > 0 && frame >= 0 && frame < wanted - passOver_;
  decoder_->skip_frame = passed ? AVDISCARD_NONREF : AVDISCARD_DEFAULT;
  watch_->announce(*decoder_, nextPacket_);
  packet_->pts = packet_->dts = nextPacket_++;
  // A damaged packet is refused here; the frames around it still come.
  (void)avcodec_send_packet(decoder_.get(), packet_.get());
  av_packet_unref(packet_.get());
}

Status VideoReader::drain(std::int32_t wanted, const FrameSink& sink, Picture& found) {
  while (avcodec_receive_frame(decoder_.get(), frame_.get()) >= 0) {
    const std::int64_t packet = frame_->pts;
    if (packet < 0 || packet >= static_cast<std::int64_t>(index_->packets.size())) continue;
    const std::int32_t n = index_->packets[static_cast<std::size_t>(packet)].frame;
    if (n < 0) continue;
    constexpr int damage = FF_DECODE_ERROR_INVALID_BITSTREAM | FF_DECODE_ERROR_DECODE_SLICES;
    // After a jump a decoder may miss what was before, and say so though nothing is damaged.
    const bool complained = watch_->complainedOf(packet);
    if (packet >= sureFrom_ && (complained || frame_->decode_error_flags & damage))
      faults_->note(n, FrameFault::Damaged);
    auto picture = importer_.import(*frame_);
    if (!picture) return picture.error();
    shownUpTo_ = std::max(shownUpTo_, n);
    if (sink) sink(n, *picture);
    if (n == wanted) found = *picture;
  }
  return {};
}

bool VideoReader::goesOn(std::int32_t n, std::int32_t start) const {
  return nextPacket_ >= 0 && !ended_ && n > shownUpTo_ && shownUpTo_ >= 0 && start <= nextPacket_ + shortWay;
}

Result<Picture> VideoReader::read(std::int32_t n, const FrameSink& sink, std::stop_token stop) {
  if (stampOf(demuxer_->path()) != index_->stamp) faults_->note(n, FrameFault::Changed);
  if (missing_[static_cast<std::size_t>(n)]) return substitute(n, sink, stop);
  for (int stepsBack = 0; stepsBack < 3; ++stepsBack) {
    // The last try begins at the first packet.
    const std::int32_t start = stepsBack == 2 ? 0 : index_->startFor(n, stepsBack);
    if (!(stepsBack == 0 && goesOn(n, start)) && !goTo(start)) break;
    Picture found;
    bool over = false;
    while (!found && !over) {
      if (stop.stop_requested()) return cancelledError();
      over = ended_ || shownUpTo_ > n + patience;
      if (!over) feed(n);
      if (auto drained = drain(n, sink, found); !drained) return drained.error();
    }
    if (found) return found;
    if (start == 0) break;
  }
  missing_[static_cast<std::size_t>(n)] = true;
  faults_->note(n, FrameFault::Missing);
  return substitute(n, sink, stop);
}

/// The decoder is told that nothing follows: it gives back what it has without waiting for more.
Result<Picture> VideoReader::readStart(std::int32_t n) {
  const std::int32_t start = index_->startFor(n), frame = index_->startFrameFor(n);
  Picture found;
  if (goTo(start)) {
    feed(frame);
    if (!ended_) avcodec_send_packet(decoder_.get(), nullptr);
    ended_ = true;
    if (auto drained = drain(frame, {}, found); !drained) return drained.error();
  }
  return found ? Result<Picture>(found) : read(frame, {}, {});
}

Result<Picture> VideoReader::substitute(std::int32_t n, const FrameSink& sink, std::stop_token stop) {
  const auto count = static_cast<std::int32_t>(missing_.size());
  for (std::int32_t other = n - 1; other >= 0; --other)
    if (!missing_[static_cast<std::size_t>(other)]) return read(other, sink, stop);
  for (std::int32_t other = n + 1; other < count; ++other)
    if (!missing_[static_cast<std::size_t>(other)]) return read(other, sink, stop);
  return Error{fileName(demuxer_->path()) + " holds no frame that can be decoded: it is damaged."};
}

}  // namespace molten
