#include "core/engine/flow_kernels.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/engine/flow_kernels.cpp"
#include <hwy/foreach_target.h>
// After the line above, which brings this file in once for each target.
#include <hwy/highway.h>

#include <algorithm>
#include <type_traits>

HWY_BEFORE_NAMESPACE();
namespace molten {
namespace HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;
using Floats = hn::ScalableTag<float>;
using Wholes = hn::RebindToSigned<Floats>;
using V = hn::Vec<Floats>;
using W = hn::Vec<Wholes>;

HWY_INLINE V between(V a, V b, V f) {
  return hn::Add(a, hn::Mul(hn::Sub(b, a), f));
}

/// Two neighbours in a row, from a byte offset on.
struct Two {
  V first, second;
};
template <class Sample>
HWY_INLINE Two neighbours(const Sample* samples, W offset) {
  const Floats d;
  const Wholes w;
  if constexpr (std::is_floating_point_v<Sample>) {
    return {hn::GatherOffset(d, samples, offset), hn::GatherOffset(d, samples + 1, offset)};
  } else {
    // One look fetches both.
    constexpr int bits = 8 * sizeof(Sample);
    const auto both = hn::GatherOffset(w, reinterpret_cast<const std::int32_t*>(samples), offset);
    const auto low = hn::Set(w, (1 << bits) - 1);
    return {hn::ConvertTo(d, hn::And(both, low)), hn::ConvertTo(d, hn::And(hn::ShiftRight<bits>(both), low))};
  }
}

/// Of samples that follow each other.
template <class Sample>
HWY_INLINE V consecutive(const Sample* at) {
  const Floats d;
  if constexpr (std::is_floating_point_v<Sample>)
    return hn::LoadU(d, at);
  else
    return hn::ConvertTo(d, hn::PromoteTo(Wholes(), hn::LoadU(hn::Rebind<Sample, Floats>(), at)));
}

/// Straight between the samples at some offsets, their right neighbours and those below. Not part of every place where it is
/// needed: it is seldom, and long.
template <class Sample>
HWY_NOINLINE V gathered(const PatchView<Sample>& patch, W at, V fx, V fy) {
  const Wholes w;
  constexpr int size = sizeof(Sample);
  const W offset = hn::Mul(at, hn::Set(w, size));
  const Two upper = neighbours(patch.samples, offset), lower = neighbours(patch.samples + patch.stride, offset);
  return between(between(upper.first, upper.second, fx), between(lower.first, lower.second, fx), fy);
}

/// Straight between the four samples around a place.
template <class Sample>
HWY_INLINE V sampleAt(const PatchView<Sample>& patch, V x, V y) {
  const Floats d;
  const Wholes w;
  x = hn::Sub(x, hn::Set(d, static_cast<float>(patch.left)));
  y = hn::Sub(y, hn::Set(d, static_cast<float>(patch.top)));
  const W ix = hn::ConvertTo(w, x), iy = hn::ConvertTo(w, y);
  const V fx = hn::Sub(x, hn::ConvertTo(d, ix)), fy = hn::Sub(y, hn::ConvertTo(d, iy));
  const W at = hn::Add(hn::Mul(iy, hn::Set(w, patch.stride)), ix);
  const std::int32_t first = hn::GetLane(at);
  // Motion mostly changes little from sample to sample: what is read lies in a row then.
  if (HWY_UNLIKELY(!hn::AllTrue(w, hn::Eq(at, hn::Iota(w, first))))) return gathered(patch, at, fx, fy);
  const Sample *const upper = patch.samples + first, *const lower = upper + patch.stride;
  return between(between(consecutive(upper), consecutive(upper + 1), fx),
                 between(consecutive(lower), consecutive(lower + 1), fx), fy);
}

/// The samples of a row from a place on.
template <class Sample>
HWY_INLINE V samplesFrom(const PatchView<Sample>& patch, int x, int y) {
  return consecutive(patch.samples + static_cast<std::ptrdiff_t>(y - patch.top) * patch.stride + (x - patch.left));
}

/// One of the opinions at samples, straight between the cells around them.
class Opinions {
 public:
  HWY_INLINE Opinions(const FlowRun& run, int i, int count, hn::Mask<Floats> here)
      : run_(run), first_(run.cell[i]), near_(run.cell[i + count - 1] - first_ < static_cast<int>(hn::Lanes(Floats()))) {
    const Floats d;
    const Wholes w;
    // Beyond the run all is as at its first sample.
    cells_ = hn::Sub(hn::IfThenElse(hn::RebindMask(w, here), hn::LoadU(w, run.cell + i), hn::Set(w, first_)),
                     hn::Set(w, first_));
    along_ = hn::MaskedLoad(here, d, run.along + i);
  }
  HWY_INLINE V operator()(std::size_t which) const {
    const Floats d;
    const float* const cells = run_.cells[which] + first_;
    // Cells are seldom narrower than a sample.
    if (HWY_UNLIKELY(!near_))
      return between(hn::GatherIndex(d, cells, cells_), hn::GatherIndex(d, cells + 1, cells_), along_);
    const auto places = hn::IndicesFromVec(d, cells_);
    return between(hn::TableLookupLanes(hn::LoadU(d, cells), places), hn::TableLookupLanes(hn::LoadU(d, cells + 1), places),
                   along_);
  }

 private:
  const FlowRun& run_;
  std::int32_t first_;
  bool near_;
  W cells_;
  V along_;
};

template <class Sample>
HWY_INLINE void store(V value, float most, int count, Sample* out) {
  const Floats d;
  const int lanes = static_cast<int>(hn::Lanes(d));
  if constexpr (std::is_floating_point_v<Sample>) {
    if (count >= lanes) return hn::StoreU(value, d, out);
    HWY_ALIGN float rest[HWY_MAX_BYTES / sizeof(float)];
    hn::Store(value, d, rest);
    std::copy_n(rest, count, out);
  } else {
    const hn::Rebind<Sample, Floats> narrow;
    const auto kept = hn::Min(hn::Max(value, hn::Zero(d)), hn::Set(d, most));
    const auto made = hn::DemoteTo(narrow, hn::ConvertTo(Wholes(), hn::Add(kept, hn::Set(d, 0.5f))));
    if (count >= lanes) return hn::StoreU(made, narrow, out);
    HWY_ALIGN Sample rest[HWY_MAX_BYTES / sizeof(float)];
    hn::StoreU(made, narrow, rest);
    std::copy_n(rest, count, out);
  }
}

template <class Sample>
HWY_INLINE void mixRun(const FlowRun& run, const PatchView<Sample>& earlier, const PatchView<Sample>& later, Sample* out) {
  const Floats d;
  const int lanes = static_cast<int>(hn::Lanes(d));
  const V one = hn::Set(d, 1.0f), y = hn::Set(d, static_cast<float>(run.y)),
          last = hn::Set(d, static_cast<float>(run.x + run.count - 1)), same = hn::Set(d, run.same),
          eighths = hn::Set(d, 255 / run.most), none = hn::Set(d, 3 * run.trusted),
          perDoubt = hn::Set(d, 1 / (2 * run.trusted));
  const auto trust = [&](V off) HWY_ATTR {
    return hn::Min(hn::Max(hn::Mul(hn::Sub(none, off), perDoubt), hn::Zero(d)), one);
  };
  for (int i = 0; i < run.count; i += lanes) {
    const int count = std::min(lanes, run.count - i);
    const auto here = hn::FirstN(d, static_cast<std::size_t>(count));
    // Beyond the run its last sample is made again, by motions of the run's.
    const V x = hn::Min(hn::Iota(d, static_cast<float>(run.x + i)), last), t = hn::MaskedLoad(here, d, run.part + i), rest = hn::Sub(one, t);
    const Opinions opinion(run, i, count, here);
    const V ux = opinion(0), uy = opinion(1), vx = opinion(2), vy = opinion(3), uOff = opinion(4), vOff = opinion(5);
    const V pa = sampleAt(earlier, hn::Sub(x, hn::Mul(t, ux)), hn::Sub(y, hn::Mul(t, uy))),
            pb = sampleAt(later, hn::Add(x, hn::Mul(rest, ux)), hn::Add(y, hn::Mul(rest, uy)));
    V made = between(pa, pb, t), believed = trust(uOff);
    const auto agree = hn::And(hn::Le(hn::Abs(hn::Add(ux, vx)), same), hn::Le(hn::Abs(hn::Add(uy, vy)), same));
    if (!hn::AllTrue(d, agree)) {
      const V qa = sampleAt(earlier, hn::Add(x, hn::Mul(t, vx)), hn::Add(y, hn::Mul(t, vy))),
              qb = sampleAt(later, hn::Sub(x, hn::Mul(rest, vx)), hn::Sub(y, hn::Mul(rest, vy)));
      // Differences are judged as of 8-bit samples.
      const V pOff = hn::Add(hn::Mul(hn::Abs(hn::Sub(pa, pb)), eighths), uOff),
              qOff = hn::Add(hn::Mul(hn::Abs(hn::Sub(qa, qb)), eighths), vOff);
      const V pWeight = hn::Div(one, hn::Add(one, hn::Mul(pOff, pOff))),
              qWeight = hn::Div(one, hn::Add(one, hn::Mul(qOff, qOff)));
      const V share = hn::Div(qWeight, hn::Add(pWeight, qWeight));
      made = hn::IfThenElse(agree, made, between(made, between(qa, qb, t), share));
      believed = hn::IfThenElse(agree, believed, between(believed, trust(vOff), share));
    }
    if (!hn::AllTrue(d, hn::Ge(believed, one))) {
      const V plain = between(samplesFrom(earlier, run.x + i, run.y), samplesFrom(later, run.x + i, run.y), t);
      made = between(plain, made, believed);
    }
    store(made, run.most, count, out + i);
  }
}

void mixRun8(const FlowRun& run, const PatchView<std::uint8_t>& a, const PatchView<std::uint8_t>& b, std::uint8_t* out) {
  mixRun(run, a, b, out);
}
void mixRun16(const FlowRun& run, const PatchView<std::uint16_t>& a, const PatchView<std::uint16_t>& b,
              std::uint16_t* out) {
  mixRun(run, a, b, out);
}
void mixRunFloats(const FlowRun& run, const PatchView<float>& a, const PatchView<float>& b, float* out) {
  mixRun(run, a, b, out);
}

struct Motion {
  V x, y;
};
/// The motion at places, in pixels.
HWY_INLINE Motion motionAt(const std::int16_t* vectors, const FlowCells& cells, V x, V y) {
  const Floats d;
  const Wholes w;
  const V half = hn::Set(d, 0.5f), size = hn::Set(d, cells.cell), one = hn::Set(d, 1.0f);
  const auto within = [&](V place, int count) HWY_ATTR {
    return hn::Min(hn::Max(hn::Sub(hn::Div(place, size), half), hn::Zero(d)), hn::Set(d, static_cast<float>(count - 1)));
  };
  x = within(x, cells.across), y = within(y, cells.down);
  const W left = hn::Min(hn::ConvertTo(w, x), hn::Set(w, std::max(0, cells.across - 2))),
          top = hn::Min(hn::ConvertTo(w, y), hn::Set(w, std::max(0, cells.down - 2)));
  const V fx = hn::Sub(x, hn::ConvertTo(d, left)), fy = hn::Sub(y, hn::ConvertTo(d, top)), gx = hn::Sub(one, fx),
          gy = hn::Sub(one, fy);
  const W at = hn::Add(hn::Mul(top, hn::Set(w, cells.across)), left);
  const int right = cells.across > 1 ? 1 : 0, below = cells.down > 1 ? cells.across : 0;
  const auto* const pairs = reinterpret_cast<const std::int32_t*>(vectors);
  const W a = hn::GatherIndex(w, pairs, at), b = hn::GatherIndex(w, pairs + right, at),
          c = hn::GatherIndex(w, pairs + below, at), e = hn::GatherIndex(w, pairs + below + right, at);
  const auto across = [&](W pair) HWY_ATTR { return hn::ConvertTo(d, hn::ShiftRight<16>(hn::ShiftLeft<16>(pair))); };
  const auto down = [&](W pair) HWY_ATTR { return hn::ConvertTo(d, hn::ShiftRight<16>(pair)); };
  const auto mixed = [&](V p, V q, V r, V s) HWY_ATTR {
    const V upper = hn::Add(hn::Mul(p, gx), hn::Mul(q, fx)), lower = hn::Add(hn::Mul(r, gx), hn::Mul(s, fx));
    return hn::Mul(hn::Add(hn::Mul(upper, gy), hn::Mul(lower, fy)), hn::Set(d, 1.0f / 16));
  };
  return {mixed(across(a), across(b), across(c), across(e)), mixed(down(a), down(b), down(c), down(e))};
}

void opinionsWide(const FlowCells& cells, const float* xs, float yOfAll, const float* parts, int count, float* out) {
  const Floats d;
  const int lanes = static_cast<int>(hn::Lanes(d));
  HWY_ALIGN float made[6][HWY_MAX_BYTES / sizeof(float)];
  const V y = hn::Set(d, yOfAll);
  const auto forward = [&](V px, V py) HWY_ATTR { return motionAt(cells.forward, cells, px, py); };
  const auto backward = [&](V px, V py) HWY_ATTR { return motionAt(cells.backward, cells, px, py); };
  const auto length = [&](const Motion& a, const Motion& b) HWY_ATTR {
    const V dx = hn::Add(a.x, b.x), dy = hn::Add(a.y, b.y);
    return hn::Sqrt(hn::Add(hn::Mul(dx, dx), hn::Mul(dy, dy)));
  };
  // Motion below this, in pixels, is none: still backgrounds stay as they are.
  const V least = hn::Set(d, 1.0f / 8);
  const auto orNone = [&](const Motion& m) HWY_ATTR {
    const auto still = hn::And(hn::Lt(hn::Abs(m.x), least), hn::Lt(hn::Abs(m.y), least));
    return Motion{hn::IfThenZeroElse(still, m.x), hn::IfThenZeroElse(still, m.y)};
  };
  for (int i = 0; i < count; i += lanes) {
    const int some = std::min(lanes, count - i);
    const auto here = hn::FirstN(d, static_cast<std::size_t>(some));
    const V x = hn::MaskedLoad(here, d, xs + i), t = hn::MaskedLoad(here, d, parts + i),
            rest = hn::Sub(hn::Set(d, 1.0f), t);
    Motion u = forward(x, y), v = backward(x, y);
    for (int step = 0; step < 2; ++step) {
      u = forward(hn::Sub(x, hn::Mul(t, u.x)), hn::Sub(y, hn::Mul(t, u.y)));
      v = backward(hn::Sub(x, hn::Mul(rest, v.x)), hn::Sub(y, hn::Mul(rest, v.y)));
    }
    const Motion uBack = backward(hn::Add(x, hn::Mul(rest, u.x)), hn::Add(y, hn::Mul(rest, u.y))),
                 vBack = forward(hn::Add(x, hn::Mul(t, v.x)), hn::Add(y, hn::Mul(t, v.y)));
    const V uOff = length(u, uBack), vOff = length(v, vBack);
    u = orNone(u), v = orNone(v);
    hn::Store(u.x, d, made[0]), hn::Store(u.y, d, made[1]), hn::Store(v.x, d, made[2]), hn::Store(v.y, d, made[3]);
    hn::Store(uOff, d, made[4]), hn::Store(vOff, d, made[5]);
    for (int k = 0; k < some; ++k)
      for (int c = 0; c < 6; ++c) out[(i + k) * 6 + c] = made[c][k];
  }
}

}  // namespace HWY_NAMESPACE
}  // namespace molten
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace molten {
namespace {
HWY_EXPORT(mixRun8);
HWY_EXPORT(mixRun16);
HWY_EXPORT(mixRunFloats);
HWY_EXPORT(opinionsWide);
}  // namespace

void mixAlongFlow(const FlowRun& run, const PatchView<std::uint8_t>& earlier, const PatchView<std::uint8_t>& later,
                  std::uint8_t* out) {
  HWY_DYNAMIC_DISPATCH(mixRun8)(run, earlier, later, out);
}
void mixAlongFlow(const FlowRun& run, const PatchView<std::uint16_t>& earlier, const PatchView<std::uint16_t>& later,
                  std::uint16_t* out) {
  HWY_DYNAMIC_DISPATCH(mixRun16)(run, earlier, later, out);
}
void mixAlongFlow(const FlowRun& run, const PatchView<float>& earlier, const PatchView<float>& later, float* out) {
  HWY_DYNAMIC_DISPATCH(mixRunFloats)(run, earlier, later, out);
}
void opinionsOfRow(const FlowCells& cells, const float* xs, float y, const float* parts, int count, float* out) {
  HWY_DYNAMIC_DISPATCH(opinionsWide)(cells, xs, y, parts, count, out);
}

}  // namespace molten
#endif
