#include "core/media/recoded_file.h"

#include <cstdio>

#include "core/media/muxer.h"
#include "core/media/piece_file.h"

extern "C" {
#include <libavfilter/avfilter.h>
#include <libavfilter/buffersink.h>
#include <libavfilter/buffersrc.h>
#include <libavutil/opt.h>
}

namespace molten {
namespace {

struct GraphDelete {
  void operator()(AVFilterGraph* graph) const { avfilter_graph_free(&graph); }
};

/// Filters of libavfilter between some inputs and one output.
class Filters {
 public:
  /// `words`: with the inputs [in0], [in1], … and the output [out].
  static Result<Filters> make(const std::vector<const AVFrame*>& inputs, AVRational tick, const char* words) {
    Filters filters;
    filters.graph_.reset(avfilter_graph_alloc());
    if (!filters.graph_) return outOfMemoryError();
    AVFilterGraph* const graph = filters.graph_.get();
    graph->nb_threads = 1;
    AVFilterInOut *open = nullptr, *fed = avfilter_inout_alloc();
    Status done;
    for (std::size_t i = inputs.size(); i-- > 0 && done;) {
      char size[120];
      std::snprintf(size, sizeof size, "video_size=%dx%d:pix_fmt=%d:time_base=%d/%d:pixel_aspect=1/1", inputs[i]->width,
                    inputs[i]->height, inputs[i]->format, tick.num, tick.den);
      const std::string name = "in" + std::to_string(i);
      AVFilterContext* source = nullptr;
      auto* const place = avfilter_inout_alloc();
      if (!place || avfilter_graph_create_filter(&source, avfilter_get_by_name("buffer"), name.c_str(), size, nullptr, graph) < 0)
        done = outOfMemoryError();
      else
        *place = {av_strdup(name.c_str()), source, 0, open};
      open = place;
      filters.inputs_.insert(filters.inputs_.begin(), source);
    }
    if (!fed || avfilter_graph_create_filter(&filters.output_, avfilter_get_by_name("buffersink"), "out", nullptr, nullptr, graph) < 0)
      done = outOfMemoryError();
    else
      *fed = {av_strdup("out"), filters.output_, 0, nullptr};
    if (done && (avfilter_graph_parse_ptr(graph, words, &fed, &open, nullptr) < 0 || avfilter_graph_config(graph, nullptr) < 0))
      done = Error{"The colours of the GIF cannot be chosen here: filters of libavfilter are missing."};
    avfilter_inout_free(&open);
    avfilter_inout_free(&fed);
    if (!done) return done.error();
    return filters;
  }

  /// Without a frame: nothing follows. The frame stays the caller's.
  Status put(std::size_t input, AVFrame* frame) {
    if (av_buffersrc_add_frame_flags(inputs_[input], frame, AV_BUFFERSRC_FLAG_KEEP_REF) < 0) return outOfMemoryError();
    return {};
  }
  /// None: there is none yet.
  AvHandle<AVFrame> take() {
    auto frame = newFrame();
    if (av_buffersink_get_frame(output_, frame.get()) < 0) return nullptr;
    return frame;
  }

 private:
  std::unique_ptr<AVFilterGraph, GraphDelete> graph_;
  std::vector<AVFilterContext*> inputs_;
  AVFilterContext* output_ = nullptr;
};

/// Frames out of lossless packets.
class Decoding {
 public:
  Status open(const AVCodecParameters& parameters) {
    const AVCodec* const codec = avcodec_find_decoder(parameters.codec_id);
    decoder_.reset(avcodec_alloc_context3(codec));
    if (!decoder_ || avcodec_parameters_to_context(decoder_.get(), &parameters) < 0 || avcodec_open2(decoder_.get(), codec, nullptr) < 0)
      return outOfMemoryError();
    return {};
  }
  Result<AvHandle<AVFrame>> frame(const AVPacket& packet) {
    auto frame = newFrame();
    if (avcodec_send_packet(decoder_.get(), &packet) < 0 || avcodec_receive_frame(decoder_.get(), frame.get()) < 0)
      return Error{"A picture that was kept on the way could not be read again; render once more."};
    frame->pts = packet.pts;
    // What is meant by them is no matter to a file of full-range RGB.
    frame->colorspace = AVCOL_SPC_RGB;
    return frame;
  }

 private:
  AvHandle<AVCodecContext> decoder_;
};

/// What GIF and WebP have in common: the pictures' way out.
class RecodedFile : public PacketSink {
 public:
  RecodedFile(const OutputSpec& spec, const OutputPlan& plan, std::unique_ptr<Muxer> muxer)
      : spec_(spec), plan_(plan), muxer_(std::move(muxer)) {}

  Status begin(const EncodedStream* stream) override {
    tick_ = {static_cast<int>(stream->rate.den()), static_cast<int>(stream->rate.num())};
    return decoding_.open(*stream->parameters);
  }

 protected:
  Status openEncoder(const char* name, AVPixelFormat format, const std::vector<std::pair<const char*, std::string>>& options) {
    const AVCodec* const codec = avcodec_find_encoder_by_name(name);
    if (!codec) return Error{plan_.codec->label + " cannot be written here: its encoder is not installed."};
    encoder_.reset(avcodec_alloc_context3(codec));
    encoder_->width = plan_.size.width;
    encoder_->height = plan_.size.height;
    encoder_->pix_fmt = format;
    encoder_->time_base = tick_;
    encoder_->framerate = av_inv_q(tick_);
    for (const auto& [option, value] : options) av_opt_set(encoder_->priv_data, option, value.c_str(), 0);
    if (avcodec_open2(encoder_.get(), codec, nullptr) < 0)
      return Error{plan_.codec->label + " cannot hold " + std::to_string(plan_.size.width) + " × " + std::to_string(plan_.size.height) +
                   " pictures; choose another codec or size."};
    stream_ = avformat_new_stream(&muxer_->format(), nullptr);
    if (!stream_ || avcodec_parameters_from_context(stream_->codecpar, encoder_.get()) < 0) return outOfMemoryError();
    stream_->time_base = tick_;
    stream_->avg_frame_rate = av_inv_q(tick_);
    av_opt_set(muxer_->format().priv_data, "loop", "0", 0);
    return muxer_->begin(plan_.codec->label);
  }
  Status encode(const AVFrame* frame) {
    if (const int sent = avcodec_send_frame(encoder_.get(), frame); sent < 0)
      return Error{"The picture could not be encoded (" + avErrorText(sent) + ")."};
    while (avcodec_receive_packet(encoder_.get(), packet_.get()) >= 0) {
      if (packet_->duration <= 0) packet_->duration = 1;
      av_packet_rescale_ts(packet_.get(), tick_, stream_->time_base);
      packet_->stream_index = stream_->index;
      if (auto put = muxer_->put(*packet_); !put) return put;
    }
    return {};
  }
  Status end(std::vector<SafeFile> beside) {
    if (auto flushed = encode(nullptr); !flushed) return flushed;
    if (auto finished = muxer_->finish(); !finished) return finished;
    beside.push_back(muxer_->takeFile());
    return commitTogether(std::move(beside));
  }

  OutputSpec spec_;
  OutputPlan plan_;
  std::unique_ptr<Muxer> muxer_;
  AVRational tick_{};
  Decoding decoding_;
  AVStream* stream_ = nullptr;
  AvHandle<AVCodecContext> encoder_;
  AvHandle<AVPacket> packet_ = newPacket();
};

/// 256 colours for all pictures together, so that what stands still does not flicker: they are gone through twice.
class GifFile : public RecodedFile {
 public:
  using RecodedFile::RecodedFile;

  Status begin(const EncodedStream* stream) override {
    if (auto begun = RecodedFile::begin(stream); !begun) return begun;
    auto kept = PieceSink::create(spec_.path, {}, 0);
    if (!kept) return kept.error();
    kept_ = std::move(*kept);
    return {};
  }
  Status put(AVPacket& packet) override {
    auto frame = decoding_.frame(packet);
    if (!frame) return frame.error();
    if (!colours_) {
      auto colours = Filters::make({frame->get()}, tick_, clear() ? "[in0]palettegen[out]" : "[in0]palettegen=reserve_transparent=0[out]");
      if (!colours) return colours.error();
      colours_ = std::move(*colours);
    }
    if (auto seen = colours_->put(0, frame->get()); !seen) return seen;
    ++seen_;
    return kept_->put(packet);
  }
  Status finish(std::vector<SafeFile> beside, const FinishWatch& watch) override {
    if (auto done = colours_->put(0, nullptr); !done) return done;
    const auto palette = colours_->take();
    if (!palette) return outOfMemoryError();
    if (auto closed = kept_->close(); !closed) return closed;
    auto again = PieceFile::open(kept_->file().temporary(), {});
    if (!again) return again.error();
    if (auto opened = openEncoder("gif", AV_PIX_FMT_PAL8, {}); !opened) return opened;
    std::optional<Filters> painting;
    const auto packet = newPacket();
    for (std::int64_t painted = 0;; ++painted) {
      if (watch.stop.stop_requested()) return cancelledError();
      const auto more = again->next(*packet);
      if (!more) return more.error();
      if (!*more) break;
      auto frame = decoding_.frame(*packet);
      if (!frame) return frame.error();
      if (!painting) {
        auto filters = Filters::make({frame->get(), palette.get()}, tick_, "[in0][in1]paletteuse[out]");
        if (!filters) return filters.error();
        painting = std::move(*filters);
        palette->pts = 0;
        for (AVFrame* const one : {palette.get(), static_cast<AVFrame*>(nullptr)})
          if (auto put = painting->put(1, one); !put) return put;
      }
      if (auto put = painting->put(0, frame->get()); !put) return put;
      if (auto written = writeReady(*painting); !written) return written;
      if (watch.told) watch.told(static_cast<double>(painted + 1) / static_cast<double>(seen_));
    }
    if (auto put = painting->put(0, nullptr); !put) return put;
    if (auto written = writeReady(*painting); !written) return written;
    return end(std::move(beside));
  }

 private:
  bool clear() const { return spec_.shape.format.alpha; }
  Status writeReady(Filters& painting) {
    while (const auto painted = painting.take())
      if (auto encoded = encode(painted.get()); !encoded) return encoded;
    return {};
  }

  std::optional<Filters> colours_;
  std::unique_ptr<PieceSink> kept_;
  std::int64_t seen_ = 0;  ///< pictures
};

/// The encoder keeps what it needs by itself, and gives all at the end.
class WebpFile : public RecodedFile {
 public:
  using RecodedFile::RecodedFile;
  Status begin(const EncodedStream* stream) override {
    if (auto begun = RecodedFile::begin(stream); !begun) return begun;
    return openEncoder("libwebp_anim", AV_PIX_FMT_RGB32, {{"quality", std::to_string(plan_.quality)}});
  }
  Status put(AVPacket& packet) override {
    auto frame = decoding_.frame(packet);
    if (!frame) return frame.error();
    return encode(frame->get());
  }
  Status finish(std::vector<SafeFile> beside, const FinishWatch&) override { return end(std::move(beside)); }
};

}  // namespace

bool isRecoded(const CodecDescription& codec) {
  return codec.id == "gif" || codec.id == "webp";
}

Result<std::unique_ptr<PacketSink>> openRecodedFile(const OutputSpec& spec, const OutputPlan& plan) {
  auto muxer = Muxer::open(spec.path);
  if (!muxer) return muxer.error();
  if (plan.codec->id == "gif") return std::unique_ptr<PacketSink>(new GifFile(spec, plan, std::move(*muxer)));
  return std::unique_ptr<PacketSink>(new WebpFile(spec, plan, std::move(*muxer)));
}

}  // namespace molten
