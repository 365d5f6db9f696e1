#include "core/picture/working_format.h"

#include <algorithm>
#include <cmath>

#include "core/parallel.h"
#include "core/picture/convert.h"
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

/// In which channel of a tile a plane lies.
int channelOf(const PictureFormat& format, int plane) {
  static constexpr int ofRgb[] = {1, 2, 0};  // planes are in the order G B R
  if (format.isAlphaPlane(plane)) return 3;
  return format.model == ColourModel::Rgb ? ofRgb[plane] : plane;
}

}  // namespace

void WorkingTile::lay(const PixelBox& pixels) {
  box = pixels;
  const Size size = sizeOf(box);
  width = size.width, height = size.height;
  for (auto& channel : channels) channel.resize(static_cast<std::size_t>(width) * static_cast<std::size_t>(height));
}

Size WorkingTile::sizeOf(const PixelBox& box) {
  // The far margin begins where the last chroma sample's pixels end, which may lie beyond the picture.
  return {(box.right - box.left + 3) / 4 * 4 + 2 * margin, (box.bottom - box.top + 3) / 4 * 4 + 2 * margin};
}

void overTiles(Size size, const std::function<void(const PixelBox&, WorkingTile&)>& work, Size each) {
  const int across = each.width, down = each.height;
  const int columns = (size.width + across - 1) / across, rows = (size.height + down - 1) / down;
  parallelRows(rows * columns, 1, [&](int from, int end) {
    thread_local WorkingTile tile;
    for (int i = from; i < end; ++i) {
      const int left = i % columns * across, top = i / columns * down;
      work({left, top, std::min(left + across, size.width), std::min(top + down, size.height)}, tile);
    }
  });
}

WorkingFormat::WorkingFormat(const PictureShape& shape, Light light) : shape_(shape), light_(light) {
  const PictureFormat& format = shape.format;
  const auto site = shape.colour.chromaSite == AVCHROMA_LOC_UNSPECIFIED ? AVCHROMA_LOC_LEFT : shape.colour.chromaSite;
  const bool left = site == AVCHROMA_LOC_LEFT || site == AVCHROMA_LOC_TOPLEFT || site == AVCHROMA_LOC_BOTTOMLEFT;
  const bool top = site == AVCHROMA_LOC_TOPLEFT || site == AVCHROMA_LOC_TOP;
  const bool bottom = site == AVCHROMA_LOC_BOTTOMLEFT || site == AVCHROMA_LOC_BOTTOM;
  across_ = chromaSite(format.shiftX, left, false);
  down_ = chromaSite(format.shiftY, top, bottom);
  const Matrix matrix = matrixOf(meantMatrix(shape));
  red_ = matrix.red, blue_ = matrix.blue;
  top_ = format.floating ? 1.0f : static_cast<float>((1u << format.bits) - 1);
  const bool gray = format.model == ColourModel::Gray;
  const bool limited = !format.floating && (gray ? shape.colour.range == AVCOL_RANGE_MPEG : !shape.fullRange());
  luma_.span = top_;
  if (!format.floating) {
    const auto step = static_cast<float>(1u << (format.bits - 8));  // of an 8-bit value
    if (limited) luma_ = {16 * step, 219 * step};
    chroma_ = {128 * step, limited ? 224 * step : top_};
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

SampleScale WorkingFormat::scaleOf(int plane) const {
  const PictureFormat& format = shape_.format;
  if (format.isChromaPlane(plane)) return chroma_;
  return format.model == ColourModel::Rgb || format.isAlphaPlane(plane) ? SampleScale{0, top_} : luma_;
}

/// Samples first … first + count − 1 of a row of a plane; beyond the picture its edge goes on.
void WorkingFormat::sampleRow(const Picture& picture, int plane, int y, int first, int count, float* out) const {
  const int width = picture.planeWidth(plane);
  const std::uint8_t* const row = picture.row(plane, clamped(y, picture.planeHeight(plane)));
  const int begin = std::clamp(first, 0, width - 1), end = std::clamp(first + count, begin + 1, width);
  float* const inside = out + std::clamp(begin - first, 0, count - 1);
  const int some = std::min(end - begin, static_cast<int>(out + count - inside));
  unpackRow(shape_.format, row, begin, some, scaleOf(plane), inside);
  std::fill(out, inside, *inside);
  std::fill(inside + some, out + count, inside[some - 1]);
}

/// For rows first … first + rows − 1 of a tile, and those around.
WorkingFormat::Sites WorkingFormat::sitesOf(const Picture& picture, int plane, const WorkingTile& tile, int first, int rows,
                                            std::vector<float>& memory) const {
  // All of the tile, and one more on each side.
  constexpr int margin = WorkingTile::margin;
  const int shiftX = shape_.format.shiftX, shiftY = shape_.format.shiftY;
  Sites sites{nullptr, ((tile.box.top - margin + first) >> shiftY) - 1, (tile.width >> shiftX) + 2};
  const int left = ((tile.box.left - margin) >> shiftX) - 1, height = (rows >> shiftY) + 2;
  memory.resize(static_cast<std::size_t>(sites.width) * static_cast<std::size_t>(height));
  sites.values = memory.data();
  for (int j = 0; j < height; ++j)
    sampleRow(picture, plane, sites.top + j, left, sites.width, memory.data() + j * sites.width);
  return sites;
}

void WorkingFormat::spread(const Sites& sites, int y, int width, float* out) const {
  thread_local std::vector<float> line;
  const float* row = sites.values + ((y >> shape_.format.shiftY) - sites.top) * sites.width;
  if (const OtherRow other = otherRow(down_, y); other.step != 0) {
    line.resize(static_cast<std::size_t>(sites.width));
    blendRows(row, row + other.step * sites.width, other.share, sites.width, line.data());
    row = line.data();
  }
  spreadAcross(across_, row + 1, width, out);
}

void WorkingFormat::take(const Picture& picture, const PixelBox& box, WorkingTile& tile) const {
  tile.lay(box);
  // A few rows at once, as they are still at hand.
  for (int first = 0; first < tile.height; first += rowsAtOnce) takeSome(picture, tile, first, rowsAtOnce, tile, first);
  if (!shape_.format.alpha) std::fill(tile.channels[3].begin(), tile.channels[3].end(), 1.0f);
}

void WorkingFormat::takeRows(const Picture& picture, const WorkingTile& tile, int first, WorkingTile& rows) const {
  rows.box = tile.box, rows.width = tile.width, rows.height = rowsAtOnce;
  const std::size_t count = rowsAtOnce * static_cast<std::size_t>(tile.width);
  for (auto& channel : rows.channels) channel.resize(count);
  takeSome(picture, tile, first, rowsAtOnce, rows, 0);
}

void WorkingFormat::takeSome(const Picture& picture, const WorkingTile& tile, int first, int rows, WorkingTile& to,
                             int toFirst) const {
  constexpr int margin = WorkingTile::margin;
  const PictureFormat& format = shape_.format;
  thread_local std::vector<float> memory[2];
  Sites sites[2];
  const bool yuv = format.model == ColourModel::Yuv;
  for (int p = 0; p < 2 && yuv; ++p) sites[p] = sitesOf(picture, 1 + p, tile, first, rows, memory[p]);
  for (int r = 0; r < rows; ++r) {
    const int y = tile.box.top - margin + first + r;
    for (int p = 0; p < format.planes(); ++p) {
      float* const row = to.row(channelOf(format, p), toFirst + r);
      if (format.isChromaPlane(p))
        spread(sites[p - 1], y, tile.width, row);
      else
        sampleRow(picture, p, y, tile.box.left - margin, tile.width, row);
    }
  }
  const std::size_t count = static_cast<std::size_t>(rows) * static_cast<std::size_t>(tile.width);
  float *const red = to.row(0, toFirst), *const green = to.row(1, toFirst), *const blue = to.row(2, toFirst);
  if (yuv) toRgb(red, green, blue, count, red_, blue_);
  if (format.model == ColourModel::Gray) std::copy_n(red, count, green), std::copy_n(red, count, blue);
  toLight(red, count), toLight(green, count), toLight(blue, count);
}

void WorkingFormat::toLight(float* values, std::size_t count) const {
  if (light_ == Light::Display || curve_ == Curve::None) return;
  curve_ == Curve::Srgb ? srgbToLinear(values, count) : raise(values, count, power_);
}

void WorkingFormat::fromDisplay(WorkingTile& tile) const {
  const auto count = static_cast<std::size_t>(tile.width) * static_cast<std::size_t>(tile.height);
  for (int channel = 0; channel < 3; ++channel) toLight(tile.row(channel, 0), count);
}

void WorkingFormat::toOneValue(WorkingTile& tile) const {
  if (shape_.format.model != ColourModel::Gray) return;
  const auto weights = lumaWeights();
  const float red = static_cast<float>(weights[0]), green = static_cast<float>(weights[1]),
              blue = static_cast<float>(weights[2]);
  float* const r = tile.channels[0].data();
  const float *const g = tile.channels[1].data(), *const b = tile.channels[2].data();
  for (std::size_t i = 0; i < tile.channels[0].size(); ++i) r[i] = red * r[i] + green * g[i] + blue * b[i];
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
    multiply(values.data(), values.size(), static_cast<float>(gain));
    if (curve_ == Curve::Srgb) linearToSrgb(values.data(), values.size());
  }
}

double WorkingFormat::lumaOf(double sample) const {
  const SampleScale scale = scaleOf(0);
  return (sample - static_cast<double>(scale.low)) / static_cast<double>(scale.span);
}

void WorkingFormat::gather(const WorkingTile& tile, int plane, Picture& picture) const {
  constexpr int margin = WorkingTile::margin;
  const PixelBox& box = tile.box;
  const int shiftX = shape_.format.shiftX, shiftY = shape_.format.shiftY;
  const int left = box.left >> shiftX, top = box.top >> shiftY;
  const int right = std::min(picture.planeWidth(plane), (box.right + (1 << shiftX) - 1) >> shiftX);
  const int bottom = std::min(picture.planeHeight(plane), (box.bottom + (1 << shiftY) - 1) >> shiftY);
  thread_local std::vector<float> line, made;
  line.resize(static_cast<std::size_t>(tile.width)), made.resize(line.size());
  // Down first, then across: what spread them is undone.
  for (int y = top; y < bottom; ++y) {
    gatherDown(down_, tile.row(channelOf(shape_.format, plane), (y << shiftY) - box.top + margin), tile.width, tile.width, line.data());
    gatherAcross(across_, line.data() + (left << shiftX) - box.left + margin, right - left, made.data());
    packRow(shape_.format, made.data(), right - left, scaleOf(plane), top_, picture.writableRow(plane, y), left);
  }
}

void WorkingFormat::give(WorkingTile& tile, Picture& picture) const {
  constexpr int margin = WorkingTile::margin;
  const PictureFormat& format = shape_.format;
  const PixelBox& box = tile.box;
  toDisplay(tile);
  const auto apart = [&format](int plane) {
    return format.isChromaPlane(plane) && format.shiftX + format.shiftY > 0;
  };
  for (int first = 0; first < tile.height; first += rowsAtOnce) {
    const std::size_t count = rowsAtOnce * static_cast<std::size_t>(tile.width);
    if (format.model == ColourModel::Yuv)
      fromRgb(tile.row(0, first), tile.row(1, first), tile.row(2, first), count, red_, blue_);
    const int top = box.top - margin + first;
    for (int y = std::max(top, box.top); y < std::min(top + rowsAtOnce, box.bottom); ++y)
      for (int p = 0; p < format.planes(); ++p)
        if (!apart(p))
          packRow(format, tile.row(channelOf(format, p), y - box.top + margin) + margin, box.right - box.left, scaleOf(p),
                  top_, picture.writableRow(p, y), box.left);
  }
  for (int p = 0; p < format.planes(); ++p)
    if (apart(p)) gather(tile, p, picture);
}

}  // namespace molten
