#include "core/picture/kept_light.h"

#include "core/picture/working_kernels.h"

namespace molten {
namespace {

std::int16_t* rootsOf(Picture& kept, int plane, int y) {
  return reinterpret_cast<std::int16_t*>(kept.writableRow(plane, y));
}

}  // namespace

std::optional<KeptLight> KeptLight::of(const PictureShape& shape) {
  if (shape.format.floating || shape.format.bits != 8 || shape.format.alpha) return std::nullopt;
  return KeptLight(shape);
}

KeptLight::KeptLight(const PictureShape& shape) : size_(shape.size), kept_(shape), takes_(shape, Light::Linear) {
  kept_.format = {ColourModel::Rgb, 16, 0, 0, false, false};
  kept_.size = WorkingTile::sizeOf({0, 0, size_.width, size_.height});
}

Picture KeptLight::keep(const Picture& picture) const {
  constexpr int margin = WorkingTile::margin;
  Picture kept(kept_);
  overTiles(size_, [&](const PixelBox& box, WorkingTile& tile) {
    takes_.take(picture, box, tile);
    // Of the margins those around the picture.
    const int left = box.left == 0 ? 0 : margin, top = box.top == 0 ? 0 : margin,
              right = box.right == size_.width ? tile.width : margin + box.right - box.left,
              bottom = box.bottom == size_.height ? tile.height : margin + box.bottom - box.top;
    for (int c = 0; c < 3; ++c)
      for (int y = top; y < bottom; ++y)
        signedRoots(tile.row(c, y) + left, static_cast<std::size_t>(right - left), rootsOf(kept, c, box.top + y) + box.left + left);
  });
  return kept;
}

void KeptLight::takeRows(const Picture& picture, const WorkingTile& tile, int first, WorkingTile& rows) const {
  const auto width = static_cast<std::size_t>(tile.width);
  if (!(picture.shape() == kept_)) {
    takes_.takeRows(picture, tile, first, rows);
    thread_local std::vector<std::int16_t> line;
    line.resize(width);
    for (int c = 0; c < 3; ++c)
      for (int r = 0; r < rows.height; ++r) {
        signedRoots(rows.row(c, r), width, line.data());
        signedSquares(line.data(), width, rows.row(c, r));
      }
    return;
  }
  rows.box = tile.box, rows.width = tile.width, rows.height = WorkingFormat::rowsAtOnce;
  for (auto& channel : rows.channels) channel.resize(width * WorkingFormat::rowsAtOnce);
  for (int c = 0; c < 3; ++c)
    for (int r = 0; r < rows.height; ++r) {
      const auto* const row = reinterpret_cast<const std::int16_t*>(picture.row(c, tile.box.top + first + r));
      signedSquares(row + tile.box.left, width, rows.row(c, r));
    }
}

void KeptLight::combine(BlendMode blend, std::span<const Picture* const> kept, std::span<const float> weights,
                        WorkingTile& mixed) const {
  if (kept.empty()) return;
  std::vector<const std::int16_t*> rows(kept.size());
  for (int c = 0; c < 3; ++c)
    for (int y = 0; y < mixed.height; ++y) {
      for (std::size_t k = 0; k < kept.size(); ++k)
        rows[k] = reinterpret_cast<const std::int16_t*>(kept[k]->row(c, mixed.box.top + y)) + mixed.box.left;
      const std::ptrdiff_t ahead = y + 1 < mixed.height ? (kept[0]->row(c, 1) - kept[0]->row(c, 0)) / 2 : 0;
      combineRoots(blend, rows, ahead, weights, static_cast<std::size_t>(mixed.width), mixed.row(c, y));
    }
}

}  // namespace molten
