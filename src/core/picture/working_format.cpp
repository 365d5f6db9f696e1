#include "core/picture/working_format.h"

#include <algorithm>
#include <cmath>

#include "core/parallel.h"
#include "core/picture/convert.h"
#include "core/picture/sample_rows.h"
#include "core/picture/working_kernels.h"

namespace molten {
namespace {

struct Matrix {
  double red, blue;
};

/// Kr and Kb (ITU-T H.273, table 4).
Matrix matrixOf(AVColorSpace space) {
  switch (space) {
    case AVCOL_SPC_BT470BG:
    case AVCOL_SPC_SMPTE170M:
      return {0.299, 0.114};
    case AVCOL_SPC_FCC:
      return {0.30, 0.11};
    case AVCOL_SPC_SMPTE240M:
      return {0.212, 0.087};
    case AVCOL_SPC_BT2020_NCL:
    case AVCOL_SPC_BT2020_CL:
      return {0.2627, 0.0593};
    default:
      return {0.2126, 0.0722};
  }
}

int clamped(int i, int count) {
  return std::clamp(i, 0, count - 1);
}

}  // namespace

void WorkingTile::lay(const PixelBox& pixels) {
  box = pixels;
  // The far margin begins where the last chroma sample's pixels end, which may lie beyond the picture.
  width = (box.right - box.left + 3) / 4 * 4 + 2 * margin;
  height = (box.bottom - box.top + 3) / 4 * 4 + 2 * margin;
  for (auto& channel : channels) channel.resize(static_cast<std::size_t>(width) * static_cast<std::size_t>(height));
}

void overTiles(Size size, const std::function<void(const PixelBox&, WorkingTile&)>& work, Size each) {
  const int across = each.width, down = each.height;
  const int columns = (size.width + across - 1) / across, rows = (size.height + down - 1) / down;
  parallelRows(rows * columns, 1, [&](int from, int end) {
    WorkingTile tile;
    for (int i = from; i < end; ++i) {
      const int left = i % columns * across, top = i / columns * down;
      work({left, top, std::min(left + across, size.width), std::min(top + down, size.height)}, tile);
    }
  });
}

WorkingFormat::Site WorkingFormat::siteOf(int shift, bool first, bool second) {
  if (shift == 0) return Site::Own;
  if (shift > 1) return Site::Group;
  return first ? Site::First : second ? Site::Second : Site::Between;
}

WorkingFormat::WorkingFormat(const PictureShape& shape, Light light) : shape_(shape), light_(light) {
  const PictureFormat& format = shape.format;
  const auto site = shape.colour.chromaSite == AVCHROMA_LOC_UNSPECIFIED ? AVCHROMA_LOC_LEFT : shape.colour.chromaSite;
  const bool left = site == AVCHROMA_LOC_LEFT || site == AVCHROMA_LOC_TOPLEFT || site == AVCHROMA_LOC_BOTTOMLEFT;
  const bool top = site == AVCHROMA_LOC_TOPLEFT || site == AVCHROMA_LOC_TOP;
  const bool bottom = site == AVCHROMA_LOC_BOTTOMLEFT || site == AVCHROMA_LOC_BOTTOM;
  across_ = siteOf(format.shiftX, left, false);
  down_ = siteOf(format.shiftY, top, bottom);
  const Matrix matrix = matrixOf(meantMatrix(shape));
  red_ = matrix.red, blue_ = matrix.blue;
  top_ = format.floating ? 1.0f : static_cast<float>((1u << format.bits) - 1);
  const bool gray = format.model == ColourModel::Gray;
  const bool limited = !format.floating && (gray ? shape.colour.range == AVCOL_RANGE_MPEG : !shape.fullRange());
  if (!format.floating) {
    const auto step = static_cast<float>(1u << (format.bits - 8)) / top_;  // of an 8-bit value
    lumaLow_ = limited ? 16 * step : 0;
    lumaSpan_ = limited ? 219 * step : 1;
    chromaMiddle_ = 128 * step;
    chromaSpan_ = limited ? 224 * step : 1;
  }
  switch (shape.colour.transfer) {
    case AVCOL_TRC_LINEAR:
      break;
    case AVCOL_TRC_IEC61966_2_1:
      curve_ = Curve::Srgb;
      break;
    case AVCOL_TRC_GAMMA22:
      curve_ = Curve::Power, power_ = 2.2f;
      break;
    case AVCOL_TRC_GAMMA28:
      curve_ = Curve::Power, power_ = 2.8f;
      break;
    default:
      curve_ = format.model == ColourModel::Rgb ? Curve::Srgb : Curve::Power;
      power_ = 2.4f;
  }
}

/// Samples first … first + count − 1 of a row of a plane, 0…1 over their range; beyond the picture its edge goes on.
void WorkingFormat::sampleRow(const Picture& picture, int plane, int y, int first, int count, float* out) const {
  const int width = picture.planeWidth(plane);
  const std::uint8_t* const row = picture.row(plane, clamped(y, picture.planeHeight(plane)));
  const int begin = std::clamp(first, 0, width - 1), end = std::clamp(first + count, begin + 1, width);
  float* const inside = out + std::clamp(begin - first, 0, count - 1);
  const int some = std::min(end - begin, static_cast<int>(out + count - inside));
  unpackRow(shape_.format, row, begin, some, top_, inside);
  std::fill(out, inside, *inside);
  std::fill(inside + some, out + count, inside[some - 1]);
}

/// Chroma at the pixels of row y, from the sites around.
void WorkingFormat::spreadRow(const Picture& picture, int plane, int y, int left, int width, float* out) const {
  const int shiftX = shape_.format.shiftX, shiftY = shape_.format.shiftY;
  thread_local std::vector<float> near, far;
  const int j = y >> shiftY, first = (left >> shiftX) - 1, count = ((left + width - 1) >> shiftX) + 2 - first;
  near.resize(static_cast<std::size_t>(count));
  sampleRow(picture, plane, j, first, count, near.data());
  // The other row that this one lies between, and how much of it.
  const bool odd = (y & 1) != 0;
  int other = j;
  float share = 0;
  if (down_ == Site::First && odd) other = j + 1, share = 0.5f;
  if (down_ == Site::Second && !odd) other = j - 1, share = 0.5f;
  if (down_ == Site::Between) other = odd ? j + 1 : j - 1, share = 0.25f;
  if (share > 0) {
    far.resize(near.size());
    sampleRow(picture, plane, other, first, count, far.data());
    for (std::size_t i = 0; i < near.size(); ++i) near[i] = near[i] * (1 - share) + far[i] * share;
  }
  // Pixels come in pairs from an even one on.
  const float* const n = near.data() + 1;
  const int pairs = width / 2;
  switch (across_) {
    case Site::First:
      for (int m = 0; m < pairs; ++m) out[2 * m] = n[m], out[2 * m + 1] = (n[m] + n[m + 1]) / 2;
      break;
    case Site::Second:
      for (int m = 0; m < pairs; ++m) out[2 * m] = (n[m - 1] + n[m]) / 2, out[2 * m + 1] = n[m];
      break;
    case Site::Between:
      for (int m = 0; m < pairs; ++m) {
        out[2 * m] = n[m] * 0.75f + n[m - 1] * 0.25f;
        out[2 * m + 1] = n[m] * 0.75f + n[m + 1] * 0.25f;
      }
      break;
    default:
      for (int k = 0; k < width; ++k) out[k] = near[static_cast<std::size_t>(((left + k) >> shiftX) - first)];
  }
}

void WorkingFormat::take(const Picture& picture, const PixelBox& box, WorkingTile& tile) const {
  constexpr int margin = WorkingTile::margin;
  const PictureFormat& format = shape_.format;
  tile.lay(box);
  const auto count = static_cast<std::size_t>(tile.width) * static_cast<std::size_t>(tile.height);
  const auto spreadPlain = [&](int plane, int y, float* out) {
    sampleRow(picture, plane, y, box.left - margin, tile.width, out);
  };
  for (int r = 0; r < tile.height; ++r) {
    const int y = box.top - margin + r;
    float *const a = tile.row(0, r), *const b = tile.row(1, r), *const c = tile.row(2, r);
    if (format.model == ColourModel::Rgb) {
      // Planes are in the order G B R.
      spreadPlain(2, y, a), spreadPlain(0, y, b), spreadPlain(1, y, c);
    } else {
      spreadPlain(0, y, a);
      for (int k = 0; k < tile.width; ++k) a[k] = (a[k] - lumaLow_) / lumaSpan_;
      if (format.model == ColourModel::Gray) {
        std::copy_n(a, tile.width, b), std::copy_n(a, tile.width, c);
      } else {
        spreadRow(picture, 1, y, box.left - margin, tile.width, b);
        spreadRow(picture, 2, y, box.left - margin, tile.width, c);
        for (int k = 0; k < tile.width; ++k)
          b[k] = (b[k] - chromaMiddle_) / chromaSpan_, c[k] = (c[k] - chromaMiddle_) / chromaSpan_;
      }
    }
    if (format.alpha)
      spreadPlain(format.colourPlanes(), y, tile.row(3, r));
    else
      std::fill_n(tile.row(3, r), tile.width, 1.0f);
  }
  if (format.model == ColourModel::Yuv) toRgb(tile.row(0, 0), tile.row(1, 0), tile.row(2, 0), count, red_, blue_);
  fromDisplay(tile);
}

void WorkingFormat::fromDisplay(WorkingTile& tile) const {
  if (light_ == Light::Display || curve_ == Curve::None) return;
  const auto count = static_cast<std::size_t>(tile.width) * static_cast<std::size_t>(tile.height);
  for (int channel = 0; channel < 3; ++channel)
    curve_ == Curve::Srgb ? srgbToLinear(tile.row(channel, 0), count) : raise(tile.row(channel, 0), count, power_);
}

template <class At>
void WorkingFormat::undo(Site site, int count, At at, float* out) {
  const auto each = [&](auto one) {
    for (int i = 0; i < count; ++i) out[i] = one(i);
  };
  switch (site) {
    case Site::First:
      return each(
          [&](int i) { return -at(i, -2) / 8 + at(i, -1) / 4 + at(i, 0) * 0.75f + at(i, 1) / 4 - at(i, 2) / 8; });
    case Site::Second:
      return each(
          [&](int i) { return -at(i, -1) / 8 + at(i, 0) / 4 + at(i, 1) * 0.75f + at(i, 2) / 4 - at(i, 3) / 8; });
    case Site::Between:
      return each([&](int i) { return -at(i, -1) / 4 + at(i, 0) * 0.75f + at(i, 1) * 0.75f - at(i, 2) / 4; });
    case Site::Group:
      return each([&](int i) { return (at(i, 0) + at(i, 1) + at(i, 2) + at(i, 3)) / 4; });
    default:
      return each([&](int i) { return at(i, 0); });
  }
}

void WorkingFormat::toDisplay(WorkingTile& tile) const {
  if (light_ == Light::Display || curve_ == Curve::None) return;
  const auto count = static_cast<std::size_t>(tile.width) * static_cast<std::size_t>(tile.height);
  for (int channel = 0; channel < 3; ++channel)
    curve_ == Curve::Srgb ? linearToSrgb(tile.row(channel, 0), count) : raise(tile.row(channel, 0), count, 1 / power_);
}

void WorkingFormat::multiplyLight(WorkingTile& tile, const std::array<double, 3>& gains) const {
  for (std::size_t c = 0; c < 3; ++c) {
    std::vector<float>& values = tile.channels[c];
    // A power of a product is the product of the powers.
    const double gain = curve_ == Curve::Power ? std::pow(gains[c], 1 / static_cast<double>(power_)) : gains[c];
    if (curve_ == Curve::Srgb) srgbToLinear(values.data(), values.size());
    for (float& v : values) v *= static_cast<float>(gain);
    if (curve_ == Curve::Srgb) linearToSrgb(values.data(), values.size());
  }
}

double WorkingFormat::lumaOf(double sample) const {
  const double value = sample / static_cast<double>(top_);
  return shape_.format.model == ColourModel::Rgb
             ? value
             : (value - static_cast<double>(lumaLow_)) / static_cast<double>(lumaSpan_);
}

void WorkingFormat::give(const WorkingTile& source, Picture& picture) const {
  constexpr int margin = WorkingTile::margin;
  const PictureFormat& format = shape_.format;
  thread_local WorkingTile tile;
  tile = source;
  const auto count = static_cast<std::size_t>(tile.width) * static_cast<std::size_t>(tile.height);
  toDisplay(tile);
  if (format.model == ColourModel::Yuv) fromRgb(tile.row(0, 0), tile.row(1, 0), tile.row(2, 0), count, red_, blue_);
  const PixelBox& box = tile.box;
  static constexpr int rgbChannel[] = {1, 2, 0};
  for (int p = 0; p < format.planes(); ++p) {
    const bool chroma = format.isChromaPlane(p);
    const int channel = format.isAlphaPlane(p) ? 3 : format.model == ColourModel::Rgb ? rgbChannel[p] : p;
    float span = 1, low = 0;
    if (chroma)
      span = chromaSpan_, low = chromaMiddle_;
    else if (format.model != ColourModel::Rgb && channel != 3)
      span = lumaSpan_, low = lumaLow_;
    if (!chroma || (format.shiftX == 0 && format.shiftY == 0)) {
      for (int y = box.top; y < box.bottom; ++y)
        packRow(format, tile.row(channel, y - box.top + margin) + margin, box.right - box.left, span, low, top_,
                picture.writableRow(p, y), box.left);
      continue;
    }
    // Down first, then across: what spread them is undone.
    thread_local std::vector<float> line, made;
    line.resize(static_cast<std::size_t>(tile.width)), made.resize(line.size());
    const int toY = std::min(picture.planeHeight(p), (box.bottom + (1 << format.shiftY) - 1) >> format.shiftY);
    const int fromX = box.left >> format.shiftX;
    const int toX = std::min(picture.planeWidth(p), (box.right + (1 << format.shiftX) - 1) >> format.shiftX);
    for (int y = box.top >> format.shiftY; y < toY; ++y) {
      const int first = (y << format.shiftY) - box.top + margin;
      undo(
          down_, tile.width, [&](int k, int r) { return tile.row(channel, first + r)[k]; }, line.data());
      const float* const at = line.data() + (fromX << format.shiftX) - box.left + margin;
      undo(
          across_, toX - fromX, [&](int i, int k) { return at[(i << format.shiftX) + k]; }, made.data());
      packRow(format, made.data(), toX - fromX, span, low, top_, picture.writableRow(p, y), fromX);
    }
  }
}

}  // namespace molten
