#pragma once
// Someone walking to and fro before the furnace, with a clock on the wall: what the simulated camera sees.

#include <vector>

#include "core/picture/picture.h"

namespace molten {

/// 4:2:0 of 8 bits, BT.709. The same moment gives the same picture. For one thread.
class FurnaceScene {
 public:
  explicit FurnaceScene(Size size);
  const PictureShape& shape() const { return shape_; }
  /// The picture at a moment, in seconds.
  Picture at(double seconds);

 private:
  struct Point {
    double x, y;  ///< in picture heights, from its upper left corner
  };
  void paintWall();
  /// A bar with round ends, as thick as `from` and `to` at them.
  void bar(Point a, Point b, double from, double to);
  void disc(Point at, double radius) { bar(at, at, radius, radius); }
  void person(double seconds);
  void clock(double seconds);
  /// What was covered since the last call, in one colour.
  void ink(Picture& picture, int luma, int blue, int red);

  PictureShape shape_;
  std::vector<Picture> walls_;  ///< as the fire flickers
  std::vector<std::uint8_t> covered_;  ///< how much of each pixel
  int left_, top_, right_, bottom_;    ///< of what is covered
};

}  // namespace molten
