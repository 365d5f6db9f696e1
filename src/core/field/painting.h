#pragma once
// A gray picture that is painted by hand: 16 bits deep, kept in tiles, so that a copy of it costs what was changed.

#include <array>
#include <memory>
#include <mutex>
#include <string>
#include <vector>

#include "core/field/gray_picture.h"

namespace molten {

/// Immutable. What has never been painted is 0: black.
class PaintedPicture {
 public:
  explicit PaintedPicture(Size size);
  PaintedPicture(Size size, std::span<const std::uint16_t> samples);

  Size size() const { return size_; }
  std::uint16_t at(int x, int y) const;
  /// Row after row.
  std::vector<std::uint16_t> samples() const;
  /// As numbers of 0…1; made when first asked for.
  std::shared_ptr<const GrayPicture> gray() const;
  /// Mixed with a level where a mask says so: at each pixel of a box, sample + (level − sample)·mask. `levels` and
  /// `mask` are 0…1, row after row of the box; what hangs over the edge of the picture is left aside.
  std::shared_ptr<const PaintedPicture> mixed(int left, int top, int width, int height, std::span<const float> levels,
                                              std::span<const float> mask) const;
  bool sameAs(const PaintedPicture& other) const;

 private:
  static constexpr int side = 64;
  using Tile = std::array<std::uint16_t, side * side>;
  std::shared_ptr<Tile>& tileAt(int column, int row) {
    return tiles_[static_cast<std::size_t>(row * across_ + column)];
  }

  Size size_;
  int across_, down_;
  std::vector<std::shared_ptr<Tile>> tiles_;  ///< shared between pictures and never changed; nullptr: all black
  mutable std::once_flag once_;
  mutable std::shared_ptr<const GrayPicture> gray_;
};

/// A parameter's value: the picture, or the file that it is still to be read from.
struct Painting {
  std::string file;
  std::shared_ptr<const PaintedPicture> picture;
  friend bool operator==(const Painting& a, const Painting& b) {
    if (a.picture == b.picture) return a.picture || a.file == b.file;
    return a.picture && b.picture && a.picture->sameAs(*b.picture);
  }
};

struct Brush {
  double radius = 40;     ///< in pixels of the painting
  double softness = 0.5;  ///< 0 a hard edge … 1 soft from the middle on
  double level = 1;       ///< 0…1
};

/// A stroke while it is drawn. Where it crosses itself it paints no more than once.
class Stroke {
 public:
  Stroke(std::shared_ptr<const PaintedPicture> base, const Brush& brush);
  /// Goes on to a place, in pixels; gives the picture with the stroke so far.
  std::shared_ptr<const PaintedPicture> to(double x, double y);

 private:
  std::shared_ptr<const PaintedPicture> base_, now_;
  Brush brush_;
  std::vector<float> mask_;  ///< of the whole picture
  bool begun_ = false;
  double x_ = 0, y_ = 0;
};

/// What lies within a line drawn round it (in pixels) takes a level; the border is softened over `soft` pixels.
std::shared_ptr<const PaintedPicture> filledWithin(const PaintedPicture& picture, std::span<const Place> line,
                                                   double level, double soft);
/// All of it goes evenly from one level at a place to another at a second one (in pixels), and is level beyond them.
std::shared_ptr<const PaintedPicture> withGradient(const PaintedPicture& picture, Place first, Place last, double from,
                                                   double to);
/// All of it takes a level.
std::shared_ptr<const PaintedPicture> filled(const PaintedPicture& picture, double level);

}  // namespace molten
