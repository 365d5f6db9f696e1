#pragma once
// What is cut out of a picture: by its colour, or by how bright it is.

#include <array>
#include <vector>

#include "core/picture/working_format.h"

namespace molten {

/// How much of a picture's pixels is cut out.
struct KeyRecipe {
  bool byBrightness = false;
  std::array<float, 3> colour{};  ///< R G B of what is cut out, 0…1 as it is shown
  double near = 0.1;   ///< so far from it all is still cut out: 0…1
  double soft = 0.8;   ///< over so much more it comes to be there whole: 0…1
  double edgesIn = 0;  ///< by so much the edges of what is there are pulled in, in pixels
  double holes = 0;    ///< holes up to so wide are filled, likewise
  double spill = 1;    ///< how much of the colour's light that lies on what is there is taken away: 0…1
};

/// A picture's matte. By colour, in linear light: with P a pixel, K what is cut out as it looks around there, u the
/// direction of K's colour from gray, v what is square to both, p = P·u/K·u and c = |P·v|/K·u, what of K is in the pixel is
///   q = p − c/2,    and its alpha is  a = (1 − near − q)/soft,  held in 0…1.
/// What is then left of the pixel is (P − (1 − a)·K)/a, less the spill's part of its own light along u. By brightness,
/// in display light, q = 1 − |luma − K's luma|, and colours stay. K is what is shown around a pixel of all that is surely
/// of the key's colour, bright or dim: cloth that is lit unevenly is cut out evenly. For several threads once made.
class PictureKey {
 public:
  /// `scale`: the picture is so many times smaller than at its full size. On the threads of the caller's ThreadLimit.
  PictureKey(const Picture& picture, const KeyRecipe& recipe, int scale);

  /// The light that tiles are to be in.
  Light light() const { return recipe_.byBrightness ? Light::Display : Light::Linear; }
  /// What is there of each pixel, 0…1, row after row.
  const std::vector<float>& matte() const { return matte_; }
  /// The box of what is there at all.
  const PixelBox& there() const { return there_; }
  /// True if nothing is there in a tile of a box, margins too.
  bool nothingIn(const PixelBox& box) const;
  /// A tile of the picture in light(): its colours become those of what is there, its alpha as much.
  void apply(WorkingTile& tile) const;

 private:
  using Rgb = std::array<float, 3>;
  void byColour(const Picture& picture, const WorkingFormat& format);
  void byBrightness(const Picture& picture, const WorkingFormat& format);
  void tidy(int scale);
  /// What is cut out along a row, of each of the values that a cell has.
  template <std::size_t count>
  void clothRow(const std::vector<std::array<float, count>>& cells, int y, int left, int width, std::vector<float>& row) const;
  void findThere();
  void fillCloth(std::vector<float>& weights);

  KeyRecipe recipe_;
  Size size_;
  Rgb colour_{};           ///< of what is cut out, in light()
  Rgb along_{}, beside_{};  ///< u and v
  int cell_ = 16, across_ = 1, down_ = 1;
  std::vector<Rgb> cloth_;  ///< of cells of so many pixels each way
  PixelBox there_;
  std::vector<float> matte_;
};

}  // namespace molten
