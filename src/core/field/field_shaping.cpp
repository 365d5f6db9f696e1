#include "core/field/field_shaping.h"

#include <algorithm>
#include <cmath>

#include "core/wide.h"

namespace molten {
namespace {

constexpr int responsePlaces = 4096;

MOLTEN_WIDE void level(float* f, int count, double inLow, double inSpan, double outLow, double outSpan) {
  for (int i = 0; i < count; ++i) {
    double v = (static_cast<double>(f[i]) - inLow) / inSpan;
    v = v < 0 ? 0 : v;
    v = v > 1 ? 1 : v;
    f[i] = static_cast<float>(outLow + v * outSpan);
  }
}

MOLTEN_WIDE void respond(float* f, int count, const float* table) {
  for (int i = 0; i < count; ++i) {
    const float at = f[i] * responsePlaces;
    int below = static_cast<int>(at);
    below = below > responsePlaces - 1 ? responsePlaces - 1 : below;
    const float part = at - static_cast<float>(below);
    f[i] = table[below] + (table[below + 1] - table[below]) * part;
  }
}

MOLTEN_WIDE void round(float* f, int count, double times, bool mirror) {
  for (int i = 0; i < count; ++i) {
    const double u = static_cast<double>(f[i]) * times, lap = __builtin_floor(u), part = u - lap;
    const bool odd = lap - 2 * __builtin_floor(lap / 2) > 0.5;
    const double saw = part == 0 && u > 0 ? 1 : part;
    f[i] = static_cast<float>(mirror ? (odd ? 1 - part : part) : saw);
  }
}

MOLTEN_WIDE void stair(float* f, int count, double panes) {
  for (int i = 0; i < count; ++i) {
    const double at = __builtin_floor(static_cast<double>(f[i]) * panes);
    f[i] = static_cast<float>((at < panes - 1 ? at : panes - 1) / (panes - 1));
  }
}

MOLTEN_WIDE void turn(float* f, int count) {
  for (int i = 0; i < count; ++i) f[i] = 1.0f - f[i];
}

}  // namespace

void FieldShaping::setResponse(const CurvePoints& points) {
  response_.clear();
  if (points == straightCurve) return;
  const ResponseCurve curve(points);
  for (int i = 0; i <= responsePlaces; ++i)
    response_.push_back(static_cast<float>(curve.at(static_cast<double>(i) / responsePlaces)));
}

void FieldShaping::apply(std::span<float> f) const {
  const auto count = static_cast<int>(f.size());
  if (clamp || inLow != 0 || inHigh != 1 || outLow != 0 || outHigh != 1)
    level(f.data(), count, inLow, inHigh == inLow ? 1e-12 : inHigh - inLow, outLow, outHigh - outLow);
  if (!response_.empty()) respond(f.data(), count, response_.data());
  if (repeat != 1 || mirror) round(f.data(), count, repeat, mirror);
  if (panes >= 2) stair(f.data(), count, panes);
  if (flip) turn(f.data(), count);
}

std::pair<float, float> FieldShaping::range(float low, float high) const {
  // What does not rise or fall all the way is bounded by all that it can be.
  if (repeat != 1 || mirror || !response_.empty()) {
    low = 0, high = 1;
    if (repeat == 1 && !mirror)
      low = *std::min_element(response_.begin(), response_.end()),
      high = *std::max_element(response_.begin(), response_.end());
    FieldShaping rest = *this;
    rest.inLow = rest.outLow = 0, rest.inHigh = rest.outHigh = rest.repeat = 1;
    rest.clamp = rest.mirror = false;
    rest.response_.clear();
    return rest.range(low, high);
  }
  float ends[] = {low, high};
  apply(ends);
  return std::minmax(ends[0], ends[1]);
}

void combine(SecondShape how, std::span<float> first, std::span<const float> second) {
  const std::size_t count = first.size();
  switch (how) {
    case SecondShape::Alone:
    case SecondShape::OnlyWhere:
      return;
    case SecondShape::Product:
      for (std::size_t i = 0; i < count; ++i) first[i] *= second[i];
      return;
    case SecondShape::Larger:
      for (std::size_t i = 0; i < count; ++i) first[i] = std::max(first[i], second[i]);
      return;
    case SecondShape::Smaller:
      for (std::size_t i = 0; i < count; ++i) first[i] = std::min(first[i], second[i]);
      return;
    case SecondShape::Sum:
      for (std::size_t i = 0; i < count; ++i) first[i] = std::min(first[i] + second[i], 1.0f);
      return;
  }
}

}  // namespace molten
