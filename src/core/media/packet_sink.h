#pragma once
// Where encoded pictures go: a file of pictures and sound, stills, or one piece of either.

#include <memory>
#include <string>
#include <vector>

#include "core/files/safe_file.h"
#include "core/media/av_handles.h"
#include "core/media/picture_writer.h"
#include "core/media/sound_track.h"
#include "core/result.h"

namespace molten {

struct AvParametersDelete {
  void operator()(AVCodecParameters* p) const { avcodec_parameters_free(&p); }
};

/// What a file's header says of its pictures.
struct EncodedStream {
  std::unique_ptr<AVCodecParameters, AvParametersDelete> parameters;
  Rational rate = 25;         ///< pictures a second
  Rational pixelAspect = 1;
  bool alphaBeside = false;   ///< transparency lies beside the packets' own bytes (VP9)
};

/// Packets come in the order in which they are decoded; their time stamps count pictures, from the first of the whole
/// output.
class PacketSink {
 public:
  virtual ~PacketSink() = default;
  /// Before the first packet; nullptr for stills, each of which stands for itself.
  virtual Status begin(const EncodedStream* stream) = 0;
  virtual Status put(AVPacket& packet) = 0;
  /// So many pictures, counted from the first, have been handed to the encoder: what goes along with them may follow.
  virtual Status upTo(std::int64_t /*pictures*/) { return {}; }
  virtual Status write(const Sound&) { return {}; }
  virtual const SoundTrack* sound() const { return nullptr; }
  virtual Status finish(std::vector<SafeFile> beside, const FinishWatch& watch) = 0;
};

/// The sink for a plan's kind of file.
Result<std::unique_ptr<PacketSink>> openSink(const OutputSpec& spec, const OutputPlan& plan);

}  // namespace molten
