#include "core/media/picture_encoder.h"

#include <algorithm>

#include "core/picture/convert.h"

extern "C" {
#include <libavutil/imgutils.h>
#include <libavutil/opt.h>
#include <libavutil/pixdesc.h>
}

namespace molten {
namespace {

/// Their output depends on it, so it is the same on every machine.
constexpr int threadsOfEncoder = 4;

/// Pictures as an encoder takes them.
class FrameExporter {
 public:
  FrameExporter(const OutputSpec& spec, const OutputPlan& plan) : spec_(spec), plan_(plan) {}

  /// All but the samples.
  AvHandle<AVFrame> described(const PictureShape& shape) const {
    auto frame = newFrame();
    frame->format = plan_.format;
    frame->width = plan_.size.width;
    frame->height = plan_.size.height;
    const bool rgb = av_pix_fmt_desc_get(plan_.format)->flags & AV_PIX_FMT_FLAG_RGB;
    const ColourTags& colour = shape.colour;
    frame->color_range = rgb || plan_.fullRange                    ? AVCOL_RANGE_JPEG
                         : colour.range == AVCOL_RANGE_UNSPECIFIED ? AVCOL_RANGE_UNSPECIFIED
                                                                   : AVCOL_RANGE_MPEG;
    frame->colorspace = rgb ? AVCOL_SPC_RGB : outputMatrix(shape);
    frame->color_primaries = colour.primaries;
    frame->color_trc = colour.transfer;
    frame->chroma_location = colour.chromaSite;
    frame->sample_aspect_ratio = {static_cast<int>(shape.pixelAspect.num()), static_cast<int>(shape.pixelAspect.den())};
    return frame;
  }

  Result<AvHandle<AVFrame>> frame(const Picture& picture) {
    auto frame = described(picture.shape());
    const bool rgb = av_pix_fmt_desc_get(plan_.format)->flags & AV_PIX_FMT_FLAG_RGB;
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

/// The encoder behind a codec of ours. GIF and WebP are made of pictures that were kept without loss: see RecodedFile.
const AVCodec* encoderFor(const std::string& id) {
  if (id.starts_with("h264")) return avcodec_find_encoder_by_name("libx264");
  if (id.starts_with("h265")) return avcodec_find_encoder_by_name("libx265");
  if (id.starts_with("av1")) return avcodec_find_encoder_by_name("libsvtav1");
  if (id == "prores") return avcodec_find_encoder_by_name("prores_ks");
  if (id == "ffv1" || id == "gif" || id == "webp") return avcodec_find_encoder(AV_CODEC_ID_FFV1);
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
  if (id.starts_with("h264")) {
    option("preset", growing ? "veryfast" : "medium");
    option("crf", std::to_string(plan.quality));
    // Else some choices are left to what the processor is quick at.
    option("x264-params", "cpu-independent=1");
    if (growing) {
      // What the encoder keeps back, and what a group has begun, a crash would take with it.
      option("tune", "zerolatency");
      encoder.gop_size = std::max(1, encoder.framerate.num / std::max(1, encoder.framerate.den) / 2);
    }
  } else if (id.starts_with("h265")) {
    option("preset", "medium");
    option("crf", std::to_string(plan.quality));
    // A fixed number of frames at once, and nothing on standard error.
    option("x265-params", "frame-threads=2:log-level=none:info=0");
  } else if (id.starts_with("av1")) {
    option("preset", "8");
    option("crf", std::to_string(plan.quality));
  } else if (id == "prores") {
    static constexpr const char* profiles[] = {"proxy", "lt", "standard", "hq", "4444", "4444xq"};
    option("profile", profiles[plan.quality]);
  } else if (id == "ffv1" || id == "gif" || id == "webp") {
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
  encoder->thread_count = spec.growing ? spec.threads : threadsOfEncoder;
  if (globalHeader) encoder->flags |= AV_CODEC_FLAG_GLOBAL_HEADER;
  setOptions(*encoder, plan, spec.growing);
  if (const int opened = avcodec_open2(encoder.get(), codec, nullptr); opened < 0)
    return Error{plan.codec->label + " cannot hold " + std::to_string(plan.size.width) + " × " +
                 std::to_string(plan.size.height) + " pictures of this kind (" + avErrorText(opened) +
                 "); choose another codec or size."};
  return encoder;
}

/// Pictures that follow each other in a file.
class MovingEncoder : public PictureEncoder {
 public:
  MovingEncoder(const OutputSpec& spec, const OutputPlan& plan, std::int64_t from, Put put)
      : spec_(spec), plan_(plan), exporter_(spec, plan), put_(std::move(put)), next_(from) {
    const AVOutputFormat* const kind = av_guess_format(nullptr, spec.path.c_str(), nullptr);
    globalHeader_ = kind && (kind->flags & AVFMT_GLOBALHEADER) != 0;
  }

  ~MovingEncoder() override {
    // SVT-AV1 waits for ever in its end, unless it has had a picture and been told that it was the last.
    if (!encoder_ || encoder_->codec_id != AV_CODEC_ID_AV1) return;
    put_ = [](AVPacket&) { return Status(); };
    if (!begun_)
      if (auto frame = exporter_.frame(black())) (void)give(frame->get());
    (void)give(nullptr);
  }

  Result<std::unique_ptr<EncodedStream>> stream() override {
    if (auto opened = open(*exporter_.described(spec_.shape)); !opened) return opened.error();
    auto stream = std::make_unique<EncodedStream>();
    stream->parameters.reset(avcodec_parameters_alloc());
    if (!stream->parameters || avcodec_parameters_from_context(stream->parameters.get(), encoder_.get()) < 0) return outOfMemoryError();
    stream->rate = spec_.rate;
    const AVRational aspect = encoder_->sample_aspect_ratio;
    if (aspect.num > 0 && aspect.den > 0) stream->pixelAspect = Rational(aspect.num, aspect.den);
    stream->alphaBeside = plan_.format == AV_PIX_FMT_YUVA420P && plan_.codec->id == "vp9";
    return stream;
  }

  Status encode(const Picture& picture) override {
    const bool anew = begun_ && !spec_.growing && plan_.interdependent && next_ % plan_.closedGroup == 0;
    if (anew)
      if (auto ended = finish(); !ended) return ended;
    auto frame = exporter_.frame(picture);
    if (!frame) return frame.error();
    if (!encoder_)
      if (auto opened = open(**frame); !opened) return opened;
    begun_ = true;
    (*frame)->pts = next_++;
    return give(frame->get());
  }
  void stand(std::int64_t pictures) override { next_ += pictures; }

  Status finish() override {
    if (!begun_) return {};
    if (auto flushed = give(nullptr); !flushed) return flushed;
    encoder_.reset();
    begun_ = false;
    return {};
  }

 private:
  Status open(const AVFrame& first) {
    auto encoder = openEncoder(spec_, plan_, first, globalHeader_);
    if (!encoder) return encoder.error();
    encoder_ = std::move(*encoder);
    return {};
  }
  Picture black() const {
    Picture picture(spec_.shape);
    for (int p = 0; p < picture.format().planes(); ++p)
      std::fill_n(picture.plane(p).data, picture.plane(p).stride * picture.format().planeHeight(p, spec_.shape.size.height), std::uint8_t(0));
    return picture;
  }

  Status give(const AVFrame* frame) {
    if (const int sent = avcodec_send_frame(encoder_.get(), frame); sent < 0)
      return Error{"The picture could not be encoded (" + avErrorText(sent) + ")."};
    while (avcodec_receive_packet(encoder_.get(), packet_.get()) >= 0) {
      packet_->duration = 1;
      if (auto put = put_(*packet_); !put) return put;
    }
    return {};
  }

  OutputSpec spec_;
  OutputPlan plan_;
  FrameExporter exporter_;
  Put put_;
  AvHandle<AVCodecContext> encoder_;
  AvHandle<AVPacket> packet_ = newPacket();
  bool globalHeader_ = false, begun_ = false;
  std::int64_t next_;
};

/// Stills: their encoders are asked for one picture only, each time anew.
class StillEncoder : public PictureEncoder {
 public:
  StillEncoder(const OutputSpec& spec, const OutputPlan& plan, std::int64_t from, Put put)
      : spec_(spec), plan_(plan), exporter_(spec, plan), put_(std::move(put)), next_(from) {}

  Result<std::unique_ptr<EncodedStream>> stream() override { return std::unique_ptr<EncodedStream>(); }
  Status encode(const Picture& picture) override {
    auto frame = exporter_.frame(picture);
    if (!frame) return frame.error();
    auto encoder = openEncoder(spec_, plan_, **frame, false);
    if (!encoder) return encoder.error();
    auto packet = newPacket();
    if (avcodec_send_frame(encoder->get(), frame->get()) < 0 || avcodec_send_frame(encoder->get(), nullptr) < 0 ||
        avcodec_receive_packet(encoder->get(), packet.get()) < 0)
      return Error{"The picture could not be encoded as " + plan_.codec->label + "."};
    packet->pts = packet->dts = next_++;
    return put_(*packet);
  }
  Status finish() override { return {}; }
  void stand(std::int64_t) override {}

 private:
  OutputSpec spec_;
  OutputPlan plan_;
  FrameExporter exporter_;
  Put put_;
  std::int64_t next_;
};

}  // namespace

bool canEncode(const std::string& codecId) {
  return encoderFor(codecId) != nullptr;
}

std::unique_ptr<PictureEncoder> PictureEncoder::make(const OutputSpec& spec, const OutputPlan& plan, std::int64_t from, Put put) {
  if (plan.codec->stills) return std::make_unique<StillEncoder>(spec, plan, from, std::move(put));
  return std::make_unique<MovingEncoder>(spec, plan, from, std::move(put));
}

}  // namespace molten
