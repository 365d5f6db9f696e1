#pragma once
// Several pictures made into one.

#include <cstdint>
#include <optional>
#include <span>
#include <vector>

#include "core/picture/working_format.h"

namespace molten {

/// How pictures vₖ with weights wₖ are combined, colour by colour, from the first to the last:
///   Add      Σ wₖ·vₖ                    Average   Σ wₖ·vₖ / Σ wₖ
///   Screen   1 − Π (1 − wₖ·vₖ)          Lighten   max wₖ·vₖ          Darken   min 1 − wₖ·(1 − vₖ)
///   Over     each laid over those before it, with opacity wₖ
///   Under    each laid under those before it, with opacity wₖ
/// Black is 0 and white 1; nothing is held between them before the end. Where pictures have an alpha aₖ, wₖ·aₖ stands
/// for wₖ; then Average has the alpha Σ wₖ·aₖ / Σ wₖ, Over and Under that of things laid over each other, the rest
/// 1 − Π (1 − aₖ·wₖ/w), w the largest weight.
enum class Combining { Add, Screen, Lighten, Darken, Average, Over, Under };

struct MixRecipe {
  Combining combining = Combining::Average;
  Light light = Light::Display;
  /// The result's mean brightness (luma in display light) is brought to that of one of the pictures, before anything
  /// is cut off at white.
  std::optional<std::size_t> brightnessOf = std::nullopt;
};

/// One picture in the making. Sums are of 32-bit floats, in the order of the pictures, so that the result does not
/// depend on threads or lots. Works on the caller's threads.
class Combination {
 public:
  /// `out` has the size of `in`: the same shape, or the floating one of wideShape(). `weights`: one a picture, ≥ 0.
  Combination(const PictureShape& in, const PictureShape& out, const MixRecipe& recipe, std::vector<float> weights);

  /// The pictures from number `first` on, all of shape `in`; every picture once, in order.
  void add(std::size_t first, std::span<const Picture> pictures);
  /// After the last one.
  Picture finish();

 private:
  struct Tile {
    WorkingTile mixed;            ///< alpha apart
    std::vector<float> coverage;  ///< of what has been mixed so far
    double luma = 0;              ///< sum over the box
  };
  void addPlain(std::size_t first, std::span<const Picture> pictures);
  void finishPlain();
  float plainGain() const;
  void addTo(Tile& tile, int index, std::size_t first, std::span<const Picture> pictures, WorkingTile& taken) const;
  void straighten(Tile& tile) const;
  void begin(Tile& tile) const;
  PixelBox box(int index) const;
  float share(std::size_t k) const;

  PictureShape in_, out_;
  MixRecipe recipe_;
  std::vector<float> weights_;
  float largest_ = 0, all_ = 0;
  bool plain_;  ///< sums of samples, plane by plane: no colour has to be known
  WorkingFormat takes_, gives_, shows_;
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
