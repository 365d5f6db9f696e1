#pragma once
// Frames of nothing.

#include "core/media/frame_reader.h"
#include "core/picture/blank.h"

namespace molten {

/// All frames are the same clear picture.
class BlankReader : public FrameReader {
 public:
  explicit BlankReader(const PictureShape& shape);
  Result<Picture> read(std::int32_t n, const FrameSink& sink, std::stop_token stop) override;
  bool staysFor(std::int32_t) const override { return true; }
  std::int32_t distanceTo(std::int32_t) const override { return 1; }

 private:
  Picture clear_;
};

}  // namespace molten
