#pragma once
// Owners for libav's objects, and its errors as words.

#include <memory>
#include <string>

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
}

namespace molten {

struct AvDelete {
  void operator()(AVFrame* p) const { av_frame_free(&p); }
  void operator()(AVPacket* p) const { av_packet_free(&p); }
  void operator()(AVCodecContext* p) const { avcodec_free_context(&p); }
  void operator()(AVCodecParserContext* p) const { av_parser_close(p); }
};

template <class T>
using AvHandle = std::unique_ptr<T, AvDelete>;

inline AvHandle<AVFrame> newFrame() {
  return AvHandle<AVFrame>(av_frame_alloc());
}
inline AvHandle<AVPacket> newPacket() {
  return AvHandle<AVPacket>(av_packet_alloc());
}

/// libav's own words for an error code, in lower case: `no space left on device`.
std::string avErrorText(int code);

/// `gather.mp4` of `/some/where/gather.mp4`: how messages name files.
std::string fileName(const std::string& path);

}  // namespace molten
