#pragma once
// What is done to a field after its shape: levels, response, repeats, panes.

#include <span>
#include <utility>

#include "core/field/response_curve.h"

namespace molten {

/// In this order, each step only where it differs from its default:
///   levels    f = clamp((f − inLow) / (inHigh − inLow), 0, 1), then outLow + f·(outHigh − outLow)
///   response  f = curve(f)
///   repeat    u = f·repeat; f = u − floor(u), but 1 where u is whole and not 0; mirrored, every second one runs back
///   panes     n ≥ 2: f = min(floor(f·n), n − 1) / (n − 1)
///   flip      f = 1 − f
/// Each in double, its result rounded to 32-bit float.
class FieldShaping {
 public:
  double inLow = 0, inHigh = 1, outLow = 0, outHigh = 1;
  double repeat = 1;
  bool mirror = false;
  int panes = 0;
  bool flip = false;
  bool clamp = false;  ///< what comes in may lie outside 0…1

  void setResponse(const CurvePoints& points);
  void apply(std::span<float> f) const;
  /// What f of low…high becomes: bounds.
  std::pair<float, float> range(float low, float high) const;

 private:
  std::vector<float> response_;  ///< at 4097 places, straight between them; empty: as it is
};

/// What a second shape does to the first. Only where: it is no matter of the field itself, but of its displacement.
enum class SecondShape { Alone, Product, Larger, Smaller, Sum, OnlyWhere };
/// `first` becomes the two combined: f·g, the greater, the lesser, min(f + g, 1); otherwise it stays.
void combine(SecondShape how, std::span<float> first, std::span<const float> second);

}  // namespace molten
