#include "core/engine/pixel_pass.h"

#include <utility>

#include "core/picture/accumulator.h"

namespace molten {
namespace {

class OneWorked : public Mixture {
 public:
  OneWorked(const Moment& moment, Works::One work) : sources_{{0, moment}}, work_{{std::move(work)}} {}
  const std::vector<MixSource>& sources() const override { return sources_; }
  void add(std::size_t, std::span<const Picture> pictures) override { picture_ = pictures[0]; }
  Picture finish() override { return finished(picture_, work_); }

 private:
  std::vector<MixSource> sources_;
  Works work_;
  Picture picture_;
};

}  // namespace

Picture worked(const Picture& picture, const PixelChanges& changes, const PictureShape& to) {
  if (changes.empty()) return narrowed(picture, to);
  Picture out(to);
  const WorkingFormat takes(picture.shape(), Light::Display), gives(to, Light::Display);
  overTiles(to.size, [&](const PixelBox& box, WorkingTile& tile) {
    takes.take(picture, box, tile);
    for (const auto& change : changes) change->apply(tile, takes);
    gives.toOneValue(tile);
    gives.give(tile, out);
  });
  return out;
}

std::unique_ptr<Mixture> WorkAsMixing::mixture(const Moment& moment, const MixShapes& shapes) const {
  return std::make_unique<OneWorked>(moment, workAt(map_, moment, shapes.out));
}

bool worksAlike(const TimeMap& map) {
  return map.pixelWork() ? map.pixelWork()->alike() : map.frameWork()->alike();
}

Works::One workAt(const TimeMap& map, const Moment& moment, const PictureShape& shape) {
  Works::One one;
  if (map.pixelWork()) one.colours = map.pixelWork()->changeAt(moment);
  if (map.frameWork()) one.frame = map.frameWork()->changeAt(moment);
  one.shape = shape;
  return one;
}

Picture finished(const Picture& picture, const Works& works) {
  Picture now = picture;
  PixelChanges changes;
  for (std::size_t i = 0; i < works.all.size(); ++i) {
    const Works::One& one = works.all[i];
    const bool last = i + 1 == works.all.size();
    if (one.colours) changes.push_back(one.colours);
    if (one.frame) {
      if (!changes.empty()) now = worked(now, std::exchange(changes, {}), wideShape(now.shape()));
      now = one.frame->made(now, one.shape);
    }
    if (last && !(changes.empty() && now.shape() == one.shape)) now = worked(now, changes, one.shape);
  }
  return now;
}

}  // namespace molten
