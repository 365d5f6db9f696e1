#pragma once
// Frames of a video file, through its index.

#include <memory>
#include <string>

#include "core/media/decoder_watch.h"
#include "core/media/demuxer.h"
#include "core/media/frame_faults.h"
#include "core/media/frame_index.h"
#include "core/media/frame_reader.h"
#include "core/picture/convert.h"

namespace molten {

/// How decoded frames become the footage's pictures. Found from the first frame, used for all.
struct ImportTarget {
  PictureShape decoded;  ///< planar, before turning
  int degrees = 0;       ///< clockwise turn that shows the picture upright: 0, 90, 180, 270

  static ImportTarget of(const AVFrame& first, Rational pixelAspect, int degrees);
  /// The shape of the pictures that come out.
  PictureShape upright() const;
};

/// Turns what a decoder gives into pictures of one shape: upright, planar, native byte order.
class FrameImporter {
 public:
  explicit FrameImporter(ImportTarget target) : target_(std::move(target)) {}
  Result<Picture> import(const AVFrame& frame);

 private:
  Result<Picture> planar(const AVFrame& frame);

  ImportTarget target_;
  Converter layout_, size_;
};

/// The first frame that can be decoded from a file, and what its pictures become.
struct FirstFrame {
  AvHandle<AVFrame> frame;
  ImportTarget target;
  bool damaged = false;  ///< the decoder had something to say about it
};
Result<FirstFrame> decodeFirstFrame(const std::string& path, std::stop_token stop);

class VideoReader : public FrameReader {
 public:
  /// `target`: the footage's, so that all readers of it agree. Decodes with `threads` threads.
  static Result<std::unique_ptr<FrameReader>> open(const std::string& path, std::shared_ptr<const FrameIndex> index,
                                                   const ImportTarget& target, int threads,
                                                   std::shared_ptr<FrameFaults> faults);

  Result<Picture> read(std::int32_t n, const FrameSink& sink, std::stop_token stop) override;
  bool staysFor(std::int32_t n) const override { return goesOn(n, index_->startFor(n)); }
  std::int32_t distanceTo(std::int32_t n) const override { return n - shownUpTo_; }
  void passOver(std::int32_t before) override { passOver_ = before; }
  Result<Picture> readStart(std::int32_t n) override;

 private:
  VideoReader(Demuxer demuxer, std::unique_ptr<DecoderWatch> watch, AvHandle<AVCodecContext> decoder,
              std::shared_ptr<const FrameIndex> index, const ImportTarget& target, std::shared_ptr<FrameFaults> faults);
  /// True if decoding on is quicker than a jump to the packet that decoding of frame n would begin with.
  bool goesOn(std::int32_t n, std::int32_t start) const;
  bool goTo(std::int32_t packet);
  bool restart();
  bool locate(std::int32_t packet);
  /// The next packet, on the way to a frame.
  void feed(std::int32_t wanted);
  Status drain(std::int32_t wanted, const FrameSink& sink, Picture& found);
  Result<Picture> substitute(std::int32_t n, const FrameSink& sink, std::stop_token stop);

  std::unique_ptr<Demuxer> demuxer_;
  std::unique_ptr<DecoderWatch> watch_;  ///< outlives the decoder
  AvHandle<AVCodecContext> decoder_;
  std::shared_ptr<const FrameIndex> index_;
  FrameImporter importer_;
  std::shared_ptr<FrameFaults> faults_;
  std::int32_t passOver_ = 0;
  bool intraOnly_ = false;     ///< each packet stands for itself
  std::int32_t sureFrom_ = 0;  ///< packets from this one on refer to nothing before the last jump
  AvHandle<AVPacket> packet_ = newPacket();
  AvHandle<AVFrame> frame_ = newFrame();
  bool packetHeld_ = false;       ///< packet_ is the next to feed, already read while looking for a place
  std::int32_t nextPacket_ = -1;  ///< ordinal of the next packet to feed; −1: the place in the file is not known
  std::int32_t shownUpTo_ = -1;   ///< highest frame given by the decoder since the last jump
  bool ended_ = false;            ///< the decoder was told that nothing follows
  std::vector<bool> missing_;     ///< frames that were looked for in vain
};

}  // namespace molten
