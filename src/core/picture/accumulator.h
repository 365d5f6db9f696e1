#pragma once
// Several pictures made into one.

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "core/picture/blend_mode.h"
#include "core/picture/kept_light.h"
#include "core/picture/short_mix.h"
#include "core/picture/working_format.h"

namespace molten {

struct MixRecipe {
  BlendMode blend = BlendMode::Mean;
  Light light = Light::Display;
  /// The result's mean brightness (luma in display light) is brought to that of one of the pictures, before anything
  /// is cut off at white.
  std::optional<std::size_t> brightnessOf = std::nullopt;
};

/// What is needed so that only what moves is mixed: with m a soft mask of where a picture vₖ differs from the
/// background (its largest difference in display light, averaged over 3 × 3 pixels, from `leastMotion` to
/// `sureMotion`), vₖ becomes present + m·(vₖ − present), or m·vₖ where pictures add up, so that what stands still is
/// counted once. Layers, the present one too, are as opaque as m says, over the whole present picture.
struct MovingParts {
  Picture present, background;
  std::size_t presentAt = 0;  ///< its number among the pictures; it is mixed as it is
  static constexpr float leastMotion = 0.04f, sureMotion = 0.12f;
};
/// Sample by sample the median of some pictures of one shape; of an even number the lower of the middle two.
Picture medianOf(std::span<const Picture> pictures);

/// One picture in the making. Sums are of 32-bit floats, in the order of the pictures, so that the result does not
/// depend on threads or lots. Works on the caller's threads.
class Accumulator {
 public:
  /// `out` has the size of `in`: the same shape, or the floating one of wideShape(). `weights`: one a picture, ≥ 0.
  Accumulator(const PictureShape& in, const PictureShape& out, const MixRecipe& recipe, std::vector<float> weights);
  /// Only what moves is mixed from here on. Call before anything is added.
  void keepTo(MovingParts moving);

  /// In what form pictures that are to be added are worth keeping; none: as they are.
  const std::optional<KeptLight>& keptForm() const { return kept_; }
  /// The pictures from number `first` on, all of shape `in`, or in that form; every picture once, in order.
  void add(std::size_t first, std::span<const Picture> pictures);
  /// After the last one.
  Picture finish();

 private:
  struct Tile {
    WorkingTile mixed;            ///< alpha apart
    std::vector<float> coverage;  ///< of what has been mixed so far; where pictures have no alpha one value
    double luma = 0;              ///< sum over the box
    ShortMix::Tile shorts;        ///< in place of `mixed`, where that is reckoned in whole numbers
  };
  void keepToMoving(WorkingTile& taken, const WorkingTile& present, const WorkingTile& background,
                    const WorkingTile& shown) const;
  void addPlain(std::size_t first, std::span<const Picture> pictures);
  void finishPlain();
  float plainGain() const;
  void addTo(Tile& tile, int index, std::size_t first, std::span<const Picture> pictures, WorkingTile& taken) const;
  bool addKept(Tile& tile, std::size_t first, std::span<const Picture> pictures) const;
  void addMoving(Tile& tile, int index, std::size_t first, std::span<const Picture> pictures, WorkingTile& taken) const;
  void mix(Tile& tile, int row, const WorkingTile& with, float weight, float whole, float* coverage) const;
  void straighten(Tile& tile) const;
  void begin(Tile& tile) const;
  PixelBox box(int index) const;
  float share(std::size_t k) const;

  PictureShape in_, out_;
  MixRecipe recipe_;
  std::vector<float> weights_;
  float largest_ = 0, all_ = 0;
  bool plain_;  ///< sums of samples, plane by plane: no colour has to be known
  std::optional<MovingParts> moving_;
  std::optional<ShortMix> short_;
  std::optional<KeptLight> kept_;
  WorkingFormat takes_, gives_, shows_, looks_;
  int columns_, tileCount_;
  Picture made_;
  std::vector<Tile> tiles_;               ///< kept from lot to lot
  std::vector<std::vector<float>> sums_;  ///< likewise, of each plane
  std::vector<double> means_;             ///< luma of each picture, 0…1, if it is asked for
  bool written_ = false;
};

/// The same planes in floats, in which nothing is cut off (black 0, white 1, no colour 0): what passes from one mix to
/// the next.
PictureShape wideShape(const PictureShape& shape);
/// The same picture in another of these two formats.
Picture narrowed(const Picture& wide, const PictureShape& to);

/// The mean luma of a picture over its black, 1 for white. In display light.
double meanLuma(const Picture& picture);

}  // namespace molten
