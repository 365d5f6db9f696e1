#include "core/media/picture_writer.h"

#include "core/media/picture_encoder.h"
#include "core/media/piece_file.h"
#include "core/media/recoded_file.h"
#include "core/media/stills_files.h"
#include "core/media/video_file.h"

namespace molten {
namespace {

class EncodedWriter : public PictureWriter {
 public:
  EncodedWriter(const OutputSpec& spec, const OutputPlan& plan, std::int64_t first, std::unique_ptr<PacketSink> sink)
      : sink_(std::move(sink)),
        encoder_(PictureEncoder::make(spec, plan, first, [this](AVPacket& packet) {
          ++encoded_;
          return sink_->put(packet);
        })) {}

  Status begin() {
    auto stream = encoder_->stream();
    if (!stream) return stream.error();
    return sink_->begin(stream->get());
  }
  Status write(const Picture& picture) override {
    if (auto encoded = encoder_->encode(picture); !encoded) return encoded;
    ++written_;
    return sink_->upTo(written_ + stood_);
  }
  std::int64_t encoded() const override { return encoded_; }
  void stand(std::int64_t pictures) override {
    encoder_->stand(pictures);
    stood_ += pictures;
  }
  Status write(const Sound& sound) override { return sink_->write(sound); }
  const SoundTrack* sound() const override { return sink_->sound(); }
  Status finish(std::vector<SafeFile> beside, const FinishWatch& watch) override {
    if (written_ == 0) return Error{"There is no picture between in and out; nothing was written."};
    if (auto flushed = encoder_->finish(); !flushed) return flushed;
    return sink_->finish(std::move(beside), watch);
  }

 private:
  std::unique_ptr<PacketSink> sink_;
  std::unique_ptr<PictureEncoder> encoder_;
  std::int64_t written_ = 0, stood_ = 0, encoded_ = 0;
};

Result<std::unique_ptr<PictureWriter>> begun(const OutputSpec& spec, const OutputPlan& plan, std::int64_t first,
                                             std::unique_ptr<PacketSink> sink) {
  auto writer = std::make_unique<EncodedWriter>(spec, plan, first, std::move(sink));
  if (auto done = writer->begin(); !done) return done.error();
  return std::unique_ptr<PictureWriter>(std::move(writer));
}

}  // namespace

Result<std::unique_ptr<PacketSink>> openSink(const OutputSpec& spec, const OutputPlan& plan) {
  if (plan.codec->stills) return StillsFiles::open(spec);
  if (isRecoded(*plan.codec)) return openRecodedFile(spec, plan);
  return VideoFile::open(spec, plan);
}

Result<std::vector<std::uint8_t>> stillBytes(const OutputSpec& spec, const Picture& picture) {
  auto plan = planOutput(spec);
  if (!plan) return plan.error();
  std::vector<std::uint8_t> bytes;
  const auto encoder = PictureEncoder::make(spec, *plan, 0, [&](AVPacket& packet) -> Status {
    bytes.assign(packet.data, packet.data + packet.size);
    return {};
  });
  if (auto encoded = encoder->encode(picture); !encoded) return encoded.error();
  return bytes;
}

Result<std::unique_ptr<PictureWriter>> PictureWriter::open(const OutputSpec& spec) {
  auto plan = planOutput(spec);
  if (!plan) return plan.error();
  auto sink = openSink(spec, *plan);
  if (!sink) return sink.error();
  return begun(spec, *plan, 0, std::move(*sink));
}

Result<std::unique_ptr<PictureWriter>> PictureWriter::openPiece(const OutputSpec& spec, std::int64_t first, const std::string& path,
                                                                const std::string& key) {
  auto plan = planOutput(spec);
  if (!plan) return plan.error();
  auto sink = PieceSink::create(path, key, first);
  if (!sink) return sink.error();
  return begun(spec, *plan, first, std::move(*sink));
}

struct PieceJoiner::Parts {
  std::string key;
  std::unique_ptr<PacketSink> sink;
  AvHandle<AVPacket> packet = newPacket();
  std::int64_t pictures = 0;  ///< so far
};

PieceJoiner::PieceJoiner(std::unique_ptr<Parts> parts) : parts_(std::move(parts)) {}
PieceJoiner::~PieceJoiner() = default;

Result<std::unique_ptr<PieceJoiner>> PieceJoiner::open(const OutputSpec& spec, const std::string& key) {
  auto plan = planOutput(spec);
  if (!plan) return plan.error();
  auto sink = openSink(spec, *plan);
  if (!sink) return sink.error();
  auto stream = PictureEncoder::make(spec, *plan, 0, {})->stream();
  if (!stream) return stream.error();
  if (auto done = (*sink)->begin(stream->get()); !done) return done.error();
  auto parts = std::make_unique<Parts>();
  parts->key = key;
  parts->sink = std::move(*sink);
  return std::unique_ptr<PieceJoiner>(new PieceJoiner(std::move(parts)));
}

Status PieceJoiner::add(const std::string& path, std::int64_t pictures, const std::function<Status(std::int64_t)>& along) {
  auto piece = PieceFile::open(path, parts_->key);
  if (!piece) return piece.error();
  std::int64_t found = 0;
  for (;; ++found) {
    const auto more = piece->next(*parts_->packet);
    if (!more) return more.error();
    if (!*more) break;
    if (auto put = parts_->sink->put(*parts_->packet); !put) return put;
    if (auto done = parts_->sink->upTo(parts_->pictures + found + 1); !done) return done;
    if (auto done = along(parts_->pictures + found + 1); !done) return done;
  }
  if (found != pictures || piece->first() != parts_->pictures)
    return Error{fileName(path) + " holds other pictures than it should. Remove it; it will be made again."};
  parts_->pictures += found;
  return {};
}

Status PieceJoiner::write(const Sound& sound) {
  return parts_->sink->write(sound);
}

const SoundTrack* PieceJoiner::sound() const {
  return parts_->sink->sound();
}

Status PieceJoiner::finish(const FinishWatch& watch) {
  return parts_->sink->finish({}, watch);
}

}  // namespace molten
