#include "core/engine/flow_opinions.h"

#include <algorithm>

namespace molten {
namespace {

/// Motion below this, in pixels, is none: still backgrounds stay as they are.
constexpr float stillBelow = 1.0f / 8;
/// There and back may differ by this part of the picture's width; from three times that on nothing is believed.
constexpr float trustedPart = 1.0f / 160, leastTrusted = 1.0f;

float length(const Vector& w) {
  return std::sqrt(w.x * w.x + w.y * w.y);
}

Vector sum(const Vector& a, const Vector& b) {
  return {a.x + b.x, a.y + b.y};
}

Vector orNone(const Vector& w) {
  return std::abs(w.x) < stillBelow && std::abs(w.y) < stillBelow ? Vector{} : w;
}

}  // namespace

FlowOpinions opinionsAt(const FlowField& flow, float x, float y, float t) {
  Vector u = flow.forward(x, y), v = flow.backward(x, y);
  for (int step = 0; step < 2; ++step) {
    u = flow.forward(x - t * u.x, y - t * u.y);
    v = flow.backward(x - (1 - t) * v.x, y - (1 - t) * v.y);
  }
  const Vector uBack = flow.backward(x + (1 - t) * u.x, y + (1 - t) * u.y),
               vBack = flow.forward(x + t * v.x, y + t * v.y);
  return {orNone(u), orNone(v), length(sum(u, uBack)), length(sum(v, vBack))};
}

FlowTrust::FlowTrust(int width) : trusted_(std::max(leastTrusted, static_cast<float>(width) * trustedPart)) {}

void OpinionGrid::begin(const FlowField& flow, const PlaneSites& sites, const PlaneBox& box, const FlowTrust& trust) {
  sites_ = sites, box_ = box, trust_ = &trust;
  stepX_ = static_cast<float>(sites.stepX), stepY_ = static_cast<float>(sites.stepY);
  cell_ = flow.cellSize();
  const auto cellOf = [this](float place) { return static_cast<int>(std::floor(place / cell_ - 0.5f)); };
  left_ = cellOf(placeX(box.left)), top_ = cellOf(placeY(box.top));
  across_ = cellOf(placeX(box.right - 1)) - left_ + 2, down_ = cellOf(placeY(box.bottom - 1)) - top_ + 2;
  cells_.resize(static_cast<std::size_t>(across_) * static_cast<std::size_t>(down_));
  line_.resize(static_cast<std::size_t>(across_));
  farthest_ = 0;
  row_ = box.top - 1;
}

OpinionGrid::Sample OpinionGrid::nearestSample(int i, int j) const {
  const float x = (static_cast<float>(left_ + i) + 0.5f) * cell_, y = (static_cast<float>(top_ + j) + 0.5f) * cell_;
  return {std::clamp(static_cast<int>((x - static_cast<float>(sites_.x0)) / stepX_ + 0.5f), box_.left, box_.right - 1),
          std::clamp(static_cast<int>((y - static_cast<float>(sites_.y0)) / stepY_ + 0.5f), box_.top, box_.bottom - 1)};
}

void OpinionGrid::put(const FlowField& flow, int i, int j, float part) {
  FlowOpinions& o = cellAt(i, j);
  o = opinionsAt(flow, (static_cast<float>(left_ + i) + 0.5f) * cell_, (static_cast<float>(top_ + j) + 0.5f) * cell_,
                 part);
  o.u = {o.u.x / stepX_, o.u.y / stepY_}, o.v = {o.v.x / stepX_, o.v.y / stepY_};
  for (const float m : {o.u.x, o.u.y, o.v.x, o.v.y}) farthest_ = std::max(farthest_, std::abs(m));
}

void OpinionGrid::goTo(int row) {
  if (row_ == row) return;
  row_ = row, segmentOf_ = -1;
  const float g = placeY(row) / cell_ - 0.5f - static_cast<float>(top_);
  const int j = std::clamp(static_cast<int>(g), 0, down_ - 2);
  for (int i = 0; i < across_; ++i)
    line_[static_cast<std::size_t>(i)] = opinionsBetween(cellAt(i, j), cellAt(i, j + 1), g - static_cast<float>(j));
}

void OpinionGrid::enter(int i) {
  segmentOf_ = i;
  const FlowOpinions &begin = line_[static_cast<std::size_t>(i)], &end = line_[static_cast<std::size_t>(i + 1)];
  segment_ = {begin, end, begin.still() && end.still(),
              begin.agree() && end.agree() && trust_->whole(begin.uOff) && trust_->whole(end.uOff)};
}

}  // namespace molten
