#include "core/picture/convert.h"

#include "core/picture/tone_mapping.h"

extern "C" {
#include <libavutil/opt.h>
#include <libavutil/pixdesc.h>
#include <libswscale/swscale.h>
}

#include <cstring>
#include <string>

namespace molten {
namespace {

int swsFlags(Scaling scaling) {
  if (scaling == Scaling::Screen) return SWS_BILINEAR;
  return SWS_BICUBIC | SWS_ACCURATE_RND | SWS_BITEXACT | SWS_FULL_CHR_H_INT | SWS_FULL_CHR_H_INP;
}

/// Chroma offset of a site in 1/256 of a luma pixel, as libswscale wants it.
void setSites(SwsContext* context, const char* prefix, AVPixelFormat format, AVChromaLocation site) {
  const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(format);
  if (site == AVCHROMA_LOC_UNSPECIFIED) site = AVCHROMA_LOC_LEFT;
  const bool left = site == AVCHROMA_LOC_LEFT || site == AVCHROMA_LOC_TOPLEFT || site == AVCHROMA_LOC_BOTTOMLEFT;
  const bool top = site == AVCHROMA_LOC_TOPLEFT || site == AVCHROMA_LOC_TOP;
  const bool bottom = site == AVCHROMA_LOC_BOTTOMLEFT || site == AVCHROMA_LOC_BOTTOM;
  if (d.log2_chroma_w) av_opt_set_int(context, (std::string(prefix) + "_h_chr_pos").c_str(), left ? 0 : 128, 0);
  if (d.log2_chroma_h)
    av_opt_set_int(context, (std::string(prefix) + "_v_chr_pos").c_str(), top ? 0 : bottom ? 256 : 128, 0);
}

bool isRgb(AVPixelFormat format) {
  return av_pix_fmt_desc_get(format)->flags & (AV_PIX_FMT_FLAG_RGB | AV_PIX_FMT_FLAG_PAL);
}

void planesOf(const Picture& picture, const std::uint8_t* data[4], int stride[4]) {
  for (int p = 0; p < 4; ++p) {
    data[p] = picture.plane(p).data;
    stride[p] = static_cast<int>(picture.plane(p).stride);
  }
}

constexpr std::uint64_t told = AV_PIX_FMT_FLAG_RGB | AV_PIX_FMT_FLAG_PAL | AV_PIX_FMT_FLAG_BITSTREAM | AV_PIX_FMT_FLAG_FLOAT;

/// True if two RGB formats with alpha differ in where their samples lie alone.
bool onlyLaidOtherwise(AVPixelFormat from, AVPixelFormat to) {
  const AVPixFmtDescriptor &a = *av_pix_fmt_desc_get(from), &b = *av_pix_fmt_desc_get(to);
  if ((a.flags & told) != (b.flags & told) || !(a.flags & AV_PIX_FMT_FLAG_RGB) || (a.flags & (AV_PIX_FMT_FLAG_PAL | AV_PIX_FMT_FLAG_BITSTREAM))) return false;
  if (a.nb_components != 4 || b.nb_components != 4) return false;
  for (int c = 0; c < a.nb_components; ++c)
    if (a.comp[c].depth != b.comp[c].depth || a.comp[c].depth > 16 || a.comp[c].shift != 0 || b.comp[c].shift != 0) return false;
  return true;
}

template <class Sample>
void layRow(const std::uint8_t* from, int fromStep, std::uint8_t* to, int toStep, int count, bool turned) {
  for (int x = 0; x < count; ++x, from += fromStep, to += toStep) {
    Sample sample;
    std::memcpy(&sample, from, sizeof sample);
    if (turned && sizeof sample == 2) sample = static_cast<Sample>(sample << 8 | sample >> 8);
    std::memcpy(to, &sample, sizeof sample);
  }
}

/// Sample for sample: libswscale is off by one in alpha there. Of one or two bytes a sample.
void layOtherwise(AVPixelFormat from, const std::uint8_t* const* fromData, const int* fromStride, AVPixelFormat to, std::uint8_t* const* toData,
                  const int* toStride, Size size) {
  const AVPixFmtDescriptor &a = *av_pix_fmt_desc_get(from), &b = *av_pix_fmt_desc_get(to);
  const bool turned = (a.flags & AV_PIX_FMT_FLAG_BE) != (b.flags & AV_PIX_FMT_FLAG_BE);
  for (int c = 0; c < a.nb_components; ++c) {
    const AVComponentDescriptor &in = a.comp[c], &out = b.comp[c];
    for (int y = 0; y < size.height; ++y) {
      const std::uint8_t* const read = fromData[in.plane] + static_cast<std::ptrdiff_t>(y) * fromStride[in.plane] + in.offset;
      std::uint8_t* const written = toData[out.plane] + static_cast<std::ptrdiff_t>(y) * toStride[out.plane] + out.offset;
      (in.depth > 8 ? layRow<std::uint16_t> : layRow<std::uint8_t>)(read, in.step, written, out.step, size.width, turned);
    }
  }
}

/// Gray with alpha has no planar libav twin: the same values as RGB with alpha, the gray plane three times.
Picture nameable(const Picture& picture) {
  if (avFormat(picture.format())) return picture;
  PictureShape shape = picture.shape();
  if (shape.format.model != ColourModel::Gray || !shape.format.alpha) return picture;
  shape.format.model = ColourModel::Rgb;
  const auto gray = picture.plane(0);
  return {shape, {gray, gray, gray, picture.plane(1)}, std::make_shared<Picture>(picture)};
}

}  // namespace

AVColorSpace meantMatrix(const PictureShape& shape) {
  if (shape.format.model == ColourModel::Rgb) return AVCOL_SPC_RGB;
  if (shape.colour.matrix != AVCOL_SPC_UNSPECIFIED && shape.colour.matrix != AVCOL_SPC_RGB) return shape.colour.matrix;
  return shape.size.height >= 720 ? AVCOL_SPC_BT709 : AVCOL_SPC_SMPTE170M;
}

Converter::~Converter() {
  sws_freeContext(context_);
}

Status Converter::run(const Side& from, const std::uint8_t* const* fromData, const int* fromStride, const Side& to,
                      std::uint8_t* const* toData, const int* toStride, Scaling scaling) {
  if (from.size == to.size && from.full == to.full && onlyLaidOtherwise(from.format, to.format)) {
    layOtherwise(from.format, fromData, fromStride, to.format, toData, toStride, to.size);
    return {};
  }
  if (!context_ || !(from == from_) || !(to == to_) || scaling != scaling_) {
    sws_freeContext(context_);
    context_ = sws_alloc_context();
    av_opt_set_int(context_, "srcw", from.size.width, 0);
    av_opt_set_int(context_, "srch", from.size.height, 0);
    av_opt_set_int(context_, "src_format", from.format, 0);
    av_opt_set_int(context_, "dstw", to.size.width, 0);
    av_opt_set_int(context_, "dsth", to.size.height, 0);
    av_opt_set_int(context_, "dst_format", to.format, 0);
    av_opt_set_int(context_, "sws_flags", swsFlags(scaling), 0);
    setSites(context_, "src", from.format, from.site);
    setSites(context_, "dst", to.format, to.site);
    // The matrix of the side that is not RGB counts for both; between two such sides they are told apart.
    const auto matrix = [](const Side& side, const Side& other) {
      return sws_getCoefficients(isRgb(side.format) ? other.matrix : side.matrix);
    };
    sws_setColorspaceDetails(context_, matrix(from, to), from.full, matrix(to, from), to.full, 0, 1 << 16, 1 << 16);
    if (sws_init_context(context_, nullptr, nullptr) < 0) {
      sws_freeContext(context_);
      context_ = nullptr;
      return Error{std::string("Pictures of the kind ") + av_get_pix_fmt_name(from.format) +
                   " cannot be converted to " + av_get_pix_fmt_name(to.format) + "."};
    }
    sws_setColorspaceDetails(context_, matrix(from, to), from.full, matrix(to, from), to.full, 0, 1 << 16, 1 << 16);
    from_ = from;
    to_ = to;
    scaling_ = scaling;
  }
  sws_scale(context_, fromData, fromStride, 0, from.size.height, toData, toStride);
  return {};
}

Result<Picture> Converter::convert(const Picture& original, const PictureShape& to, Scaling scaling) {
  const Picture from = nameable(original);
  if (from.shape() == to) return from;
  const auto toFormat = avFormat(to.format);
  if (!toFormat) return Error{"There is no layout for " + formatText(to.format) + " pictures."};
  Picture out(to);
  std::uint8_t* data[4];
  int stride[4];
  for (int p = 0; p < 4; ++p) data[p] = out.plane(p).data, stride[p] = static_cast<int>(out.plane(p).stride);
  if (auto done = exportTo(from, data, stride, *toFormat, to.size, to.fullRange(), scaling); !done) return done.error();
  return out;
}

Result<Picture> Converter::import(const std::uint8_t* const data[4], const int stride[4], AVPixelFormat format,
                                  bool fullRange, const PictureShape& to) {
  const auto toFormat = avFormat(to.format);
  if (!toFormat) return Error{"There is no layout for " + formatText(to.format) + " pictures."};
  Picture out(to);
  std::uint8_t* outData[4];
  int outStride[4];
  for (int p = 0; p < 4; ++p) outData[p] = out.plane(p).data, outStride[p] = static_cast<int>(out.plane(p).stride);
  const AVColorSpace matrix = meantMatrix(to);
  const Side fromSide{format, to.size, fullRange, matrix, to.colour.chromaSite};
  const Side toSide{*toFormat, to.size, to.fullRange() || fullRange, matrix, to.colour.chromaSite};
  if (auto done = run(fromSide, data, stride, toSide, outData, outStride, Scaling::Bicubic); !done) return done.error();
  return out;
}

Status Converter::exportTo(const Picture& original, std::uint8_t* const data[4], const int stride[4],
                           AVPixelFormat format, Size size, bool fullRange, Scaling scaling) {
  const Picture from = nameable(original);
  const PictureShape& shape = from.shape();
  const auto fromFormat = avFormat(shape.format);
  if (!fromFormat) return Error{"There is no layout for " + formatText(shape.format) + " pictures."};
  const std::uint8_t* fromData[4];
  int fromStride[4];
  planesOf(from, fromData, fromStride);
  const bool grayFull = shape.format.model == ColourModel::Gray && shape.colour.range != AVCOL_RANGE_MPEG;
  const Side fromSide{*fromFormat, shape.size, shape.fullRange() || grayFull, meantMatrix(shape),
                      shape.colour.chromaSite};
  const Side toSide{format, size, fullRange, meantMatrix(shape), shape.colour.chromaSite};
  return run(fromSide, fromData, fromStride, toSide, data, stride, scaling);
}

Result<ScreenImage> toScreen(Converter& converter, const Picture& picture, Size size, Scaling enlarging) {
  ScreenImage image;
  image.size = size;
  // libswscale may write a whole vector past the last pixel.
  image.pixels.resize(static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height) + 16);
  std::uint8_t* const data[4] = {reinterpret_cast<std::uint8_t*>(image.pixels.data()), nullptr, nullptr, nullptr};
  const int stride[4] = {size.width * 4, 0, 0, 0};
  const bool smaller = size.width < picture.shape().size.width;
  const Scaling scaling = smaller ? Scaling::Screen : enlarging;
  if (const auto mapping = ToneMapping::of(picture.shape().colour)) {
    std::vector<std::uint16_t> deep(image.pixels.size() * 4);
    std::uint8_t* const deepData[4] = {reinterpret_cast<std::uint8_t*>(deep.data()), nullptr, nullptr, nullptr};
    const int deepStride[4] = {size.width * 8, 0, 0, 0};
    if (const auto done = converter.exportTo(picture, deepData, deepStride, AV_PIX_FMT_RGBA64LE, size, true, scaling); !done) return done.error();
    mapping->map(deep, image.pixels);
  } else if (const auto done = converter.exportTo(picture, data, stride, picture.format().alpha ? AV_PIX_FMT_BGRA : AV_PIX_FMT_BGR0, size, true, scaling);
             !done) {
    return done.error();
  }
  if (picture.format().alpha) {
    for (auto& p : image.pixels) {
      const std::uint32_t a = p >> 24;
      const auto times = [&](std::uint32_t c) { return ((c & 255) * a + 127) / 255; };
      p = a << 24 | times(p >> 16) << 16 | times(p >> 8) << 8 | times(p);
    }
  } else {
    for (auto& p : image.pixels) p |= 0xff000000u;
  }
  return image;
}

}  // namespace molten
