#pragma once
// A picture: planes of samples, immutable once made, shared by reference.

#include <array>
#include <cstddef>
#include <cstdint>
#include <memory>

#include "core/picture/picture_format.h"
#include "core/time/rational.h"

namespace molten {

struct Size {
  int width = 0;   ///< in pixels
  int height = 0;  ///< in pixels
  friend bool operator==(const Size&, const Size&) = default;
};

/// Everything about a picture but its samples.
struct PictureShape {
  PictureFormat format;
  Size size;
  Rational pixelAspect = 1;  ///< width of a pixel over its height
  ColourTags colour;

  friend bool operator==(const PictureShape&, const PictureShape&) = default;
  /// Bytes that a buffer of this shape takes.
  std::size_t bytes() const;
  bool fullRange() const { return format.model == ColourModel::Rgb || colour.range == AVCOL_RANGE_JPEG; }
};

class Picture {
 public:
  struct Plane {
    std::uint8_t* data = nullptr;
    std::ptrdiff_t stride = 0;  ///< bytes between two rows; may be negative
  };

  Picture() = default;
  /// A new buffer with rows aligned to 64 bytes; samples undefined.
  explicit Picture(const PictureShape& shape);
  /// Borrows planes that `owner` keeps alive.
  Picture(const PictureShape& shape, const std::array<Plane, 4>& planes, std::shared_ptr<const void> owner)
      : shape_(shape), planes_(planes), owner_(std::move(owner)) {}

  explicit operator bool() const { return owner_ != nullptr; }
  const PictureShape& shape() const { return shape_; }
  const PictureFormat& format() const { return shape_.format; }
  int planeWidth(int plane) const { return shape_.format.planeWidth(plane, shape_.size.width); }
  int planeHeight(int plane) const { return shape_.format.planeHeight(plane, shape_.size.height); }
  std::size_t rowBytes(int plane) const {
    return static_cast<std::size_t>(planeWidth(plane)) * static_cast<std::size_t>(shape_.format.bytesPerSample());
  }

  const std::uint8_t* row(int plane, int y) const { return at(plane, y); }
  /// Only for the maker of a picture, before it is shared.
  std::uint8_t* writableRow(int plane, int y) { return at(plane, y); }
  const Plane& plane(int i) const { return planes_[static_cast<std::size_t>(i)]; }

  /// The same samples under other tags.
  Picture retagged(const PictureShape& shape) const { return {shape, planes_, owner_}; }

 private:
  std::uint8_t* at(int plane, int y) const {
    const Plane& p = planes_[static_cast<std::size_t>(plane)];
    return p.data + y * p.stride;
  }

  PictureShape shape_;
  std::array<Plane, 4> planes_{};
  std::shared_ptr<const void> owner_;
};

/// The sample value of black in a plane (0…2^bits − 1): limited range lifts gray and luma to 16/256, chroma is
/// the middle, alpha is clear.
std::uint32_t blackSample(const PictureShape& shape, int plane);

/// The sample value of an opaque alpha: 2^bits − 1.
std::uint32_t opaqueSample(const PictureFormat& format);

/// Fills `count` samples from `row` on with a value (floats: 0 for black, 1 for opaque, 0.5 never occurs).
void fillSamples(std::uint8_t* row, int count, const PictureFormat& format, std::uint32_t value);

/// Turned by 0, 90, 180 or 270 degrees clockwise; every sample is kept. A layout whose turned twin does not
/// exist (4:1:1) must be converted to 4:4:4 first: see turnable().
PictureShape turnedShape(const PictureShape& shape, int degrees);
Picture turned(const Picture& picture, int degrees);
bool turnable(const PictureFormat& format, int degrees);

}  // namespace molten
