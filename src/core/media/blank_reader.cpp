#include "core/media/blank_reader.h"

#include <cstring>

namespace molten {

BlankReader::BlankReader(const PictureShape& shape) : clear_(shape) {
  for (int p = 0; p < shape.format.planes(); ++p)
    for (int y = 0; y < clear_.planeHeight(p); ++y) std::memset(clear_.writableRow(p, y), 0, clear_.rowBytes(p));
}

Result<Picture> BlankReader::read(std::int32_t n, const FrameSink& sink, std::stop_token stop) {
  if (stop.stop_requested()) return cancelledError();
  if (sink) sink(n, clear_);
  return clear_;
}

}  // namespace molten
