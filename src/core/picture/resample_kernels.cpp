#include "core/picture/resample_kernels.h"

#include <cstdint>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/picture/resample_kernels.cpp"
#include <hwy/foreach_target.h>
// After the line above, which brings this file in once for each target.
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace molten {
namespace HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

/// What the even and the odd pixels of six come to, and the six weights.
#if HWY_TARGET == HWY_AVX2 || HWY_TARGET == HWY_AVX3 || HWY_TARGET == HWY_AVX3_DL
using Pixels = hn::FixedTag<float, 8>;  // two beside each other
using Two = hn::Vec<Pixels>;
struct Sum {
  Two both;
};
struct Weights {
  Two first, second, third;
};
/// Of 24, each four times.
HWY_INLINE Weights loaded(const float* wide) {
  const Pixels d;
  return {hn::LoadU(d, wide), hn::LoadU(d, wide + 8), hn::LoadU(d, wide + 16)};
}
/// Of six.
HWY_INLINE Weights widened(const float* narrow) {
  const Pixels d;
  const auto all = hn::LoadU(d, narrow);
  const auto four = [&](std::int32_t k) HWY_ATTR {
    const auto place = hn::Set(hn::RebindToSigned<Pixels>(), k);
    const auto next = hn::IfThenElse(hn::FirstN(hn::RebindToSigned<Pixels>(), 4), place,
                                     hn::Set(hn::RebindToSigned<Pixels>(), k + 1));
    return hn::TableLookupLanes(all, hn::IndicesFromVec(d, next));
  };
  return {four(0), four(2), four(4)};
}
HWY_INLINE Sum sixOf(const float* from, const Weights& weights) {
  const Pixels d;
  return {hn::Add(hn::Add(hn::Mul(hn::LoadU(d, from), weights.first), hn::Mul(hn::LoadU(d, from + 8), weights.second)),
                  hn::Mul(hn::LoadU(d, from + 16), weights.third))};
}
HWY_INLINE Sum scaled(const Sum& sum, float by) { return {hn::Mul(sum.both, hn::Set(Pixels(), by))}; }
HWY_INLINE Sum plus(const Sum& a, const Sum& b) { return {hn::Add(a.both, b.both)}; }
HWY_INLINE void put(const Sum& sum, float* out) {
  const hn::Half<Pixels> d;
  hn::StoreU(hn::Add(hn::LowerHalf(sum.both), hn::UpperHalf(d, sum.both)), d, out);
}
#else
/// As many floats at a time as there are, of four.
using Pixels = hn::CappedTag<float, 4>;
struct Sum {
  float even[4], odd[4];
};
struct Weights {
  float all[sixWeights];
};
HWY_INLINE Weights loaded(const float* wide) {
  Weights weights;
  for (int k = 0; k < sixWeights; ++k) weights.all[k] = wide[k];
  return weights;
}
HWY_INLINE Weights widened(const float* narrow) {
  Weights weights;
  for (int k = 0; k < sixWeights; ++k) weights.all[k] = narrow[k / 4];
  return weights;
}
HWY_INLINE Sum sixOf(const float* from, const Weights& weights) {
  const Pixels d;
  Sum sum;
  for (std::size_t c = 0; c < 4; c += hn::Lanes(d)) {
    const auto part = [&](std::size_t k) HWY_ATTR {
      return hn::Mul(hn::LoadU(d, from + 4 * k + c), hn::LoadU(d, weights.all + 4 * k + c));
    };
    hn::StoreU(hn::Add(hn::Add(part(0), part(2)), part(4)), d, sum.even + c);
    hn::StoreU(hn::Add(hn::Add(part(1), part(3)), part(5)), d, sum.odd + c);
  }
  return sum;
}
HWY_INLINE Sum scaled(const Sum& sum, float by) {
  Sum out;
  for (int c = 0; c < 4; ++c) out.even[c] = sum.even[c] * by, out.odd[c] = sum.odd[c] * by;
  return out;
}
HWY_INLINE Sum plus(const Sum& a, const Sum& b) {
  Sum out;
  for (int c = 0; c < 4; ++c) out.even[c] = a.even[c] + b.even[c], out.odd[c] = a.odd[c] + b.odd[c];
  return out;
}
HWY_INLINE void put(const Sum& sum, float* out) {
  for (int c = 0; c < 4; ++c) out[c] = sum.even[c] + sum.odd[c];
}
#endif

void acrossSixWide(const float* row, const int* firsts, const float* weights, int count, float* out) {
  for (std::ptrdiff_t x = 0; x < count; ++x)
    put(sixOf(row + 4 * static_cast<std::ptrdiff_t>(firsts[x]), loaded(weights + sixWeights * x)), out + 4 * x);
}

void downSixWide(const float* from, std::ptrdiff_t apart, const float* weights, int count, float* out) {
  const hn::CappedTag<float, 16> d;
  for (int i = 0; i < count; i += static_cast<int>(hn::Lanes(d))) {
    const auto part = [&](int k) HWY_ATTR { return hn::Mul(hn::LoadU(d, from + k * apart + i), hn::Set(d, weights[k])); };
    const auto sum = hn::Add(hn::Add(hn::Add(part(0), part(1)), hn::Add(part(2), part(3))), hn::Add(part(4), part(5)));
    hn::StoreU(sum, d, out + i);
  }
}

/// The weights of a part of the way.
HWY_INLINE void weightsAt(double part, const PhaseTable& table, float* out) {
  const Pixels d;
  const double place = part * table.phases;
  const int i = place < table.phases - 1 ? static_cast<int>(place) : table.phases - 1;
  const auto share = hn::Set(d, static_cast<float>(place - i));
  const float* const low = table.weights + narrowWeights * static_cast<std::ptrdiff_t>(i);
  for (std::size_t k = 0; k < narrowWeights; k += hn::Lanes(d)) {
    const auto a = hn::LoadU(d, low + k), b = hn::LoadU(d, low + narrowWeights + k);
    hn::StoreU(hn::Add(a, hn::Mul(share, hn::Sub(b, a))), d, out + k);
  }
}

void anywhereSixWide(const float* patch, std::ptrdiff_t width, double x, double y, double stepX, double stepY, int count,
                     const PhaseTable& table, float* out) {
  HWY_ALIGN float across[narrowWeights], down[narrowWeights];
  constexpr int before = sixTaps / 2 - 1;
  for (int i = 0; i < count; ++i) {
    const double atX = x + i * stepX, atY = y + i * stepY;
    // Below nothing a number is cut off upwards.
    const auto left = static_cast<std::ptrdiff_t>(atX) - (atX < 0), top = static_cast<std::ptrdiff_t>(atY) - (atY < 0);
    weightsAt(atX - static_cast<double>(left), table, across);
    weightsAt(atY - static_cast<double>(top), table, down);
    const Weights weights = widened(across);
    const float* const from = patch + 4 * ((top - before) * width + (left - before));
    const auto row = [&](int k) HWY_ATTR { return scaled(sixOf(from + 4 * k * width, weights), down[k]); };
    put(plus(plus(plus(row(0), row(1)), plus(row(2), row(3))), plus(row(4), row(5))),
        out + 4 * static_cast<std::ptrdiff_t>(i));
  }
}

}  // namespace HWY_NAMESPACE
}  // namespace molten
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace molten {
namespace {
HWY_EXPORT(acrossSixWide);
HWY_EXPORT(downSixWide);
HWY_EXPORT(anywhereSixWide);
}  // namespace

void acrossSix(const float* row, const int* firsts, const float* weights, int count, float* out) {
  HWY_DYNAMIC_DISPATCH(acrossSixWide)(row, firsts, weights, count, out);
}
void downSix(const float* from, std::ptrdiff_t apart, const float* weights, int count, float* out) {
  HWY_DYNAMIC_DISPATCH(downSixWide)(from, apart, weights, count, out);
}
void anywhereSix(const float* patch, std::ptrdiff_t width, double x, double y, double stepX, double stepY, int count,
                 const PhaseTable& table, float* out) {
  HWY_DYNAMIC_DISPATCH(anywhereSixWide)(patch, width, x, y, stepX, stepY, count, table, out);
}

}  // namespace molten
#endif
