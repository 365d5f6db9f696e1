#pragma once
// Pixel work and frame work over whole pictures.

#include <memory>
#include <vector>

#include "core/picture/picture.h"
#include "core/stages/frame_work.h"
#include "core/stages/mixing.h"
#include "core/stages/pixel_work.h"

namespace molten {

using PixelChanges = std::vector<std::shared_ptr<const PixelChange>>;

/// All changes in turn, in one pass over tiles of floats; rounded once. `to`: the picture's size, in its own format or
/// another that it is to leave in. On the threads of the caller's ThreadLimit.
Picture worked(const Picture& picture, const PixelChanges& changes, const PictureShape& to);

/// True if a map makes each of its pictures of the one at the same moment alone: by pixel work, or by frame work.
inline bool worksAlone(const TimeMap& map) {
  return map.pixelWork() || map.frameWork();
}
/// True if it does so with all of them alike.
bool worksAlike(const TimeMap& map);

/// What is done to one picture in the end, in turn.
struct Works {
  struct One {
    std::shared_ptr<const PixelChange> colours;  ///< one of the two, or none: it stays as it is
    std::shared_ptr<const FrameChange> frame;
    PictureShape shape;  ///< that it has then
  };
  std::vector<One> all;
};
/// What a map of either kind does to the picture at a moment.
Works::One workAt(const TimeMap& map, const Moment& moment, const PictureShape& shape);
/// The picture after all of them, in the last one's shape; neighbouring changes of colours in one pass, nothing rounded
/// between. On the threads of the caller's ThreadLimit.
Picture finished(const Picture& picture, const Works& works);

/// Such work as a stage that makes its pictures: where what comes after it reads pixels of several moments, or where
/// they stand.
class WorkAsMixing : public Mixing {
 public:
  explicit WorkAsMixing(const TimeMap& map) : map_(map) {}
  std::vector<MixSource> sources(const Moment& moment) const override { return {{0, moment}}; }
  std::unique_ptr<Mixture> mixture(const Moment& moment, const MixShapes& shapes) const override;
  bool sharesSources() const override { return false; }
  bool mayBeClear() const override { return map_.frameWork() && map_.frameWork()->mayBeClear(); }

 private:
  const TimeMap& map_;
};

}  // namespace molten
