#include "core/picture/picture_format.h"

#include <algorithm>

extern "C" {
#include <libavutil/pixdesc.h>
}

namespace molten {
namespace {

bool native(const AVPixFmtDescriptor& d) {
  return !(d.flags & AV_PIX_FMT_FLAG_BE) || d.comp[0].depth == 8;
}

/// The layout of a libav format that already is one component a plane, in our order.
std::optional<PictureFormat> planarFormat(const AVPixFmtDescriptor& d) {
  if (d.flags & (AV_PIX_FMT_FLAG_PAL | AV_PIX_FMT_FLAG_BITSTREAM | AV_PIX_FMT_FLAG_HWACCEL | AV_PIX_FMT_FLAG_BAYER))
    return std::nullopt;
  PictureFormat f;
  f.alpha = (d.flags & AV_PIX_FMT_FLAG_ALPHA) != 0;
  f.floating = (d.flags & AV_PIX_FMT_FLAG_FLOAT) != 0;
  f.bits = d.comp[0].depth;
  const int colours = d.nb_components - (f.alpha ? 1 : 0);
  f.model = colours == 1 ? ColourModel::Gray : d.flags & AV_PIX_FMT_FLAG_RGB ? ColourModel::Rgb : ColourModel::Yuv;
  if (f.model == ColourModel::Yuv) f.shiftX = d.log2_chroma_w, f.shiftY = d.log2_chroma_h;
  if (f.bits < 8 || (f.bits > 16 && !f.floating)) return std::nullopt;
  static constexpr int rgbPlane[] = {2, 0, 1, 3};
  for (int c = 0; c < d.nb_components; ++c) {
    const int plane = f.model == ColourModel::Rgb ? rgbPlane[c] : c;
    const auto& comp = d.comp[c];
    if (comp.plane != plane || comp.step != f.bytesPerSample() || comp.offset || comp.shift || comp.depth != f.bits)
      return std::nullopt;
  }
  return f;
}

}  // namespace

std::optional<AVPixelFormat> avFormat(const PictureFormat& format) {
  if (format.model == ColourModel::Gray && !format.alpha && format.bits == 8) return AV_PIX_FMT_GRAY8;
  const AVPixFmtDescriptor* d = nullptr;
  while ((d = av_pix_fmt_desc_next(d))) {
    const AVPixelFormat id = av_pix_fmt_desc_get_id(d);
    if (!native(*d) || std::string_view(d->name).starts_with("yuvj")) continue;
    if (planarFormat(*d) == format) return id;
  }
  return std::nullopt;
}

PictureFormat exactFormat(AVPixelFormat format) {
  const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(format);
  if (const auto planar = planarFormat(d)) return *planar;
  PictureFormat f;
  f.bits = 8;
  for (int c = 0; c < d.nb_components; ++c) f.bits = std::max(f.bits, d.comp[c].depth);
  f.alpha = (d.flags & (AV_PIX_FMT_FLAG_ALPHA | AV_PIX_FMT_FLAG_PAL)) != 0;
  const bool rgb = (d.flags & (AV_PIX_FMT_FLAG_RGB | AV_PIX_FMT_FLAG_PAL | AV_PIX_FMT_FLAG_BAYER)) != 0;
  const int colours = d.nb_components - ((d.flags & AV_PIX_FMT_FLAG_ALPHA) ? 1 : 0);
  if (rgb || f.alpha) {
    f.model = ColourModel::Rgb;
  } else if (colours == 1) {
    f.model = ColourModel::Gray;
  } else {
    f.shiftX = d.log2_chroma_w, f.shiftY = d.log2_chroma_h;
  }
  if (f.bits > 8 && (f.model == ColourModel::Rgb || f.bits > 12)) f.bits = 16;
  return f;
}

bool impliesFullRange(AVPixelFormat format) {
  const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(format);
  return std::string_view(d.name).starts_with("yuvj") || (d.flags & (AV_PIX_FMT_FLAG_RGB | AV_PIX_FMT_FLAG_PAL));
}

std::string formatText(const PictureFormat& f) {
  std::string text;
  if (f.model == ColourModel::Gray) text = "gray";
  if (f.model == ColourModel::Rgb) text = "RGB";
  if (f.model == ColourModel::Yuv) {
    text = f.shiftX == 0 && f.shiftY == 0   ? "4:4:4"
           : f.shiftX == 1 && f.shiftY == 0 ? "4:2:2"
           : f.shiftX == 1 && f.shiftY == 1 ? "4:2:0"
           : f.shiftX == 0 && f.shiftY == 1 ? "4:4:0"
           : f.shiftX == 2 && f.shiftY == 0 ? "4:1:1"
                                            : "4:1:0";
  }
  text += f.floating ? " float" : " " + std::to_string(f.bits) + "-bit";
  if (f.alpha) text += " with alpha";
  return text;
}

}  // namespace molten
