#pragma once
// The brightest or darkest of several pictures of 8-bit video, in whole numbers.

#include <array>
#include <optional>
#include <span>
#include <vector>

#include "core/picture/chroma_sites.h"
#include "core/picture/short_kernels.h"
#include "core/picture/working_format.h"

namespace molten {

/// For pictures of one shape; what a tile is made of may come in lots. Within a fifth of a sample of what WorkingFormat takes
/// and combineRow() makes of it, in display light. For several threads.
class ShortMix {
 public:
  /// A tile's red, green and blue: as a WorkingTile's, in 1/shortOne.
  using Tile = std::array<std::vector<std::int16_t>, 3>;

  /// None where pictures are not 8-bit video, or have an alpha, or chroma stands where it seldom does.
  static std::optional<ShortMix> of(const PictureShape& shape, bool brightest);

  /// Before the first picture. `laid`: where the tile lies.
  void begin(const WorkingTile& laid, Tile& tile) const;
  /// Weights are 0…1.
  void add(std::span<const Picture> pictures, std::span<const float> weights, const WorkingTile& laid, Tile& tile) const;
  /// After the last one.
  static void settle(const Tile& tile, WorkingTile& to);

 private:
  struct Rows;
  void takeChroma(const Picture& picture, int plane, int y, const WorkingTile& laid, Rows& rows, std::int16_t* out) const;

  bool brightest_ = true;
  int shiftX_ = 0, shiftY_ = 0;
  ChromaSite across_ = ChromaSite::Own, down_ = ChromaSite::Own;
  ShortMatrix matrix_;
};

}  // namespace molten
