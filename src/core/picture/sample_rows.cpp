#include "core/picture/sample_rows.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/picture/sample_rows.cpp"
#include <hwy/foreach_target.h>
// After the line above, which brings this file in once for each target.
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace molten {
namespace HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;
using Floats = hn::ScalableTag<float>;

/// many(i) for so many from i on, the last of them once more where they do not fit in; one(i) where there are fewer.
template <class Many, class One>
HWY_INLINE void overVectors(int count, int lanes, Many many, One one) {
  int i = 0;
  for (; i + lanes <= count; i += lanes) many(i);
  if (i == count) return;
  if (count >= lanes) return many(count - lanes);
  for (; i < count; ++i) one(i);
}

template <class Sample>
HWY_INLINE void unpack(const Sample* row, int count, SampleScale scale, float* out) {
  const Floats d;
  const hn::Rebind<std::int32_t, Floats> whole;
  const hn::Rebind<Sample, Floats> narrow;
  const float part = 1 / scale.span;
  const auto low = hn::Set(d, scale.low), parts = hn::Set(d, part);
  overVectors(
      count, static_cast<int>(hn::Lanes(d)),
      [&](int i) HWY_ATTR {
        const auto samples = hn::ConvertTo(d, hn::PromoteTo(whole, hn::LoadU(narrow, row + i)));
        hn::StoreU(hn::Mul(hn::Sub(samples, low), parts), d, out + i);
      },
      [&](int i) { out[i] = (static_cast<float>(row[i]) - scale.low) * part; });
}
void unpack8Wide(const std::uint8_t* row, int count, SampleScale scale, float* out) {
  unpack(row, count, scale, out);
}
void unpack16Wide(const std::uint16_t* row, int count, SampleScale scale, float* out) {
  unpack(row, count, scale, out);
}

template <class Sample>
HWY_INLINE void pack(const float* values, int count, SampleScale scale, float top, Sample* out) {
  const Floats d;
  const hn::Rebind<std::int32_t, Floats> whole;
  const hn::Rebind<Sample, Floats> narrow;
  const auto low = hn::Set(d, scale.low), span = hn::Set(d, scale.span), most = hn::Set(d, top), half = hn::Set(d, 0.5f);
  overVectors(
      count, static_cast<int>(hn::Lanes(d)),
      [&](int i) HWY_ATTR {
        const auto v = hn::Add(hn::Mul(hn::LoadU(d, values + i), span), low);
        // Comparing keeps out what is no number.
        const auto within = hn::IfThenElseZero(hn::Gt(v, hn::Zero(d)), hn::Min(v, most));
        hn::StoreU(hn::DemoteTo(narrow, hn::ConvertTo(whole, hn::Add(within, half))), narrow, out + i);
      },
      [&](int i) {
        const float v = values[i] * scale.span + scale.low;
        const float within = v > 0 ? (v < top ? v : top) : 0.0f;
        out[i] = static_cast<Sample>(within + 0.5f);
      });
}
void pack8Wide(const float* values, int count, SampleScale scale, float top, std::uint8_t* out) {
  pack(values, count, scale, top, out);
}
void pack16Wide(const float* values, int count, SampleScale scale, float top, std::uint16_t* out) {
  pack(values, count, scale, top, out);
}

}  // namespace HWY_NAMESPACE
}  // namespace molten
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace molten {
namespace {
HWY_EXPORT(unpack8Wide);
HWY_EXPORT(unpack16Wide);
HWY_EXPORT(pack8Wide);
HWY_EXPORT(pack16Wide);
}  // namespace

void unpackRow(const PictureFormat& format, const std::uint8_t* row, int first, int count, SampleScale scale, float* out) {
  if (format.floating) {
    const float* const from = reinterpret_cast<const float*>(row) + first;
    for (int i = 0; i < count; ++i) out[i] = (from[i] - scale.low) / scale.span;
  } else if (format.bits > 8) {
    HWY_DYNAMIC_DISPATCH(unpack16Wide)(reinterpret_cast<const std::uint16_t*>(row) + first, count, scale, out);
  } else {
    HWY_DYNAMIC_DISPATCH(unpack8Wide)(row + first, count, scale, out);
  }
}

void packRow(const PictureFormat& format, const float* values, int count, SampleScale scale, float top, std::uint8_t* row,
             int first) {
  if (format.floating) {
    float* const to = reinterpret_cast<float*>(row) + first;
    for (int i = 0; i < count; ++i) to[i] = values[i] * scale.span + scale.low;
  } else if (format.bits > 8) {
    HWY_DYNAMIC_DISPATCH(pack16Wide)(values, count, scale, top, reinterpret_cast<std::uint16_t*>(row) + first);
  } else {
    HWY_DYNAMIC_DISPATCH(pack8Wide)(values, count, scale, top, row + first);
  }
}

}  // namespace molten
#endif
