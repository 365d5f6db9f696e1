#include <algorithm>
#include <cctype>
#include <filesystem>

#include "core/media/av_handles.h"
#include "core/media/av_versions.h"
#include "core/media/picture_encoder.h"
#include "core/media/recoded_file.h"
#include "core/media/picture_writer.h"
#include "core/media/stills_reader.h"
#include "core/near_word.h"

extern "C" {
#include <libavutil/pixdesc.h>
}

namespace molten {
namespace {

using Formats = std::vector<AVPixelFormat>;

/// FFV1 holds nearly every layout as it is; 8-bit RGB it keeps packed.
AVPixelFormat ffv1Format(const PictureFormat& format) {
  if (format.model == ColourModel::Gray && format.alpha) return AV_PIX_FMT_BGRA;
  if (format.model == ColourModel::Rgb && format.bits == 8) return format.alpha ? AV_PIX_FMT_BGRA : AV_PIX_FMT_BGR0;
  const AVCodec* encoder = avcodec_find_encoder(AV_CODEC_ID_FFV1);
  const auto own = avFormat(format);
  const auto taken = encoderPixelFormats(*encoder);
  if (own && std::find(taken.begin(), taken.end(), *own) != taken.end()) return *own;
  if (format.model == ColourModel::Yuv) return format.alpha ? AV_PIX_FMT_YUVA444P16 : AV_PIX_FMT_YUV444P16;
  return format.alpha ? AV_PIX_FMT_GBRAP16 : AV_PIX_FMT_GBRP16;
}

AVPixelFormat stillFormat(const PictureFormat& format, bool deep, bool bigEndian) {
  if (format.model == ColourModel::Gray && !format.alpha)
    return !deep ? AV_PIX_FMT_GRAY8 : bigEndian ? AV_PIX_FMT_GRAY16BE : AV_PIX_FMT_GRAY16LE;
  if (!deep) return format.alpha ? AV_PIX_FMT_RGBA : AV_PIX_FMT_RGB24;
  if (format.alpha) return bigEndian ? AV_PIX_FMT_RGBA64BE : AV_PIX_FMT_RGBA64LE;
  return bigEndian ? AV_PIX_FMT_RGB48BE : AV_PIX_FMT_RGB48LE;
}

constexpr std::size_t mostDigits = 20;

/// True if a pattern asks for a longer number than is ever needed: a slip, or worse.
bool asksForTooManyDigits(const std::string& pattern) {
  const auto place = numberPlace(pattern);
  if (!place) return false;
  const auto first = std::min(place->digits.find_first_not_of('0'), place->digits.size());
  const std::string digits = place->digits.substr(first);
  return digits.size() > 2 || (!digits.empty() && std::stoul(digits) > mostDigits);
}

std::string extensionOf(const std::string& path) {
  std::string extension = std::filesystem::path(path).extension().string();
  for (char& c : extension) c = static_cast<char>(std::tolower(static_cast<unsigned char>(c)));
  return extension;
}

std::vector<CodecDescription> installed(std::vector<CodecDescription> all) {
  std::erase_if(all, [](const CodecDescription& codec) { return !canEncode(codec.id); });
  return all;
}

}  // namespace

const std::vector<CodecDescription>& codecs() {
  static const std::vector<CodecDescription> all = installed({
      {"h264",
       "H.264",
       {".mp4", ".mov", ".mkv"},
       false,
       18,
       0,
       51,
       "constant quality: 0 is best, 18 looks like the source, 51 is worst"},
      {"h264-10", "H.264, 10-bit", {".mp4", ".mov", ".mkv"}, false, 18, 0, 51, "constant quality: 0 is best, 18 looks like the source, 51 is worst"},
      {"h265", "H.265", {".mp4", ".mov", ".mkv"}, false, 22, 0, 51, "constant quality: 0 is best, 22 looks like the source, 51 is worst"},
      {"h265-10", "H.265, 10-bit", {".mp4", ".mov", ".mkv"}, false, 22, 0, 51, "constant quality: 0 is best, 22 looks like the source, 51 is worst"},
      {"av1", "AV1", {".mp4", ".webm", ".mkv"}, false, 28, 1, 63, "constant quality: 1 is best, 28 looks like the source, 63 is worst"},
      {"av1-10", "AV1, 10-bit", {".mp4", ".webm", ".mkv"}, false, 28, 1, 63, "constant quality: 1 is best, 28 looks like the source, 63 is worst"},
      {"prores",
       "ProRes",
       {".mov", ".mkv"},
       false,
       3,
       0,
       5,
       "profile: 0 proxy, 1 LT, 2 standard, 3 HQ, 4 4444, 5 4444 XQ"},
      {"ffv1", "FFV1, lossless", {".mkv"}, false, -1, 0, 0, ""},
      {"vp9", "VP9", {".webm", ".mkv"}, false, 24, 0, 63, "constant quality: 0 is best, 63 is worst"},
      {"gif", "GIF", {".gif"}, false, -1, 0, 0, ""},
      {"webp", "WebP", {".webp"}, false, 80, 0, 100, "100 is best, 80 looks like the source, 0 is worst", false},
      {"png", "PNG stills, 8-bit", {".png"}, true, -1, 0, 0, ""},
      {"png16", "PNG stills, 16-bit", {".png"}, true, -1, 0, 0, ""},
      {"tiff", "TIFF stills, 8-bit", {".tif", ".tiff"}, true, -1, 0, 0, ""},
      {"tiff16", "TIFF stills, 16-bit", {".tif", ".tiff"}, true, -1, 0, 0, ""},
      {"exr", "EXR stills, 32-bit float", {".exr"}, true, -1, 0, 0, ""},
  });
  return all;
}

bool canBeFootage(const std::string& path) {
  const std::string extension = extensionOf(path);
  return std::none_of(codecs().begin(), codecs().end(), [&](const CodecDescription& codec) {
    return !codec.readable && std::find(codec.extensions.begin(), codec.extensions.end(), extension) != codec.extensions.end();
  });
}

std::string stillPath(const std::string& pattern, std::int64_t n) {
  const auto place = numberPlace(pattern);
  if (!place) return pattern;
  std::string number = std::to_string(n);
  std::size_t width = 0;
  for (const char c : place->digits) width = std::min<std::size_t>(mostDigits, width * 10 + static_cast<std::size_t>(c - '0'));
  if (number.size() < width) number.insert(0, width - number.size(), '0');
  return pattern.substr(0, place->begin) + number + pattern.substr(place->end);
}

std::string outputFile(const OutputSpec& spec, std::int64_t k) {
  const bool numbered = !spec.single && isStillsPattern(spec.path);
  return numbered ? stillPath(spec.path, spec.first + k) : spec.path;
}

Result<const CodecDescription*> codecAsked(const std::string& path, const std::string& id, int quality) {
  const std::string extension = extensionOf(path), name = fileName(path);
  const CodecDescription* asked = nullptr;
  std::string endings;
  std::vector<std::string> ids;
  bool known = false;
  for (const auto& codec : codecs()) {
    const bool fits = std::find(codec.extensions.begin(), codec.extensions.end(), extension) != codec.extensions.end();
    known = known || fits;
    ids.push_back(codec.id);
    if (!id.empty() ? codec.id == id && fits : fits && codec.extensions[0] == extension) {
      asked = &codec;
      break;
    }
    if (!id.empty() && codec.id == id)
      for (const auto& e : codec.extensions) endings += (endings.empty() ? "" : ", ") + e;
  }
  if (!asked && !id.empty() && !endings.empty())
    return Error{"The codec " + id + " goes into " + endings + ", not into " + name + "; change the name's ending."};
  // `.mov` alone means ProRes, `.tiff` and `.mkv` their usual codec.
  if (!asked && id.empty())
    for (const auto& codec : codecs())
      if ((extension == ".mov" && codec.id == "prores") || (extension == ".tiff" && codec.id == "tiff")) asked = &codec;
  if (!asked && known) return Error{"There is no codec named " + id + "." + didYouMean(id, ids)};
  if (!asked)
    return Error{name +
                 " does not say what to write: end the name in .mp4, .mov, .mkv, .webm, -%05d.png, "
                 "-%05d.tif or -%05d.exr; .gif and .webp hold loops."};
  if (quality >= 0 && asked->qualityDefault >= 0 && (quality < asked->qualityLeast || quality > asked->qualityMost))
    return Error{"Quality " + std::to_string(quality) + " is not one of " + asked->label + "'s: " + asked->qualityHelp + "."};
  return asked;
}

Result<OutputPlan> planOutput(const OutputSpec& spec) {
  const auto asked = codecAsked(spec.path, spec.codec, spec.quality);
  if (!asked) return asked.error();
  const std::string extension = extensionOf(spec.path), name = fileName(spec.path);
  const PictureFormat& from = spec.shape.format;
  OutputPlan plan;
  plan.codec = *asked;
  // What is deeper than 8 bits stays so, unless it is asked to be otherwise.
  if (spec.codec.empty() && from.bits > 8)
    for (const auto& deep : codecs())
      if (!spec.growing && (deep.id == plan.codec->id + "-10" || deep.id == plan.codec->id + "16")) plan.codec = &deep;

  const std::string& id = plan.codec->id;
  if (spec.growing && (plan.codec->id != "h264" || (extension != ".mp4" && extension != ".mov")))
    return Error{"A recording is an .mp4 or .mov file with H.264; choose a name that ends so."};
  if (plan.codec->stills && !spec.single && !isStillsPattern(spec.path))
    return Error{name + " would be many stills under one name; put a number into it, like name-%05d" + extension + "."};
  if (plan.codec->stills && isStillsPattern(spec.path) && asksForTooManyDigits(spec.path))
    return Error{name + " asks for numbers of more than " + std::to_string(mostDigits) + " digits; write name-%05d" +
                 extension + "."};
  plan.quality = spec.quality >= 0 ? spec.quality : plan.codec->qualityDefault;
  if (spec.sound) plan.soundText = plan.codec->stills ? "" : soundIn(extension);
  if (!spec.soundOf.empty()) plan.soundText = plan.codec->stills || isRecoded(*plan.codec) ? "" : "as it is";
  if ((spec.sound || !spec.soundOf.empty()) && plan.soundText.empty()) plan.notes.push_back((plan.codec->stills ? "Stills hold" : plan.codec->label + " holds") + " no sound: write that to a .wav or .flac.");
  plan.size = spec.shape.size;
  plan.fullRange = spec.shape.fullRange();
  if (id == "h264" || id == "h265" || id == "av1") plan.format = AV_PIX_FMT_YUV420P;
  if (id.ends_with("-10")) plan.format = AV_PIX_FMT_YUV420P10LE;
  // Without loss, to be encoded anew once all are known.
  if (id == "gif" || id == "webp") plan.format = AV_PIX_FMT_BGRA;
  if (id == "vp9") plan.format = from.alpha ? AV_PIX_FMT_YUVA420P : AV_PIX_FMT_YUV420P;
  if (id == "prores") {
    const bool most = from.alpha || plan.quality >= 4;
    if (from.alpha && plan.quality < 4) plan.quality = 4;
    plan.format = from.alpha ? AV_PIX_FMT_YUVA444P10LE : most ? AV_PIX_FMT_YUV444P10LE : AV_PIX_FMT_YUV422P10LE;
  }
  if (id == "ffv1") plan.format = ffv1Format(from);
  if (id == "png" || id == "png16") plan.format = stillFormat(from, id == "png16", true);
  if (id == "tiff" || id == "tiff16") plan.format = stillFormat(from, id == "tiff16", false);
  if (id == "exr") {
    plan.format = from.model == ColourModel::Gray && !from.alpha ? AV_PIX_FMT_GRAYF32LE
                  : from.alpha                                   ? AV_PIX_FMT_GBRAPF32LE
                                                                 : AV_PIX_FMT_GBRPF32LE;
    if (!from.floating) plan.notes.push_back("The values are those that are displayed, not linear light.");
  }
  const AVPixFmtDescriptor& d = *av_pix_fmt_desc_get(plan.format);
  const bool rgbFile = (d.flags & AV_PIX_FMT_FLAG_RGB) != 0;
  if (rgbFile || plan.codec->stills) plan.fullRange = true;
  if (id == "prores" || (from.model == ColourModel::Rgb && !rgbFile)) plan.fullRange = false;
  if (id == "ffv1" && from.model == ColourModel::Gray) plan.fullRange = spec.shape.colour.range != AVCOL_RANGE_MPEG;
  plan.interdependent = (av_pix_fmt_desc_get(plan.format)->flags & AV_PIX_FMT_FLAG_RGB) == 0 && !plan.codec->stills && id != "prores" && id != "ffv1";
  if (plan.interdependent) plan.closedGroup = 120;
  if (plan.interdependent) {
    plan.size = {std::max(2, plan.size.width & ~1), std::max(2, plan.size.height & ~1)};
    if (!(plan.size == spec.shape.size))
      plan.notes.push_back(
          plan.codec->label + " needs an even size: the last " +
          (plan.size.width != spec.shape.size.width
               ? std::string(plan.size.height != spec.shape.size.height ? "column and row are" : "column is")
               : std::string("row is")) +
          " left out.");
  }
  if (from.alpha && !(d.flags & AV_PIX_FMT_FLAG_ALPHA))
    plan.notes.push_back(plan.codec->label + " holds no transparency: what is clear becomes black.");
  if (id == "gif" && spec.rate > Rational(50)) plan.notes.push_back("Viewers show a GIF at 50 fps at most, and slower what is meant to be quicker: choose a lower rate at Output.");
  if (id == "gif" && from.alpha) plan.notes.push_back("A pixel of a GIF is clear or it is not: soft edges become hard.");
  plan.secondPass = id == "gif";
  plan.formatText = plan.secondPass ? "256 colours" : formatText(exactFormat(plan.format));
  return plan;
}

}  // namespace molten
