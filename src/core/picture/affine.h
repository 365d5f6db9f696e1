#pragma once
// Straight ways from the places of one plane to those of another.

namespace molten {

/// (x, y) goes to (xx·x + xy·y + x0, yx·x + yy·y + y0).
struct Affine {
  double xx = 1, xy = 0, x0 = 0;
  double yx = 0, yy = 1, y0 = 0;
  double x(double px, double py) const { return xx * px + xy * py + x0; }
  double y(double px, double py) const { return yx * px + yy * py + y0; }
  double determinant() const { return xx * yy - xy * yx; }
  /// True if rows and columns go to rows and columns.
  bool upright() const { return xy == 0 && yx == 0; }
  /// Requires a determinant that is not 0.
  Affine inverse() const {
    const double d = determinant();
    Affine back{yy / d, -xy / d, 0, -yx / d, xx / d, 0};
    back.x0 = -(back.xx * x0 + back.xy * y0), back.y0 = -(back.yx * x0 + back.yy * y0);
    return back;
  }
  friend bool operator==(const Affine&, const Affine&) = default;
};

}  // namespace molten
