#include "core/picture/resample_kernels.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/picture/resample_kernels.cpp"
#include <hwy/foreach_target.h>
// After the line above, which brings this file in once for each target.
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace molten {
namespace HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;

/// What the even and the odd pixels of six come to.
#if HWY_TARGET == HWY_AVX2 || HWY_TARGET == HWY_AVX3 || HWY_TARGET == HWY_AVX3_DL
using Pixels = hn::FixedTag<float, 8>;  // two beside each other
struct Sum {
  hn::Vec<Pixels> both;
};
HWY_INLINE void sixOf(const float* from, const float* weights, Sum& sum) {
  const Pixels d;
  const auto part = [&](int k) HWY_ATTR { return hn::Mul(hn::LoadU(d, from + 8 * k), hn::LoadU(d, weights + 8 * k)); };
  sum.both = hn::Add(hn::Add(part(0), part(1)), part(2));
}
HWY_INLINE void scale(Sum& sum, float by) { sum.both = hn::Mul(sum.both, hn::Set(Pixels(), by)); }
HWY_INLINE void add(Sum& sum, const Sum& more) { sum.both = hn::Add(sum.both, more.both); }
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
HWY_INLINE void sixOf(const float* from, const float* weights, Sum& sum) {
  const Pixels d;
  for (std::size_t c = 0; c < 4; c += hn::Lanes(d)) {
    const auto part = [&](std::size_t k) HWY_ATTR {
      return hn::Mul(hn::LoadU(d, from + 4 * k + c), hn::LoadU(d, weights + 4 * k + c));
    };
    hn::StoreU(hn::Add(hn::Add(part(0), part(2)), part(4)), d, sum.even + c);
    hn::StoreU(hn::Add(hn::Add(part(1), part(3)), part(5)), d, sum.odd + c);
  }
}
HWY_INLINE void scale(Sum& sum, float by) {
  for (int c = 0; c < 4; ++c) sum.even[c] *= by, sum.odd[c] *= by;
}
HWY_INLINE void add(Sum& sum, const Sum& more) {
  for (int c = 0; c < 4; ++c) sum.even[c] += more.even[c], sum.odd[c] += more.odd[c];
}
HWY_INLINE void put(const Sum& sum, float* out) {
  for (int c = 0; c < 4; ++c) out[c] = sum.even[c] + sum.odd[c];
}
#endif

void acrossSixWide(const float* row, const int* firsts, const float* weights, int count, float* out) {
  for (std::ptrdiff_t x = 0; x < count; ++x) {
    Sum sum;
    sixOf(row + 4 * static_cast<std::ptrdiff_t>(firsts[x]), weights + sixWeights * x, sum);
    put(sum, out + 4 * x);
  }
}

void downSixWide(const float* from, std::ptrdiff_t apart, const float* weights, int count, float* out) {
  const hn::CappedTag<float, 4> d;
  // A count is of whole pixels.
  for (int i = 0; i < count; i += static_cast<int>(hn::Lanes(d))) {
    const auto part = [&](int k) HWY_ATTR { return hn::Mul(hn::LoadU(d, from + k * apart + i), hn::Set(d, weights[k])); };
    const auto sum = hn::Add(hn::Add(hn::Add(part(0), part(1)), hn::Add(part(2), part(3))), hn::Add(part(4), part(5)));
    hn::StoreU(sum, d, out + i);
  }
}

/// The weights of a part of the way, of a table that has `count` for each.
template <int count>
HWY_INLINE void weightsAt(double part, const float* table, int phases, float* out) {
  const Pixels d;
  const double place = part * phases;
  const int i = place < phases - 1 ? static_cast<int>(place) : phases - 1;
  const auto share = hn::Set(d, static_cast<float>(place - i));
  const float* const low = table + count * static_cast<std::ptrdiff_t>(i);
  for (std::size_t k = 0; k < count; k += hn::Lanes(d)) {
    const auto a = hn::LoadU(d, low + k), b = hn::LoadU(d, low + count + k);
    hn::StoreU(hn::Add(a, hn::Mul(share, hn::Sub(b, a))), d, out + k);
  }
}

void anywhereSixWide(const float* patch, std::ptrdiff_t width, double x, double y, double stepX, double stepY, int count,
                     const PhaseTables& tables, float* out) {
  HWY_ALIGN float across[sixWeights], down[narrowWeights];
  constexpr int before = sixTaps / 2 - 1;
  for (int i = 0; i < count; ++i) {
    const double atX = x + i * stepX, atY = y + i * stepY;
    // Below nothing a number is cut off upwards.
    const auto left = static_cast<std::ptrdiff_t>(atX) - (atX < 0), top = static_cast<std::ptrdiff_t>(atY) - (atY < 0);
    weightsAt<sixWeights>(atX - static_cast<double>(left), tables.wide, tables.phases, across);
    weightsAt<narrowWeights>(atY - static_cast<double>(top), tables.narrow, tables.phases, down);
    const float* from = patch + 4 * ((top - before) * width + (left - before));
    Sum sum;
    sixOf(from, across, sum);
    scale(sum, down[0]);
    for (int k = 1; k < sixTaps; ++k) {
      Sum row;
      sixOf(from += 4 * width, across, row);
      scale(row, down[k]);
      add(sum, row);
    }
    put(sum, out + 4 * static_cast<std::ptrdiff_t>(i));
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
                 const PhaseTables& tables, float* out) {
  HWY_DYNAMIC_DISPATCH(anywhereSixWide)(patch, width, x, y, stepX, stepY, count, tables, out);
}

}  // namespace molten
#endif
