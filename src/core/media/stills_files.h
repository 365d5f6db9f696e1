#pragma once
// Stills, a file a picture.

#include "core/media/packet_sink.h"

namespace molten {

/// Under temporary names, given their names together at the end.
class StillsFiles : public PacketSink {
 public:
  static Result<std::unique_ptr<PacketSink>> open(const OutputSpec& spec);
  Status begin(const EncodedStream*) override { return {}; }
  Status put(AVPacket& packet) override;
  Status finish(std::vector<SafeFile> beside, const FinishWatch& watch) override;

 private:
  explicit StillsFiles(const OutputSpec& spec) : spec_(spec) {}
  OutputSpec spec_;
  std::vector<SafeFile> files_;
};

}  // namespace molten
