#pragma once
// Pictures in other formats and sizes, by libswscale, with the right matrix, range and chroma sites.

#include <vector>

#include "core/picture/picture.h"
#include "core/result.h"

extern "C" {
struct SwsContext;
}

namespace molten {

/// Screen: quick, for pictures that are looked at for the blink of an eye; Bicubic is for keeping.
enum class Scaling { Bicubic, Screen };

/// Keeps what libswscale prepared for the last conversion; one for each thread that converts.
class Converter {
 public:
  Converter() = default;
  ~Converter();
  Converter(const Converter&) = delete;
  Converter& operator=(const Converter&) = delete;

  /// A picture of the wanted shape's format, size, range and matrix. Exact if only the layout differs.
  /// Fails if the layout has no conversion.
  Result<Picture> convert(const Picture& from, const PictureShape& to, Scaling scaling = Scaling::Bicubic);

  /// From libav's own planes (any pixel format, bottom-up too) to a shape.
  Result<Picture> import(const std::uint8_t* const data[4], const int stride[4], AVPixelFormat format, bool fullRange,
                         const PictureShape& to);

  /// To a packed or otherwise foreign pixel format, into the caller's planes. `range`: full for RGB.
  Status exportTo(const Picture& from, std::uint8_t* const data[4], const int stride[4], AVPixelFormat format,
                  Size size, bool fullRange, Scaling scaling);

 private:
  struct Side {
    AVPixelFormat format;
    Size size;
    bool full;
    AVColorSpace matrix;
    AVChromaLocation site;
    friend bool operator==(const Side&, const Side&) = default;
  };
  Status run(const Side& from, const std::uint8_t* const* fromData, const int* fromStride, const Side& to,
             std::uint8_t* const* toData, const int* toStride, Scaling scaling);

  SwsContext* context_ = nullptr;
  Side from_{}, to_{};
  Scaling scaling_{};
};

/// The matrix that is meant when none is named: BT.709 from 720 rows on, BT.601 below.
AVColorSpace meantMatrix(const PictureShape& shape);

/// A picture ready for a screen: 8-bit B G R A in native 0xAARRGGBB words, colour multiplied by alpha.
struct ScreenImage {
  Size size;
  std::vector<std::uint32_t> pixels;  ///< row-major, size.width a row
};

/// Scaled to `size` (square pixels are the caller's business). Of high dynamic range: tone-mapped.
Result<ScreenImage> toScreen(Converter& converter, const Picture& picture, Size size,
                             Scaling enlarging = Scaling::Bicubic);

}  // namespace molten
