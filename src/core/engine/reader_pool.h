#pragma once
// Several places in one piece of footage that decoding goes on from.

#include <memory>
#include <vector>

#include "core/media/footage.h"

namespace molten {

/// For one thread. A frame is read by the reader that gets there soonest; a new reader is opened, up to `most`, where
/// all would have to leave their place.
class ReaderPool {
 public:
  ReaderPool(std::shared_ptr<const Footage> footage, int decoderThreads, int most)
      : footage_(std::move(footage)), decoderThreads_(decoderThreads), most_(most) {}

  /// As FrameReader::read().
  Result<Picture> read(std::int32_t n, const FrameSink& sink, std::stop_token stop);
  /// For all its readers: as FrameReader::passOver().
  void passOver(std::int32_t before) { passOver_ = before; }

 private:
  struct Member {
    std::unique_ptr<FrameReader> reader;
    std::uint64_t used = 0;
  };
  std::shared_ptr<const Footage> footage_;
  int decoderThreads_, most_;
  std::int32_t passOver_ = 0;
  std::uint64_t reads_ = 0;
  std::vector<Member> members_;
};

}  // namespace molten
