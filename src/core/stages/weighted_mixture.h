#pragma once
// A mixture of whole pictures, each with one weight.

#include <deque>
#include <mutex>

#include "core/picture/accumulator.h"
#include "core/picture/equal_sum.h"
#include "core/stages/mixing.h"

namespace molten {

/// What is mixed, and how.
struct WeightedSources {
  std::vector<MixSource> sources;
  std::vector<float> weights;  ///< one a source, ≥ 0
  MixRecipe recipe;
  std::size_t present = 0;     ///< the source that is the present moment
  bool onlyWhatMoves = false;  ///< what stands still stays as it is at present
};

/// Sums of pictures of one weight, kept from one picture to the next: the next sum mostly differs by a picture that
/// comes in and one that goes out. Safe for several threads.
class RunningSums {
 public:
  struct Kept {
    std::vector<MixSource> sources;  ///< in it
    EqualSum sum;
  };
  /// The kept sum of this shape that can be turned into one of `wanted` with fewer pictures than a new one would take;
  /// taken out.
  std::optional<Kept> take(const std::vector<MixSource>& wanted, const PictureShape& shape);
  void give(Kept kept);

 private:
  /// With a spacing of several pictures as many sums take turns.
  static constexpr std::size_t mostKept = 8;
  static constexpr std::size_t mostBytes = std::size_t(96) << 20;
  std::mutex mutex_;
  std::deque<Kept> kept_;  ///< the newest first
};

/// `running`: where sums of equal weights are kept; must outlive the mixture. The result is the same to the bit with
/// whatever it holds.
std::unique_ptr<Mixture> weightedMixture(WeightedSources what, const MixShapes& shapes, RunningSums& running);

}  // namespace molten
