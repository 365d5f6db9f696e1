#pragma once
// Pictures in linear light that are kept to be mixed again and again.

#include <optional>
#include <span>

#include "core/picture/blend_mode.h"
#include "core/picture/working_format.h"

namespace molten {

/// Pictures of 8-bit video as R, G and B in linear light, in 16 bits a pixel and colour: the root of the light, with the
/// light's sign, from −3 to 3, so that steps are nowhere larger than a fifteenth of a sample's. To be made once from a
/// picture, and read in a small part of the time that its conversion takes. What is read and given back by a WorkingFormat
/// unaltered is the same to the bit. For several threads.
class KeptLight {
 public:
  /// None for other formats.
  static std::optional<KeptLight> of(const PictureShape& shape);

  /// The picture with what its chroma makes of the pixels around it.
  const PictureShape& shape() const { return kept_; }
  /// On the threads of the caller's ThreadLimit.
  Picture keep(const Picture& picture) const;
  /// Rows of a picture or of what keep() made of it, as WorkingFormat::takeRows(): the same to the bit from either.
  void takeRows(const Picture& picture, const WorkingTile& tile, int first, WorkingTile& rows) const;
  /// Lays what keep() made of some pictures to a tile, one after another, as combineRow() does rows of what takeRows()
  /// gives: to the bit. Weights of a layer that lies under others are those of what still shows of it.
  void combine(BlendMode blend, std::span<const Picture* const> kept, std::span<const float> weights,
               WorkingTile& mixed) const;

 private:
  explicit KeptLight(const PictureShape& shape);

  Size size_;  ///< of the pictures
  PictureShape kept_;
  WorkingFormat takes_;
};

}  // namespace molten
