#include "core/media/picture_writer.h"

#include <algorithm>
#include <cerrno>
#include <filesystem>

#include "core/media/av_handles.h"
#include "core/media/muxer.h"
#include "core/media/sound_copy.h"
#include "core/picture/convert.h"
#include "core/files/safe_file.h"

extern "C" {
#include <libavutil/imgutils.h>
#include <libavutil/opt.h>
#include <libavutil/pixdesc.h>
}

namespace molten {
namespace {

/// Pictures as an encoder takes them.
class FrameExporter {
 public:
  FrameExporter(const OutputSpec& spec, const OutputPlan& plan) : spec_(spec), plan_(plan) {}

  Result<AvHandle<AVFrame>> frame(const Picture& picture) {
    auto frame = newFrame();
    frame->format = plan_.format;
    frame->width = plan_.size.width;
    frame->height = plan_.size.height;
    const bool rgb = av_pix_fmt_desc_get(plan_.format)->flags & AV_PIX_FMT_FLAG_RGB;
    const ColourTags& colour = picture.shape().colour;
    frame->color_range = rgb || plan_.fullRange                    ? AVCOL_RANGE_JPEG
                         : colour.range == AVCOL_RANGE_UNSPECIFIED ? AVCOL_RANGE_UNSPECIFIED
                                                                   : AVCOL_RANGE_MPEG;
    frame->colorspace = rgb ? AVCOL_SPC_RGB : outputMatrix(picture.shape());
    frame->color_primaries = colour.primaries;
    frame->color_trc = colour.transfer;
    frame->chroma_location = colour.chromaSite;
    const Rational aspect = picture.shape().pixelAspect;
    frame->sample_aspect_ratio = {static_cast<int>(aspect.num()), static_cast<int>(aspect.den())};
    const auto own = avFormat(picture.format());
    const bool sameRange =
        rgb || plan_.fullRange == picture.shape().fullRange() || picture.format().model == ColourModel::Gray;
    if (own == plan_.format && sameRange) {
      // Nothing to convert: the encoder reads our samples where they are.
      auto* held = new Picture(picture);
      frame->buf[0] = av_buffer_create(
          picture.plane(0).data, 1, [](void* p, std::uint8_t*) { delete static_cast<Picture*>(p); }, held,
          AV_BUFFER_FLAG_READONLY);
      for (int p = 0; p < picture.format().planes(); ++p) {
        frame->data[p] = picture.plane(p).data;
        frame->linesize[p] = static_cast<int>(picture.plane(p).stride);
      }
      return frame;
    }
    if (av_frame_get_buffer(frame.get(), 64) < 0)
      return Error{"There is not enough memory to render pictures of this size."};
    // An even size is reached by leaving out the last column or row, never by scaling.
    PictureShape cropped = picture.shape();
    cropped.size = plan_.size;
    const Status done = converter_.exportTo(picture.retagged(cropped), frame->data, frame->linesize, plan_.format,
                                            plan_.size, frame->color_range == AVCOL_RANGE_JPEG, Scaling::Bicubic);
    if (!done) return done.error();
    return frame;
  }

  static AVColorSpace outputMatrix(const PictureShape& shape) {
    // RGB becomes YUV by the matrix that players take for it when none is named; then it is named.
    if (shape.format.model == ColourModel::Rgb) return shape.size.height >= 720 ? AVCOL_SPC_BT709 : AVCOL_SPC_SMPTE170M;
    return shape.colour.matrix;
  }

 private:
  OutputSpec spec_;
  OutputPlan plan_;
  Converter converter_;
};

const AVCodec* encoderFor(const std::string& id) {
  if (id == "h264") return avcodec_find_encoder_by_name("libx264");
  if (id == "prores") return avcodec_find_encoder_by_name("prores_ks");
  if (id == "ffv1") return avcodec_find_encoder(AV_CODEC_ID_FFV1);
  if (id == "vp9") return avcodec_find_encoder_by_name("libvpx-vp9");
  if (id.starts_with("png")) return avcodec_find_encoder(AV_CODEC_ID_PNG);
  if (id == "exr") return avcodec_find_encoder(AV_CODEC_ID_EXR);
  return avcodec_find_encoder(AV_CODEC_ID_TIFF);
}

void setOptions(AVCodecContext& encoder, const OutputPlan& plan, bool growing) {
  const auto option = [&](const char* name, const std::string& value) {
    av_opt_set(encoder.priv_data, name, value.c_str(), 0);
  };
  const std::string& id = plan.codec->id;
  if (id == "h264") {
    option("preset", growing ? "veryfast" : "medium");
    option("crf", std::to_string(plan.quality));
    if (growing) {
      // What the encoder keeps back, and what a group has begun, a crash would take with it.
      option("tune", "zerolatency");
      encoder.gop_size = std::max(1, encoder.framerate.num / std::max(1, encoder.framerate.den) / 2);
    }
  } else if (id == "prores") {
    static constexpr const char* profiles[] = {"proxy", "lt", "standard", "hq", "4444", "4444xq"};
    option("profile", profiles[plan.quality]);
  } else if (id == "ffv1") {
    encoder.level = 3;
    encoder.gop_size = 1;
    option("slicecrc", "1");
    // Slices are coded side by side; a small picture does not divide well.
    // One slice alone is taken for pictures up to this size only.
    encoder.slices = encoder.width > 352 || encoder.height > 288 ? 4 : 1;
  } else if (id == "vp9") {
    option("crf", std::to_string(plan.quality));
    encoder.bit_rate = 0;
    option("deadline", "good");
    option("cpu-used", "4");
    option("row-mt", "1");
  } else if (id.starts_with("png")) {
    encoder.compression_level = 4;
  } else if (id == "exr") {
    option("format", "float");
    option("compression", "zip16");
  } else {
    option("compression_algo", "deflate");
  }
}

Result<AvHandle<AVCodecContext>> openEncoder(const OutputSpec& spec, const OutputPlan& plan, const AVFrame& first,
                                             bool globalHeader) {
  const AVCodec* codec = encoderFor(plan.codec->id);
  if (!codec) return Error{plan.codec->label + " cannot be written here: its encoder is not installed."};
  AvHandle<AVCodecContext> encoder(avcodec_alloc_context3(codec));
  encoder->width = first.width;
  encoder->height = first.height;
  encoder->pix_fmt = plan.format;
  encoder->time_base = {static_cast<int>(spec.rate.den()), static_cast<int>(spec.rate.num())};
  encoder->framerate = {static_cast<int>(spec.rate.num()), static_cast<int>(spec.rate.den())};
  encoder->sample_aspect_ratio = first.sample_aspect_ratio;
  encoder->color_range = first.color_range;
  encoder->colorspace = first.colorspace;
  encoder->color_primaries = first.color_primaries;
  encoder->color_trc = first.color_trc;
  encoder->chroma_sample_location = first.chroma_location;
  encoder->thread_count = spec.threads;
  if (globalHeader) encoder->flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
  setOptions(*encoder, plan, spec.growing);
  if (const int opened = avcodec_open2(encoder.get(), codec, nullptr); opened < 0)
    return Error{plan.codec->label + " cannot hold " + std::to_string(plan.size.width) + " × " +
                 std::to_string(plan.size.height) + " pictures of this kind (" + avErrorText(opened) +
                 "); choose another codec or size."};
  return encoder;
}

class VideoWriter : public PictureWriter {
 public:
  VideoWriter(const OutputSpec& spec, const OutputPlan& plan, std::unique_ptr<Muxer> muxer)
      : spec_(spec), plan_(plan), exporter_(spec, plan), muxer_(std::move(muxer)) {}

  Status write(const Picture& picture) override {
    auto frame = exporter_.frame(picture);
    if (!frame) return frame.error();
    if (!encoder_)
      if (auto begun = begin(**frame); !begun) return begun;
    (*frame)->pts = next_++;
    if (auto encoded = encode(frame->get()); !encoded || !copy_) return encoded;
    return copy_->upTo(Rational(next_) / spec_.rate);
  }
  void stand(std::int64_t pictures) override { next_ += pictures; }
  Status write(const Sound& sound) override { return track_ ? track_->write(sound) : Status(); }
  const SoundTrack* sound() const override { return track_.get(); }

  Status finish(std::vector<SafeFile> beside) override {
    if (!encoder_) return Error{"There is no picture between in and out; nothing was written."};
    if (auto flushed = encode(nullptr); !flushed) return flushed;
    if (track_)
      if (auto flushed = track_->finish(); !flushed) return flushed;
    if (auto finished = muxer_->finish(); !finished) return finished;
    beside.push_back(muxer_->takeFile());
    return commitTogether(std::move(beside));
  }

 private:
  Status begin(const AVFrame& first) {
    AVFormatContext& format = muxer_->format();
    auto encoder = openEncoder(spec_, plan_, first, (format.oformat->flags & AVFMT_GLOBALHEADER) != 0);
    if (!encoder) return encoder.error();
    encoder_ = std::move(*encoder);
    stream_ = avformat_new_stream(&format, nullptr);
    avcodec_parameters_from_context(stream_->codecpar, encoder_.get());
    stream_->time_base = encoder_->time_base;
    stream_->avg_frame_rate = stream_->r_frame_rate = encoder_->framerate;
    stream_->sample_aspect_ratio = encoder_->sample_aspect_ratio;
    if (plan_.format == AV_PIX_FMT_YUVA420P && plan_.codec->id == "vp9")
      av_dict_set(&stream_->metadata, "alpha_mode", "1", 0);
    if (spec_.sound) {
      auto track = SoundTrack::open(format, muxer_->extension(), [this](AVPacket& packet) { return muxer_->put(packet); });
      if (!track) return track.error();
      track_ = std::move(*track);
    } else if (!spec_.soundOf.empty()) {
      auto copy = SoundCopy::open(format, spec_.soundOf, spec_.soundFrom, [this](AVPacket& packet) { return muxer_->put(packet); });
      if (!copy) return copy.error();
      copy_ = std::move(*copy);
    }
    return muxer_->begin(plan_.codec->label);
  }

  Status encode(const AVFrame* frame) {
    if (const int sent = avcodec_send_frame(encoder_.get(), frame); sent < 0)
      return Error{"The picture could not be encoded (" + avErrorText(sent) + ")."};
    while (avcodec_receive_packet(encoder_.get(), packet_.get()) >= 0) {
      packet_->stream_index = stream_->index;
      packet_->duration = 1;
      av_packet_rescale_ts(packet_.get(), encoder_->time_base, stream_->time_base);
      if (auto put = muxer_->put(*packet_); !put) return put;
    }
    return {};
  }

  OutputSpec spec_;
  OutputPlan plan_;
  FrameExporter exporter_;
  std::unique_ptr<Muxer> muxer_;
  AVStream* stream_ = nullptr;
  AvHandle<AVCodecContext> encoder_;
  AvHandle<AVPacket> packet_ = newPacket();
  std::unique_ptr<SoundTrack> track_;
  std::unique_ptr<SoundCopy> copy_;
  std::int64_t next_ = 0;
};

/// A picture as the bytes of a still. Encoders of stills are asked for one picture only, each time anew.
Result<AvHandle<AVPacket>> encodeStill(const OutputSpec& spec, const OutputPlan& plan, FrameExporter& exporter,
                                       const Picture& picture) {
  auto frame = exporter.frame(picture);
  if (!frame) return frame.error();
  auto encoder = openEncoder(spec, plan, **frame, false);
  if (!encoder) return encoder.error();
  auto packet = newPacket();
  if (avcodec_send_frame(encoder->get(), frame->get()) < 0 || avcodec_send_frame(encoder->get(), nullptr) < 0 ||
      avcodec_receive_packet(encoder->get(), packet.get()) < 0)
    return Error{"The picture could not be encoded as " + plan.codec->label + "."};
  return packet;
}

/// Stills under temporary names, given their names together at the end.
class StillsWriter : public PictureWriter {
 public:
  StillsWriter(const OutputSpec& spec, const OutputPlan& plan) : spec_(spec), plan_(plan), exporter_(spec, plan) {}

  Status write(const Picture& picture) override {
    auto still = encodeStill(spec_, plan_, exporter_, picture);
    if (!still) return still.error();
    auto file = SafeFile::of(outputFile(spec_, static_cast<std::int64_t>(files_.size())),
                             {(*still)->data, static_cast<std::size_t>((*still)->size)});
    if (!file) return file.error();
    files_.push_back(std::move(*file));
    return {};
  }

  Status finish(std::vector<SafeFile> beside) override {
    if (files_.empty()) return Error{"There is no picture between in and out; nothing was written."};
    for (SafeFile& file : beside) files_.push_back(std::move(file));
    return commitTogether(std::move(files_));
  }

 private:
  OutputSpec spec_;
  OutputPlan plan_;
  FrameExporter exporter_;
  std::vector<SafeFile> files_;
};

}  // namespace

Result<std::vector<std::uint8_t>> stillBytes(const OutputSpec& spec, const Picture& picture) {
  auto plan = planOutput(spec);
  if (!plan) return plan.error();
  FrameExporter exporter(spec, *plan);
  auto still = encodeStill(spec, *plan, exporter, picture);
  if (!still) return still.error();
  return std::vector<std::uint8_t>((*still)->data, (*still)->data + (*still)->size);
}

Result<std::unique_ptr<PictureWriter>> PictureWriter::open(const OutputSpec& spec) {
  auto plan = planOutput(spec);
  if (!plan) return plan.error();
  if (plan->codec->stills) {
    // A place that cannot be written to is found out before the work, not after it.
    if (auto probe = SafeFile::create(outputFile(spec, 0)); !probe) return probe.error();
    return std::unique_ptr<PictureWriter>(new StillsWriter(spec, *plan));
  }
  auto muxer = Muxer::open(spec.path, spec.growing ? Muxer::Stands::Growing : Muxer::Stands::AtTheEnd);
  if (!muxer) return muxer.error();
  return std::unique_ptr<PictureWriter>(new VideoWriter(spec, *plan, std::move(*muxer)));
}

}  // namespace molten
