#pragma once
// How the samples of a picture are laid out and what they mean.

#include <optional>
#include <string>

extern "C" {
#include <libavutil/pixfmt.h>
}

namespace molten {

enum class ColourModel { Gray, Yuv, Rgb };

/// A planar layout: one component a plane, in the order gray | Y U V | G B R, then alpha if there is one.
/// Samples are unsigned integers of 8 bits (one byte) or 9…16 bits (two bytes, native order, in the low bits),
/// or 32-bit floats.
struct PictureFormat {
  ColourModel model = ColourModel::Yuv;
  int bits = 8;        ///< a sample; 8…16, or 32 for float
  int shiftX = 0;      ///< log2 of pixels per chroma sample across (Yuv only)
  int shiftY = 0;      ///< log2 of pixels per chroma sample down (Yuv only)
  bool alpha = false;  ///< straight, full range
  bool floating = false;

  int colourPlanes() const { return model == ColourModel::Gray ? 1 : 3; }
  int planes() const { return colourPlanes() + (alpha ? 1 : 0); }
  int bytesPerSample() const { return floating ? 4 : bits > 8 ? 2 : 1; }
  bool isAlphaPlane(int plane) const { return plane == colourPlanes(); }
  bool isChromaPlane(int plane) const { return model == ColourModel::Yuv && (plane == 1 || plane == 2); }
  int planeWidth(int plane, int width) const { return isChromaPlane(plane) ? -((-width) >> shiftX) : width; }
  int planeHeight(int plane, int height) const { return isChromaPlane(plane) ? -((-height) >> shiftY) : height; }

  friend bool operator==(const PictureFormat&, const PictureFormat&) = default;
};

/// What the numbers mean; carried from footage to output.
struct ColourTags {
  AVColorRange range = AVCOL_RANGE_UNSPECIFIED;
  AVColorSpace matrix = AVCOL_SPC_UNSPECIFIED;
  AVColorPrimaries primaries = AVCOL_PRI_UNSPECIFIED;
  AVColorTransferCharacteristic transfer = AVCOL_TRC_UNSPECIFIED;
  AVChromaLocation chromaSite = AVCHROMA_LOC_UNSPECIFIED;

  friend bool operator==(const ColourTags&, const ColourTags&) = default;
};

/// libav's name for a layout, if it has one (gray with alpha has none, nor have a few depths).
std::optional<AVPixelFormat> avFormat(const PictureFormat& format);

/// The planar layout that holds every value of `format` exactly: itself, its native-order planar twin, or the
/// RGB layout that a packed or palette format unpacks to.
PictureFormat exactFormat(AVPixelFormat format);

/// True for formats whose values span the full range by definition (the `yuvj` family, RGB, gray, alpha).
bool impliesFullRange(AVPixelFormat format);

/// `4:2:0 8-bit`, `RGB 16-bit with alpha`: for a person.
std::string formatText(const PictureFormat& format);

}  // namespace molten
