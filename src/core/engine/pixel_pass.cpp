#include "core/engine/pixel_pass.h"

#include "core/picture/accumulator.h"

namespace molten {
namespace {

/// Gray pictures have one value for what has become three.
void backToGray(WorkingTile& tile, const WorkingFormat& format) {
  const auto weights = format.lumaWeights();
  const float red = static_cast<float>(weights[0]), green = static_cast<float>(weights[1]),
              blue = static_cast<float>(weights[2]);
  float* const r = tile.channels[0].data();
  const float *const g = tile.channels[1].data(), *const b = tile.channels[2].data();
  for (std::size_t i = 0; i < tile.channels[0].size(); ++i) r[i] = red * r[i] + green * g[i] + blue * b[i];
}

class OneWorked : public Mixture {
 public:
  OneWorked(const Moment& moment, std::shared_ptr<const PixelChange> change, PictureShape to)
      : sources_{{0, moment}}, change_(std::move(change)), to_(std::move(to)) {}
  const std::vector<MixSource>& sources() const override { return sources_; }
  void add(std::size_t, std::span<const Picture> pictures) override { picture_ = pictures[0]; }
  Picture finish() override { return worked(picture_, change_ ? PixelChanges{change_} : PixelChanges{}, to_); }

 private:
  std::vector<MixSource> sources_;
  std::shared_ptr<const PixelChange> change_;
  PictureShape to_;
  Picture picture_;
};

}  // namespace

Picture worked(const Picture& picture, const PixelChanges& changes, const PictureShape& to) {
  if (changes.empty()) return narrowed(picture, to);
  Picture out(to);
  const WorkingFormat takes(picture.shape(), Light::Display), gives(to, Light::Display);
  const bool gray = to.format.model == ColourModel::Gray;
  overTiles(to.size, [&](const PixelBox& box, WorkingTile& tile) {
    takes.take(picture, box, tile);
    for (const auto& change : changes) change->apply(tile, takes);
    if (gray) backToGray(tile, gives);
    gives.give(tile, out);
  });
  return out;
}

std::unique_ptr<Mixture> WorkAsMixing::mixture(const Moment& moment, const MixShapes& shapes) const {
  return std::make_unique<OneWorked>(moment, work_.changeAt(moment), shapes.out);
}

}  // namespace molten
