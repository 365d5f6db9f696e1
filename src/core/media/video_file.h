#pragma once
// A file of moving pictures, and sound beside them.

#include <memory>

#include "core/media/muxer.h"
#include "core/media/packet_sink.h"
#include "core/media/sound_copy.h"

namespace molten {

class VideoFile : public PacketSink {
 public:
  static Result<std::unique_ptr<PacketSink>> open(const OutputSpec& spec, const OutputPlan& plan);
  Status begin(const EncodedStream* stream) override;
  Status put(AVPacket& packet) override;
  Status upTo(std::int64_t pictures) override;
  Status write(const Sound& sound) override { return track_ ? track_->write(sound) : Status(); }
  const SoundTrack* sound() const override { return track_.get(); }
  Status finish(std::vector<SafeFile> beside, const FinishWatch& watch) override;

 private:
  VideoFile(const OutputSpec& spec, const OutputPlan& plan, std::unique_ptr<Muxer> muxer)
      : spec_(spec), plan_(plan), muxer_(std::move(muxer)) {}

  OutputSpec spec_;
  OutputPlan plan_;
  std::unique_ptr<Muxer> muxer_;
  AVStream* stream_ = nullptr;
  AVRational tick_{};
  std::unique_ptr<SoundTrack> track_;
  std::unique_ptr<SoundCopy> copy_;
};

}  // namespace molten
