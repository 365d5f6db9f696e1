#include "core/picture/chroma_sites.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/picture/chroma_sites.cpp"
#include <hwy/foreach_target.h>
// After the line above, which brings this file in once for each target.
#include <hwy/highway.h>

#include <algorithm>

HWY_BEFORE_NAMESPACE();
namespace molten {
namespace HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;
using Floats = hn::ScalableTag<float>;
using One = hn::CappedTag<float, 1>;  // a vector of one, for what is left over: the same arithmetic

/// work(lanes, i) for vectors from the i-th on, then one by one.
template <class Work>
HWY_INLINE void overAll(int count, Work work) {
  const Floats d;
  const int lanes = static_cast<int>(hn::Lanes(d));
  int i = 0;
  for (; i + lanes <= count; i += lanes) work(d, i);
  for (; i < count; ++i) work(One(), i);
}

/// The filters that undo straight interpolation, of what the site's pixels and those around them hold.
template <class D, class V = hn::Vec<D>>
HWY_INLINE V onSite(D d, V before2, V before, V own, V after, V after2) {
  const auto quarter = hn::Set(d, 0.25f), eighth = hn::Set(d, 0.125f);
  const auto near = hn::Mul(hn::Add(before, after), quarter), far = hn::Mul(hn::Add(before2, after2), eighth);
  return hn::Sub(hn::Add(hn::Mul(own, hn::Set(d, 0.75f)), near), far);
}
template <class D, class V = hn::Vec<D>>
HWY_INLINE V between(D d, V before, V first, V second, V after) {
  return hn::Sub(hn::Mul(hn::Add(first, second), hn::Set(d, 0.75f)), hn::Mul(hn::Add(before, after), hn::Set(d, 0.25f)));
}

void onSiteDownWide(const float* own, std::ptrdiff_t apart, int count, float* out) {
  overAll(count, [&](auto d, int i) HWY_ATTR {
    const auto at = [&](int row) HWY_ATTR { return hn::LoadU(d, own + row * apart + i); };
    hn::StoreU(onSite(d, at(-2), at(-1), at(0), at(1), at(2)), d, out + i);
  });
}
void betweenDownWide(const float* own, std::ptrdiff_t apart, int count, float* out) {
  overAll(count, [&](auto d, int i) HWY_ATTR {
    const auto at = [&](int row) HWY_ATTR { return hn::LoadU(d, own + row * apart + i); };
    hn::StoreU(between(d, at(-1), at(0), at(1), at(2)), d, out + i);
  });
}

/// Every other value from an even one on, and those between them.
template <class D>
struct Pairs {
  hn::Vec<D> even, odd;
  Pairs(D d, const float* from) { hn::LoadInterleaved2(d, from, even, odd); }
};
void onSiteAcrossWide(const float* own, int count, float* out) {
  overAll(count, [&](auto d, int i) HWY_ATTR {
    using Of = Pairs<decltype(d)>;
    const Of before(d, own + 2 * i - 2), at(d, own + 2 * i), after(d, own + 2 * i + 2);
    hn::StoreU(onSite(d, before.even, before.odd, at.even, at.odd, after.even), d, out + i);
  });
}
void betweenAcrossWide(const float* own, int count, float* out) {
  overAll(count, [&](auto d, int i) HWY_ATTR {
    using Of = Pairs<decltype(d)>;
    const Of before(d, own + 2 * i - 2), at(d, own + 2 * i), after(d, own + 2 * i + 2);
    hn::StoreU(between(d, before.odd, at.even, at.odd, after.even), d, out + i);
  });
}

void blendWide(const float* near, const float* far, float share, int count, float* out) {
  overAll(count, [&](auto d, int i) HWY_ATTR {
    const auto a = hn::LoadU(d, near + i), b = hn::LoadU(d, far + i);
    hn::StoreU(hn::Add(hn::Mul(a, hn::Set(d, 1 - share)), hn::Mul(b, hn::Set(d, share))), d, out + i);
  });
}
void spreadFirstWide(const float* sites, int pairs, float* out) {
  overAll(pairs, [&](auto d, int m) HWY_ATTR {
    const auto own = hn::LoadU(d, sites + m), after = hn::LoadU(d, sites + m + 1);
    hn::StoreInterleaved2(own, hn::Mul(hn::Add(own, after), hn::Set(d, 0.5f)), d, out + 2 * m);
  });
}
void spreadSecondWide(const float* sites, int pairs, float* out) {
  overAll(pairs, [&](auto d, int m) HWY_ATTR {
    const auto own = hn::LoadU(d, sites + m), before = hn::LoadU(d, sites + m - 1);
    hn::StoreInterleaved2(hn::Mul(hn::Add(before, own), hn::Set(d, 0.5f)), own, d, out + 2 * m);
  });
}
void spreadBetweenWide(const float* sites, int pairs, float* out) {
  overAll(pairs, [&](auto d, int m) HWY_ATTR {
    const auto quarter = hn::Set(d, 0.25f), own = hn::Mul(hn::LoadU(d, sites + m), hn::Set(d, 0.75f));
    const auto before = hn::Mul(hn::LoadU(d, sites + m - 1), quarter), after = hn::Mul(hn::LoadU(d, sites + m + 1), quarter);
    hn::StoreInterleaved2(hn::Add(own, before), hn::Add(own, after), d, out + 2 * m);
  });
}

}  // namespace HWY_NAMESPACE
}  // namespace molten
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace molten {
namespace {
HWY_EXPORT(onSiteDownWide);
HWY_EXPORT(betweenDownWide);
HWY_EXPORT(onSiteAcrossWide);
HWY_EXPORT(betweenAcrossWide);
HWY_EXPORT(blendWide);
HWY_EXPORT(spreadFirstWide);
HWY_EXPORT(spreadSecondWide);
HWY_EXPORT(spreadBetweenWide);
}  // namespace

ChromaSite chromaSite(int shift, bool first, bool second) {
  if (shift == 0) return ChromaSite::Own;
  if (shift > 1) return ChromaSite::Group;
  return first ? ChromaSite::First : second ? ChromaSite::Second : ChromaSite::Between;
}

OtherRow otherRow(ChromaSite down, int y) {
  const bool odd = (y & 1) != 0;
  if (down == ChromaSite::First && odd) return {1, 0.5f};
  if (down == ChromaSite::Second && !odd) return {-1, 0.5f};
  if (down == ChromaSite::Between) return {odd ? 1 : -1, 0.25f};
  return {};
}

void blendRows(const float* near, const float* far, float share, int count, float* out) {
  HWY_DYNAMIC_DISPATCH(blendWide)(near, far, share, count, out);
}

void spreadAcross(ChromaSite across, const float* sites, int count, float* out) {
  switch (across) {
    case ChromaSite::First:
      return HWY_DYNAMIC_DISPATCH(spreadFirstWide)(sites, count / 2, out);
    case ChromaSite::Second:
      return HWY_DYNAMIC_DISPATCH(spreadSecondWide)(sites, count / 2, out);
    case ChromaSite::Between:
      return HWY_DYNAMIC_DISPATCH(spreadBetweenWide)(sites, count / 2, out);
    case ChromaSite::Group:
      for (int i = 0; i < count; ++i) out[i] = sites[i / 4];
      return;
    case ChromaSite::Own:
      std::copy_n(sites, count, out);
  }
}

void gatherDown(ChromaSite down, const float* rows, std::ptrdiff_t apart, int count, float* out) {
  switch (down) {
    case ChromaSite::First:
      return HWY_DYNAMIC_DISPATCH(onSiteDownWide)(rows, apart, count, out);
    case ChromaSite::Second:
      return HWY_DYNAMIC_DISPATCH(onSiteDownWide)(rows + apart, apart, count, out);
    case ChromaSite::Between:
      return HWY_DYNAMIC_DISPATCH(betweenDownWide)(rows, apart, count, out);
    case ChromaSite::Group:
      for (int i = 0; i < count; ++i)
        out[i] = (rows[i] + rows[apart + i] + rows[2 * apart + i] + rows[3 * apart + i]) / 4;
      return;
    case ChromaSite::Own:
      std::copy_n(rows, count, out);
  }
}

void gatherAcross(ChromaSite across, const float* row, int count, float* out) {
  switch (across) {
    case ChromaSite::First:
      return HWY_DYNAMIC_DISPATCH(onSiteAcrossWide)(row, count, out);
    case ChromaSite::Second:
      return HWY_DYNAMIC_DISPATCH(onSiteAcrossWide)(row + 1, count, out);
    case ChromaSite::Between:
      return HWY_DYNAMIC_DISPATCH(betweenAcrossWide)(row, count, out);
    case ChromaSite::Group:
      for (int i = 0; i < count; ++i) out[i] = (row[4 * i] + row[4 * i + 1] + row[4 * i + 2] + row[4 * i + 3]) / 4;
      return;
    case ChromaSite::Own:
      std::copy_n(row, count, out);
  }
}

}  // namespace molten
#endif
