#include "core/picture/short_kernels.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/picture/short_kernels.cpp"
#include <hwy/foreach_target.h>
// After the line above, which brings this file in once for each target.
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace molten {
namespace HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;
using Shorts = hn::ScalableTag<std::int16_t>;
using Bytes = hn::Rebind<std::uint8_t, Shorts>;
using S = hn::Vec<Shorts>;

HWY_INLINE S shortsOf(const std::uint8_t* bytes) {
  return hn::PromoteTo(Shorts(), hn::LoadU(Bytes(), bytes));
}
HWY_INLINE int lanes() {
  return static_cast<int>(hn::Lanes(Shorts()));
}

void blendShortWide(const std::uint8_t* near, const std::uint8_t* far, int share, int count, std::int16_t* out) {
  const Shorts d;
  const S ofNear = hn::Set(d, static_cast<std::int16_t>(4 * (4 - share))), ofFar = hn::Set(d, static_cast<std::int16_t>(4 * share)),
          middle = hn::Set(d, 128 * 16);
  for (int i = 0; i < count; i += lanes())
    hn::StoreU(hn::Sub(hn::Add(hn::Mul(shortsOf(near + i), ofNear), hn::Mul(shortsOf(far + i), ofFar)), middle), d, out + i);
}

void spreadShortFirstWide(const std::int16_t* sites, int count, std::int16_t* out) {
  const Shorts d;
  for (int i = 0; 2 * i < count; i += lanes()) {
    const S here = hn::LoadU(d, sites + i), next = hn::LoadU(d, sites + i + 1);
    hn::StoreInterleaved2(here, hn::ShiftRight<1>(hn::Add(here, next)), d, out + 2 * i);
  }
}

void spreadShortBetweenWide(const std::int16_t* sites, int count, std::int16_t* out) {
  const Shorts d;
  for (int i = 0; 2 * i < count; i += lanes()) {
    const S last = hn::LoadU(d, sites + i - 1), here = hn::LoadU(d, sites + i), next = hn::LoadU(d, sites + i + 1),
            most = hn::Mul(here, hn::Set(d, 3));
    hn::StoreInterleaved2(hn::ShiftRight<2>(hn::Add(last, most)), hn::ShiftRight<2>(hn::Add(most, next)), d, out + 2 * i);
  }
}

void winShortWide(const std::uint8_t* luma, const std::int16_t* cb, const std::int16_t* cr, const ShortMatrix& matrix,
                  int weight, bool brightest, int count, std::int16_t* const mixed[3]) {
  const Shorts d;
  const S black = hn::Set(d, matrix.black), ofLuma = hn::Set(d, matrix.luma), redOfCr = hn::Set(d, matrix.redOfCr),
          greenOfCr = hn::Set(d, matrix.greenOfCr), greenOfCb = hn::Set(d, matrix.greenOfCb),
          blueOfCb = hn::Set(d, matrix.blueOfCb), one = hn::Set(d, shortOne), half = hn::Set(d, 1),
          share = hn::Set(d, static_cast<std::int16_t>(weight < 32768 ? weight : 32767));
  const bool whole = weight >= 32768;
  const auto weighed = [&](S v) HWY_ATTR { return whole ? v : hn::MulHigh(hn::ShiftLeft<1>(v), share); };
  const auto put = [&](S v, std::int16_t* to) HWY_ATTR {
    const S before = hn::LoadU(d, to);
    hn::StoreU(brightest ? hn::Max(before, weighed(v)) : hn::Min(before, hn::Sub(one, weighed(hn::Sub(one, v)))), d, to);
  };
  for (int i = 0; i < count; i += lanes()) {
    // Products are cut off downwards, each by half a unit in the mean.
    const S y = hn::Add(hn::MulHigh(hn::ShiftLeft<7>(hn::Sub(shortsOf(luma + i), black)), ofLuma), half);
    const S b = hn::ShiftLeft<4>(hn::LoadU(d, cb + i)), r = hn::ShiftLeft<4>(hn::LoadU(d, cr + i));
    put(hn::Add(y, hn::MulHigh(r, redOfCr)), mixed[0] + i);
    put(hn::Sub(hn::Sub(y, hn::MulHigh(r, greenOfCr)), hn::MulHigh(b, greenOfCb)), mixed[1] + i);
    put(hn::Add(y, hn::MulHigh(b, blueOfCb)), mixed[2] + i);
  }
}

void floatsOfShortWide(const std::int16_t* from, int count, float* out) {
  const hn::ScalableTag<float> d;
  const hn::Rebind<std::int32_t, decltype(d)> whole;
  const hn::Rebind<std::int16_t, decltype(d)> narrow;
  const auto unit = hn::Set(d, 1.0f / shortOne);
  const int step = static_cast<int>(hn::Lanes(d));
  int i = 0;
  for (; i + step <= count; i += step)
    hn::StoreU(hn::Mul(hn::ConvertTo(d, hn::PromoteTo(whole, hn::LoadU(narrow, from + i))), unit), d, out + i);
  for (; i < count; ++i) out[i] = static_cast<float>(from[i]) * (1.0f / shortOne);
}

}  // namespace HWY_NAMESPACE
}  // namespace molten
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace molten {
namespace {
HWY_EXPORT(blendShortWide);
HWY_EXPORT(spreadShortFirstWide);
HWY_EXPORT(spreadShortBetweenWide);
HWY_EXPORT(winShortWide);
HWY_EXPORT(floatsOfShortWide);
}  // namespace

void blendShort(const std::uint8_t* near, const std::uint8_t* far, int share, int count, std::int16_t* out) {
  HWY_DYNAMIC_DISPATCH(blendShortWide)(near, far, share, count, out);
}
void spreadShortFirst(const std::int16_t* sites, int count, std::int16_t* out) {
  HWY_DYNAMIC_DISPATCH(spreadShortFirstWide)(sites, count, out);
}
void spreadShortBetween(const std::int16_t* sites, int count, std::int16_t* out) {
  HWY_DYNAMIC_DISPATCH(spreadShortBetweenWide)(sites, count, out);
}
void winShort(const std::uint8_t* luma, const std::int16_t* cb, const std::int16_t* cr, const ShortMatrix& matrix, int weight,
              bool brightest, int count, std::int16_t* const mixed[3]) {
  HWY_DYNAMIC_DISPATCH(winShortWide)(luma, cb, cr, matrix, weight, brightest, count, mixed);
}
void floatsOfShort(const std::int16_t* from, int count, float* out) {
  HWY_DYNAMIC_DISPATCH(floatsOfShortWide)(from, count, out);
}

}  // namespace molten
#endif
