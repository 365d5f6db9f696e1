#pragma once
// What differs between the versions of libav that are supported: FFmpeg 5.1 (Debian 12) to 7.1 (Debian 13). No other file
// asks for libav's version.

#include <cstddef>
#include <cstdint>
#include <span>

extern "C" {
#include <libavcodec/avcodec.h>
#include <libavformat/avformat.h>
}

namespace molten {

/// The pixel formats that an encoder takes; none if it does not say.
inline std::span<const AVPixelFormat> encoderPixelFormats(const AVCodec& encoder) {
#if LIBAVCODEC_VERSION_INT >= AV_VERSION_INT(61, 13, 100)
  const void* formats = nullptr;
  int count = 0;
  if (avcodec_get_supported_config(nullptr, &encoder, AV_CODEC_CONFIG_PIX_FORMAT, 0, &formats, &count) < 0 || !formats)
    return {};
  return {static_cast<const AVPixelFormat*>(formats), static_cast<std::size_t>(count)};
#else
  std::size_t count = 0;
  while (encoder.pix_fmts && encoder.pix_fmts[count] != AV_PIX_FMT_NONE) ++count;
  return {encoder.pix_fmts, count};
#endif
}

/// The nine numbers of a stream's display matrix (libavutil/display.h); null if it has none.
inline const std::int32_t* displayMatrix(const AVStream& stream) {
#if LIBAVCODEC_VERSION_INT >= AV_VERSION_INT(60, 30, 100)
  const AVPacketSideData* const matrix =
      av_packet_side_data_get(stream.codecpar->coded_side_data, stream.codecpar->nb_coded_side_data, AV_PKT_DATA_DISPLAYMATRIX);
  return matrix ? reinterpret_cast<const std::int32_t*>(matrix->data) : nullptr;
#else
  return reinterpret_cast<const std::int32_t*>(av_stream_get_side_data(&stream, AV_PKT_DATA_DISPLAYMATRIX, nullptr));
#endif
}

/// What an `AVIOContext` hands to the function that writes for it.
#if LIBAVFORMAT_VERSION_MAJOR >= 61
using AvWrittenBytes = const std::uint8_t*;
#else
using AvWrittenBytes = std::uint8_t*;
#endif

}  // namespace molten
