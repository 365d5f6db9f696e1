#include "core/engine/flow_opinions.h"

#include <algorithm>

namespace molten {
namespace {

/// There and back may differ by this part of the picture's width; from three times that on nothing is believed.
constexpr float trustedPart = 1.0f / 160, leastTrusted = 1.0f;

}  // namespace

FlowTrust::FlowTrust(int width) : trusted_(std::max(leastTrusted, static_cast<float>(width) * trustedPart)) {}

void OpinionGrid::begin(const FlowField& flow, const PlaneSites& sites, const PlaneBox& box) {
  sites_ = sites, box_ = box;
  stepX_ = static_cast<float>(sites.stepX), stepY_ = static_cast<float>(sites.stepY);
  cell_ = flow.cellSize();
  const auto cellOf = [this](float place) { return static_cast<int>(std::floor(place / cell_ - 0.5f)); };
  left_ = cellOf(placeX(box.left)), top_ = cellOf(placeY(box.top));
  across_ = cellOf(placeX(box.right - 1)) - left_ + 2, down_ = cellOf(placeY(box.bottom - 1)) - top_ + 2;
  const auto across = static_cast<std::size_t>(across_), width = static_cast<std::size_t>(box.width());
  cellRow_ = across + flowSpare;
  cells_.resize(rowFloats() * static_cast<std::size_t>(down_)), line_.resize(rowFloats());
  told_.resize(across), parts_.resize(across), places_.resize(across);
  for (int i = 0; i < across_; ++i)
    places_[static_cast<std::size_t>(i)] = (static_cast<float>(left_ + i) + 0.5f) * cell_;
  farthest_ = 0;
  along_.resize(width + flowSpare), cellOf_.resize(width + flowSpare);
  firstColumns_.assign(1, 0);
  for (int x = box.left; x < box.right; ++x) {
    const float g = placeX(x) / cell_ - 0.5f - static_cast<float>(left_);
    const int i = std::clamp(static_cast<int>(g), 0, across_ - 2);
    while (static_cast<int>(firstColumns_.size()) <= i) firstColumns_.push_back(x - box.left);
    along_[static_cast<std::size_t>(x - box.left)] = g - static_cast<float>(i);
    cellOf_[static_cast<std::size_t>(x - box.left)] = i;
  }
  while (static_cast<int>(firstColumns_.size()) < across_) firstColumns_.push_back(box.width());
}

OpinionGrid::Sample OpinionGrid::nearestSample(int i, int j) const {
  const float x = (static_cast<float>(left_ + i) + 0.5f) * cell_, y = (static_cast<float>(top_ + j) + 0.5f) * cell_;
  return {std::clamp(static_cast<int>((x - static_cast<float>(sites_.x0)) / stepX_ + 0.5f), box_.left, box_.right - 1),
          std::clamp(static_cast<int>((y - static_cast<float>(sites_.y0)) / stepY_ + 0.5f), box_.top, box_.bottom - 1)};
}

/// Of the cells, at their parts of the way.
void OpinionGrid::makeRow(const FlowField& flow, int j) {
  opinionsOfRow(flow.cells(), places_.data(), (static_cast<float>(top_ + j) + 0.5f) * cell_, parts_.data(), across_,
                &told_[0].u.x);
  float* const row = cells_.data() + static_cast<std::size_t>(j) * rowFloats();
  for (std::size_t i = 0; i < told_.size(); ++i) {
    const FlowOpinions& o = told_[i];
    const float opinions[opinionsOfCell] = {o.u.x / stepX_, o.u.y / stepY_, o.v.x / stepX_, o.v.y / stepY_, o.uOff, o.vOff};
    for (std::size_t c = 0; c < opinionsOfCell; ++c) row[c * cellRow_ + i] = opinions[c];
    for (std::size_t c = 0; c < 4; ++c) farthest_ = std::max(farthest_, std::abs(opinions[c]));
  }
}

void OpinionGrid::goTo(int row) {
  const float g = placeY(row) / cell_ - 0.5f - static_cast<float>(top_);
  const int j = std::clamp(static_cast<int>(g), 0, down_ - 2);
  const float f = g - static_cast<float>(j);
  const float *const upper = cells_.data() + static_cast<std::size_t>(j) * rowFloats(), *const lower = upper + rowFloats();
  float* const line = line_.data();
  for (std::size_t k = 0; k < rowFloats(); ++k) line[k] = upper[k] + (lower[k] - upper[k]) * f;
  runs_.clear();
  const auto standsStill = [&](std::size_t i) {
    return line[i] == 0 && line[cellRow_ + i] == 0 && line[2 * cellRow_ + i] == 0 && line[3 * cellRow_ + i] == 0;
  };
  bool before = standsStill(0);
  for (std::size_t i = 0; i + 1 < static_cast<std::size_t>(across_); ++i) {
    const bool after = standsStill(i + 1), still = before && after;
    before = after;
    const int from = firstColumns_[i], to = firstColumns_[i + 1];
    if (from == to) continue;
    if (!runs_.empty() && runs_.back().still == still)
      runs_.back().to = box_.left + to;
    else
      runs_.push_back({box_.left + from, box_.left + to, still});
  }
}

void OpinionGrid::tell(int column, FlowRun& run) const {
  for (std::size_t c = 0; c < opinionsOfCell; ++c) run.cells[c] = line_.data() + c * cellRow_;
  const auto at = static_cast<std::size_t>(column - box_.left);
  run.cell = cellOf_.data() + at, run.along = along_.data() + at;
}

}  // namespace molten
