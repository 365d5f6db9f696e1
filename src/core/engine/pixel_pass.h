#pragma once
// Pixel work over a whole picture.

#include <memory>
#include <vector>

#include "core/picture/picture.h"
#include "core/stages/mixing.h"
#include "core/stages/pixel_work.h"

namespace molten {

using PixelChanges = std::vector<std::shared_ptr<const PixelChange>>;

/// All changes in turn, in one pass over tiles of floats; rounded once. `to`: the picture's size, in its own format or
/// another that it is to leave in. On the threads of the caller's ThreadLimit.
Picture worked(const Picture& picture, const PixelChanges& changes, const PictureShape& to);

/// Pixel work as a stage that makes its pictures, each of the one at the same moment: where what comes after it reads
/// pixels of several moments, which are changed each in its own way.
class WorkAsMixing : public Mixing {
 public:
  explicit WorkAsMixing(const PixelWork& work) : work_(work) {}
  std::vector<MixSource> sources(const Moment& moment) const override { return {{0, moment}}; }
  std::unique_ptr<Mixture> mixture(const Moment& moment, const MixShapes& shapes) const override;

 private:
  const PixelWork& work_;
};

}  // namespace molten
