#include "app/picture/label_places.h"

#include <algorithm>

namespace molten {

void LabelPlaces::begin(const QRectF& view) {
  view_ = view;
  taken_.clear();
  labels_.clear();
}

std::optional<QRectF> LabelPlaces::find(std::span<const QRectF> places) {
  for (QRectF box : places) {
    box.moveLeft(std::clamp(box.left(), view_.left() + 2, std::max(view_.left() + 2, view_.right() - box.width() - 2)));
    box.moveTop(std::clamp(box.top(), view_.top() + 2, std::max(view_.top() + 2, view_.bottom() - box.height() - 2)));
    const auto covers = [&box](const QRectF& other) { return box.intersects(other); };
    if (std::any_of(taken_.begin(), taken_.end(), covers) || std::any_of(labels_.begin(), labels_.end(), covers))
      continue;
    labels_.push_back(box);
    return box;
  }
  return std::nullopt;
}

}  // namespace molten
