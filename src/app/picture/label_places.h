#pragma once
// Where labels stand on a view so that they cover neither what is taken hold of nor each other.

#include <QRectF>
#include <optional>
#include <span>
#include <vector>

namespace molten {

class LabelPlaces {
 public:
  /// Labels stay within the view.
  void begin(const QRectF& view);
  /// Something that no label may cover.
  void take(const QRectF& box) { taken_.push_back(box); }
  /// The first of these places that is free, moved into the view; it is taken then. None: the label gives way.
  std::optional<QRectF> find(std::span<const QRectF> places);
  const std::vector<QRectF>& labels() const { return labels_; }

 private:
  QRectF view_;
  std::vector<QRectF> taken_, labels_;
};

}  // namespace molten
