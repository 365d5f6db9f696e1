#pragma once
// The format in which stages mix and alter values: R G B and alpha as floats, a tile at a time.

#include <array>
#include <functional>
#include <vector>

#include "core/picture/chroma_sites.h"
#include "core/picture/picture.h"
#include "core/picture/sample_rows.h"

namespace molten {

/// Display: the values as they are shown. Linear: as much light as they stand for.
enum class Light { Display, Linear };

/// A rectangle of a picture, in pixels; right and bottom are outside.
struct PixelBox {
  int left = 0, top = 0, right = 0, bottom = 0;
};

/// Pixels of a box and of a margin around it, which chroma needs on the way back; beyond the picture its edge goes on.
struct WorkingTile {
  static constexpr int margin = 4;

  PixelBox box;
  int width = 0, height = 0;                   ///< in pixels, margins included
  std::array<std::vector<float>, 4> channels;  ///< R G B A, row after row; 0…1 is black…white, clear…opaque; straight

  /// Makes room for a box; what is in it is undefined.
  void lay(const PixelBox& pixels);
  /// How large it is then.
  static Size sizeOf(const PixelBox& pixels);
  float* row(int channel, int y) {
    return channels[static_cast<std::size_t>(channel)].data() + static_cast<std::ptrdiff_t>(y) * width;
  }
  const float* row(int channel, int y) const {
    return channels[static_cast<std::size_t>(channel)].data() + static_cast<std::ptrdiff_t>(y) * width;
  }
};

/// Calls work(box, tile) for boxes that cover a picture of this size, on the threads of the caller's ThreadLimit; the tile
/// is a thread's own. `each`: how large boxes are at most; multiples of four.
void overTiles(Size size, const std::function<void(const PixelBox& box, WorkingTile& tile)>& work,
               Size each = {256, 64});

/// Conversion for pictures of one shape. What is taken and given back unaltered is the same to the bit, at every depth,
/// matrix, range, chroma site and in both lights: chroma is spread to pixels by straight interpolation between its
/// sites and gathered from them by the short filters that undo just that,
///   on a pixel's own site   −1/8, 1/4, 3/4, 1/4, −1/8      between two pixels   −1/4, 3/4, 3/4, −1/4.
/// Linear light: the transfer that the colour tags name, BT.1886's power of 2.4 where they name a video curve.
/// For several threads.
class WorkingFormat {
 public:
  WorkingFormat(const PictureShape& shape, Light light);

  /// Box sides must be multiples of four pixels, or the picture's edges.
  void take(const Picture& picture, const PixelBox& box, WorkingTile& tile) const;
  /// A few rows of what take() gives, from row `first` of the tile, a multiple of rowsAtOnce, on; of the tile itself only where
  /// it lies counts. Where pictures have no alpha, none is made.
  void takeRows(const Picture& picture, const WorkingTile& tile, int first, WorkingTile& rows) const;
  static constexpr int rowsAtOnce = 4;  ///< a tile's height is a multiple of it
  /// Writes the box, without its margin. The tile is used up.
  void give(WorkingTile& tile, Picture& picture) const;
  /// Each channel's light times a gain ≥ 0; the tile is in display light.
  void multiplyLight(WorkingTile& tile, const std::array<double, 3>& gains) const;
  /// Values of this format's light as they are shown, and back.
  void toDisplay(WorkingTile& tile) const;
  void fromDisplay(WorkingTile& tile) const;

  /// Where pictures are gray: what has come to be of three values becomes one again, by luma.
  void toOneValue(WorkingTile& tile) const;

  /// Of the pictures, in pixels.
  Size size() const { return shape_.size; }
  /// How video's samples stand for colours.
  struct VideoScales {
    ChromaSite across, down;
    SampleScale luma, chroma;
    double red, blue;  ///< Kr and Kb
  };
  VideoScales videoScales() const { return {across_, down_, luma_, chroma_, red_, blue_}; }
  /// What red, green and blue weigh in luma.
  std::array<double, 3> lumaWeights() const { return {red_, 1 - red_ - blue_, blue_}; }
  /// Luma (0 black, 1 white) that a sample of the first plane stands for; of colour planes, that of a gray.
  double lumaOf(double sample) const;

 private:
  enum class Curve { None, Power, Srgb };
  /// What the samples of a plane stand for.
  SampleScale scaleOf(int plane) const;
  void sampleRow(const Picture& picture, int plane, int y, int first, int count, float* out) const;
  /// The chroma samples of a tile: row after row, from the site row `top` on.
  struct Sites {
    const float* values = nullptr;
    int top = 0, width = 0;
  };
  Sites sitesOf(const Picture& picture, int plane, const WorkingTile& tile, int first, int rows,
                std::vector<float>& memory) const;
  /// Rows first … first + rows − 1 of a tile to where `to` has its rows from `toFirst` on.
  void takeSome(const Picture& picture, const WorkingTile& tile, int first, int rows, WorkingTile& to, int toFirst) const;
  /// At the pixels of row y of the picture.
  void spread(const Sites& sites, int y, int width, float* out) const;
  void gather(const WorkingTile& tile, int plane, Picture& picture) const;
  /// Display values as this format's light.
  void toLight(float* values, std::size_t count) const;

  PictureShape shape_;
  Light light_;
  Curve curve_ = Curve::None;
  float power_ = 1;
  ChromaSite across_ = ChromaSite::Own, down_ = ChromaSite::Own;
  double red_ = 0, blue_ = 0;  ///< Kr and Kb of the matrix
  float top_ = 255;            ///< sample value of 1, in full range
  SampleScale luma_, chroma_;
};

}  // namespace molten
