#include "core/picture/picture.h"

#include <algorithm>
#include <cstdlib>
#include <cstring>

#include "core/picture/picture_memory.h"

namespace molten {
namespace {

std::size_t strideOf(const PictureFormat& format, int plane, int width) {
  const auto bytes = static_cast<std::size_t>(format.planeWidth(plane, width) * format.bytesPerSample());
  // 32 spare bytes: libswscale writes whole vectors past the end of a row.
  return (bytes + 32 + rowAlignment - 1) / rowAlignment * rowAlignment;
}

template <class Sample>
void turnPlane(const Picture& from, Picture& to, int plane, int degrees) {
  const int width = to.planeWidth(plane), height = to.planeHeight(plane);
  const auto source = [&](int x, int y) { return reinterpret_cast<const Sample*>(from.row(plane, y))[x]; };
  for (int y = 0; y < height; ++y) {
    auto* out = reinterpret_cast<Sample*>(to.writableRow(plane, y));
    for (int x = 0; x < width; ++x)
      out[x] = degrees == 90    ? source(y, width - 1 - x)
               : degrees == 180 ? source(width - 1 - x, height - 1 - y)
                                : source(height - 1 - y, x);
  }
}

}  // namespace

std::size_t PictureShape::bytes() const {
  std::size_t total = 0;
  for (int p = 0; p < format.planes(); ++p)
    total += strideOf(format, p, size.width) * static_cast<std::size_t>(format.planeHeight(p, size.height));
  return total;
}

Picture::Picture(const PictureShape& shape) : shape_(shape) {
  const std::shared_ptr<void> block = pictureMemory(shape.bytes() + rowAlignment);
  owner_ = block;
  auto* memory = static_cast<std::uint8_t*>(block.get());
  for (int p = 0; p < shape.format.planes(); ++p) {
    const std::size_t stride = strideOf(shape.format, p, shape.size.width);
    planes_[static_cast<std::size_t>(p)] = {memory, static_cast<std::ptrdiff_t>(stride)};
    memory += stride * static_cast<std::size_t>(shape.format.planeHeight(p, shape.size.height));
  }
}

std::uint32_t blackSample(const PictureShape& shape, int plane) {
  const PictureFormat& format = shape.format;
  if (format.floating || format.isAlphaPlane(plane) || format.model == ColourModel::Rgb) return 0;
  if (format.isChromaPlane(plane)) return 1u << (format.bits - 1);
  // Gray without a tag is full range, as stills are.
  const bool limited = format.model == ColourModel::Gray ? shape.colour.range == AVCOL_RANGE_MPEG : !shape.fullRange();
  return limited ? 16u << (format.bits - 8) : 0;
}

std::uint32_t opaqueSample(const PictureFormat& format) {
  return (1u << std::min(format.bits, 16)) - 1;
}

void fillSamples(std::uint8_t* row, int count, const PictureFormat& format, std::uint32_t value) {
  if (format.floating) {
    std::fill_n(reinterpret_cast<float*>(row), count, value ? 1.0f : 0.0f);
  } else if (format.bytesPerSample() == 2) {
    std::fill_n(reinterpret_cast<std::uint16_t*>(row), count, static_cast<std::uint16_t>(value));
  } else {
    std::memset(row, static_cast<int>(value), static_cast<std::size_t>(count));
  }
}

bool turnable(const PictureFormat& format, int degrees) {
  PictureFormat to = format;
  if (degrees % 180 != 0) std::swap(to.shiftX, to.shiftY);
  return avFormat(to).has_value();
}

PictureShape turnedShape(const PictureShape& from, int degrees) {
  PictureShape shape = from;
  if (degrees % 180 == 0) return shape;
  std::swap(shape.size.width, shape.size.height);
  std::swap(shape.format.shiftX, shape.format.shiftY);
  shape.pixelAspect = Rational(1) / shape.pixelAspect;
  // The site turns with the picture; between the rows and left of the columns has no name after a turn.
  shape.colour.chromaSite = AVCHROMA_LOC_UNSPECIFIED;
  return shape;
}

Picture turned(const Picture& picture, int degrees) {
  if (degrees == 0) return picture;
  const PictureShape shape = turnedShape(picture.shape(), degrees);
  Picture out(shape);
  for (int p = 0; p < shape.format.planes(); ++p) {
    switch (shape.format.bytesPerSample()) {
      case 1:
        turnPlane<std::uint8_t>(picture, out, p, degrees);
        break;
      case 2:
        turnPlane<std::uint16_t>(picture, out, p, degrees);
        break;
      default:
        turnPlane<std::uint32_t>(picture, out, p, degrees);
    }
  }
  return out;
}

}  // namespace molten
