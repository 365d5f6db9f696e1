#include "core/picture/working_kernels.h"

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/picture/working_kernels.cpp"
#include <hwy/foreach_target.h>
// After the line above, which brings this file in once for each target.
#include <hwy/contrib/math/math-inl.h>
#include <hwy/cache_control.h>
#include <hwy/highway.h>

#include <algorithm>

HWY_BEFORE_NAMESPACE();
namespace molten {
namespace HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;
using Floats = hn::ScalableTag<float>;

/// work(lanes, three vectors) over three arrays; what is left over goes through a vector's worth of memory of its own.
template <class Work>
HWY_INLINE void overThree(float* a, float* b, float* c, std::size_t count, Work work) {
  const Floats d;
  const std::size_t lanes = hn::Lanes(d);
  std::size_t i = 0;
  const auto step = [&](float* x, float* y, float* z) HWY_ATTR {
    auto vx = hn::LoadU(d, x), vy = hn::LoadU(d, y), vz = hn::LoadU(d, z);
    work(vx, vy, vz);
    hn::StoreU(vx, d, x), hn::StoreU(vy, d, y), hn::StoreU(vz, d, z);
  };
  for (; i + lanes <= count; i += lanes) step(a + i, b + i, c + i);
  if (i == count) return;
  HWY_ALIGN float rest[3][HWY_MAX_BYTES / sizeof(float)] = {};
  for (std::size_t k = i; k < count; ++k) rest[0][k - i] = a[k], rest[1][k - i] = b[k], rest[2][k - i] = c[k];
  step(rest[0], rest[1], rest[2]);
  for (std::size_t k = i; k < count; ++k) a[k] = rest[0][k - i], b[k] = rest[1][k - i], c[k] = rest[2][k - i];
}

void toRgbWide(float* y, float* cb, float* cr, std::size_t count, double red, double blue) {
  const Floats d;
  const double green = 1 - red - blue;
  const auto toR = hn::Set(d, static_cast<float>(2 * (1 - red))), toB = hn::Set(d, static_cast<float>(2 * (1 - blue)));
  const auto gr = hn::Set(d, static_cast<float>(2 * (1 - red) * red / green)),
             gb = hn::Set(d, static_cast<float>(2 * (1 - blue) * blue / green));
  overThree(y, cb, cr, count, [&](auto& v0, auto& v1, auto& v2) HWY_ATTR {
    const auto r = hn::Add(v0, hn::Mul(toR, v2)), b = hn::Add(v0, hn::Mul(toB, v1));
    const auto g = hn::Sub(hn::Sub(v0, hn::Mul(gr, v2)), hn::Mul(gb, v1));
    v0 = r, v1 = g, v2 = b;
  });
}

void fromRgbWide(float* r, float* g, float* b, std::size_t count, double red, double blue) {
  const Floats d;
  const auto kr = hn::Set(d, static_cast<float>(red)), kg = hn::Set(d, static_cast<float>(1 - red - blue)),
             kb = hn::Set(d, static_cast<float>(blue));
  const auto toCr = hn::Set(d, static_cast<float>(0.5 / (1 - red))),
             toCb = hn::Set(d, static_cast<float>(0.5 / (1 - blue)));
  overThree(r, g, b, count, [&](auto& v0, auto& v1, auto& v2) HWY_ATTR {
    const auto y = hn::Add(hn::Add(hn::Mul(kr, v0), hn::Mul(kg, v1)), hn::Mul(kb, v2));
    const auto cr = hn::Mul(hn::Sub(v0, y), toCr), cb = hn::Mul(hn::Sub(v2, y), toCb);
    v0 = y, v1 = cb, v2 = cr;
  });
}

/// |v|^power for |v| > 0.
template <class V>
HWY_INLINE V powerOf(Floats d, V magnitude, V power) {
  return hn::Exp(d, hn::Mul(power, hn::Log(d, magnitude)));
}

/// What rootUnder() begins with, and its first step's terms after 1/n.
struct RootSteps {
  float from, second, third;
};
/// x^(−1/n) for x > 0, n = 5 or 6: from a straight line through the logarithms, which its bits are roughly, by two steps of
/// Newton's kind, the first with three terms (found by measuring: off by 4 %, 1e-4, 1e-7). Sums and products alone: the same
/// to the bit on every processor, and in a third of the time of a logarithm and back.
template <int n, class V>
HWY_INLINE V rootUnder(Floats d, V x, const RootSteps& steps) {
  const hn::RebindToSigned<Floats> whole;
  constexpr float part = 1.0f / n;
  const auto bits = hn::ConvertTo(d, hn::BitCast(whole, x));
  V z = hn::BitCast(d, hn::ConvertTo(whole, hn::Sub(hn::Set(d, steps.from), hn::Mul(hn::Set(d, part), bits))));
  const auto off = [&](V root) HWY_ATTR {
    const V squared = hn::Mul(root, root), fourth = hn::Mul(squared, squared);
    return hn::Sub(hn::Set(d, 1.0f), hn::Mul(x, hn::Mul(fourth, n == 5 ? root : squared)));
  };
  const V r = off(z);
  const V inner = hn::Add(hn::Set(d, steps.second), hn::Mul(r, hn::Set(d, steps.third)));
  z = hn::Mul(z, hn::Add(hn::Set(d, 1.0f), hn::Mul(r, hn::Add(hn::Set(d, part), hn::Mul(r, inner)))));
  return hn::Add(z, hn::Mul(z, hn::Mul(off(z), hn::Set(d, part))));
}
template <class V>
HWY_INLINE V fifthRootUnder(Floats d, V x) {
  return rootUnder<5>(d, x, {1.278e9f, 0.12f, 0.088f});
}
/// x^(1/2.4) for x > 0, the root of x^(5/6).
template <class V>
HWY_INLINE V fromThe24(Floats d, V x) {
  return hn::Sqrt(hn::Mul(x, rootUnder<6>(d, x, {1.24243e9f, 0.1f, 0.0702f})));
}
/// x^2.4 for x > 0.
template <class V>
HWY_INLINE V toThe24(Floats d, V x) {
  const V root = hn::Mul(x, fifthRootUnder(d, x));
  return hn::Mul(root, hn::Mul(root, root));
}

template <class Curve>
HWY_INLINE void curve(float* values, std::size_t count, Curve curved) {
  const Floats d;
  const std::size_t lanes = hn::Lanes(d);
  const auto step = [&](float* at) HWY_ATTR {
    const auto v = hn::LoadU(d, at), magnitude = hn::Abs(v);
    // The logarithm of nothing is not asked for.
    const auto safe = hn::Max(magnitude, hn::Set(d, 1e-20f));
    const auto made = hn::IfThenElse(hn::Eq(magnitude, hn::Zero(d)), hn::Zero(d), curved(safe));
    hn::StoreU(hn::CopySign(made, v), d, at);
  };
  std::size_t i = 0;
  for (; i + lanes <= count; i += lanes) step(values + i);
  if (i == count) return;
  HWY_ALIGN float rest[HWY_MAX_BYTES / sizeof(float)] = {};
  for (std::size_t k = i; k < count; ++k) rest[k - i] = values[k];
  step(rest);
  for (std::size_t k = i; k < count; ++k) values[k] = rest[k - i];
}

void multiplyWide(float* values, std::size_t count, float by) {
  const Floats d;
  const std::size_t lanes = hn::Lanes(d);
  std::size_t i = 0;
  for (; i + lanes <= count; i += lanes) hn::StoreU(hn::Mul(hn::LoadU(d, values + i), hn::Set(d, by)), d, values + i);
  for (; i < count; ++i) values[i] *= by;
}

void raiseWide(float* values, std::size_t count, float power) {
  const Floats d;
  // What video is shown with.
  if (power == 2.4f)
    return curve(values, count, [&](auto v) HWY_ATTR { return toThe24(d, v); });
  if (power == 1 / 2.4f) return curve(values, count, [&](auto v) HWY_ATTR { return fromThe24(d, v); });
  if (power == 2.2f)
    return curve(values, count, [&](auto v) HWY_ATTR {
      const auto z = fifthRootUnder(d, v), squared = hn::Mul(z, z);
      return hn::Mul(hn::Mul(v, v), hn::Mul(v, hn::Mul(squared, squared)));
    });
  if (power == 2.8f)
    return curve(values, count,
                 [&](auto v) HWY_ATTR { return hn::Mul(hn::Mul(v, v), hn::Mul(v, fifthRootUnder(d, v))); });
  curve(values, count, [&](auto v) HWY_ATTR { return powerOf(d, v, hn::Set(d, power)); });
}

void fromSrgbWide(float* values, std::size_t count) {
  const Floats d;
  curve(values, count, [&](auto v) HWY_ATTR {
    const auto upper = toThe24(d, hn::Mul(hn::Add(v, hn::Set(d, 0.055f)), hn::Set(d, 1 / 1.055f)));
    return hn::IfThenElse(hn::Gt(v, hn::Set(d, 0.04045f)), upper, hn::Mul(v, hn::Set(d, 1 / 12.92f)));
  });
}

void toSrgbWide(float* values, std::size_t count) {
  const Floats d;
  curve(values, count, [&](auto v) HWY_ATTR {
    const auto upper = hn::Sub(hn::Mul(hn::Set(d, 1.055f), fromThe24(d, v)), hn::Set(d, 0.055f));
    return hn::IfThenElse(hn::Gt(v, hn::Set(d, 0.0031308f)), upper, hn::Mul(v, hn::Set(d, 12.92f)));
  });
}

void signedRootsWide(const float* values, std::size_t count, std::int16_t* out) {
  const Floats d;
  const hn::Rebind<std::int16_t, Floats> narrow;
  const std::size_t lanes = hn::Lanes(d);
  const auto rootsOf = [&](auto v) HWY_ATTR {
    const auto root = hn::CopySign(hn::Sqrt(hn::Abs(v)), v);
    return hn::DemoteTo(narrow, hn::NearestInt(hn::Mul(root, hn::Set(d, rootOne))));
  };
  std::size_t i = 0;
  for (; i + lanes <= count; i += lanes) hn::StoreU(rootsOf(hn::LoadU(d, values + i)), narrow, out + i);
  if (i == count) return;
  HWY_ALIGN float rest[HWY_MAX_BYTES / sizeof(float)] = {};
  HWY_ALIGN std::int16_t made[HWY_MAX_BYTES / sizeof(float)];
  std::copy(values + i, values + count, rest);
  hn::StoreU(rootsOf(hn::LoadU(d, rest)), narrow, made);
  std::copy_n(made, count - i, out + i);
}

template <class V>
HWY_INLINE auto squareOf(Floats d, V roots) {
  const auto root = hn::Mul(hn::ConvertTo(d, hn::PromoteTo(hn::RebindToSigned<Floats>(), roots)), hn::Set(d, 1 / rootOne));
  return hn::Mul(root, hn::Abs(root));
}

void signedSquaresWide(const std::int16_t* roots, std::size_t count, float* out) {
  const Floats d;
  const hn::Rebind<std::int16_t, Floats> narrow;
  const std::size_t lanes = hn::Lanes(d);
  std::size_t i = 0;
  for (; i + lanes <= count; i += lanes) hn::StoreU(squareOf(d, hn::LoadU(narrow, roots + i)), d, out + i);
  if (i == count) return;
  HWY_ALIGN std::int16_t rest[HWY_MAX_BYTES / sizeof(float)] = {};
  HWY_ALIGN float made[HWY_MAX_BYTES / sizeof(float)];
  std::copy(roots + i, roots + count, rest);
  hn::StoreU(squareOf(d, hn::LoadU(narrow, rest)), d, made);
  std::copy_n(made, count - i, out + i);
}

/// lay(what was, a value, its weight) from the first row to the last, a vector at a time, so that nothing in between is
/// written.
template <class Lay>
HWY_INLINE void overRoots(std::span<const std::int16_t* const> rows, std::ptrdiff_t ahead, const float* weights,
                          std::size_t count, float* mixed, Lay lay) {
  const Floats d;
  const hn::Rebind<std::int16_t, Floats> narrow;
  const std::size_t lanes = hn::Lanes(d);
  std::size_t i = 0;
  // Four vectors at a time, since each step waits for the one before it.
  for (; i + 4 * lanes <= count; i += 4 * lanes) {
    float* const at = mixed + i;
    auto a = hn::LoadU(d, at), b = hn::LoadU(d, at + lanes), c = hn::LoadU(d, at + 2 * lanes), e = hn::LoadU(d, at + 3 * lanes);
    for (std::size_t k = 0; k < rows.size(); ++k) {
      const std::int16_t* const row = rows[k] + i;
      hwy::Prefetch(row + ahead), hwy::Prefetch(row + ahead + 2 * lanes);
      const auto w = hn::Set(d, weights[k]);
      a = lay(a, squareOf(d, hn::LoadU(narrow, row)), w);
      b = lay(b, squareOf(d, hn::LoadU(narrow, row + lanes)), w);
      c = lay(c, squareOf(d, hn::LoadU(narrow, row + 2 * lanes)), w);
      e = lay(e, squareOf(d, hn::LoadU(narrow, row + 3 * lanes)), w);
    }
    hn::StoreU(a, d, at), hn::StoreU(b, d, at + lanes), hn::StoreU(c, d, at + 2 * lanes), hn::StoreU(e, d, at + 3 * lanes);
  }
  for (; i + lanes <= count; i += lanes) {
    auto all = hn::LoadU(d, mixed + i);
    for (std::size_t k = 0; k < rows.size(); ++k) {
      all = lay(all, squareOf(d, hn::LoadU(narrow, rows[k] + i)), hn::Set(d, weights[k]));
    }
    hn::StoreU(all, d, mixed + i);
  }
  if (i == count) return;
  HWY_ALIGN std::int16_t rest[HWY_MAX_BYTES / sizeof(float)] = {};
  HWY_ALIGN float made[HWY_MAX_BYTES / sizeof(float)] = {};
  std::copy(mixed + i, mixed + count, made);
  auto all = hn::LoadU(d, made);
  for (std::size_t k = 0; k < rows.size(); ++k) {
    std::copy(rows[k] + i, rows[k] + count, rest);
    all = lay(all, squareOf(d, hn::LoadU(narrow, rest)), hn::Set(d, weights[k]));
  }
  hn::StoreU(all, d, made);
  std::copy_n(made, count - i, mixed + i);
}

void combineRootsWide(BlendMode blend, std::span<const std::int16_t* const> rows, std::ptrdiff_t ahead,
                      const float* weights, std::size_t count, float* mixed) {
  const Floats d;
  const auto one = hn::Set(d, 1.0f);
  switch (blend) {
    case BlendMode::Sum:
    case BlendMode::Mean:
    case BlendMode::Under:
      return overRoots(rows, ahead, weights, count, mixed,
                       [&](auto all, auto v, auto w) HWY_ATTR { return hn::Add(all, hn::Mul(w, v)); });
    case BlendMode::BelowWhite:
      return overRoots(rows, ahead, weights, count, mixed, [&](auto all, auto v, auto w) HWY_ATTR {
        return hn::Sub(one, hn::Mul(hn::Sub(one, all), hn::Sub(one, hn::Mul(w, v))));
      });
    case BlendMode::Brightest:
      return overRoots(rows, ahead, weights, count, mixed, [&](auto all, auto v, auto w) HWY_ATTR {
        const auto value = hn::Mul(w, v);
        return hn::IfThenElse(hn::Gt(value, all), value, all);
      });
    case BlendMode::Darkest:
      return overRoots(rows, ahead, weights, count, mixed, [&](auto all, auto v, auto w) HWY_ATTR {
        const auto value = hn::Sub(one, hn::Mul(w, hn::Sub(one, v)));
        return hn::IfThenElse(hn::Lt(value, all), value, all);
      });
    case BlendMode::Over:
      return overRoots(rows, ahead, weights, count, mixed, [&](auto all, auto v, auto w) HWY_ATTR {
        return hn::Add(hn::Mul(w, v), hn::Mul(hn::Sub(one, w), all));
      });
  }
}

}  // namespace HWY_NAMESPACE
}  // namespace molten
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace molten {
namespace {
HWY_EXPORT(toRgbWide);
HWY_EXPORT(fromRgbWide);
HWY_EXPORT(multiplyWide);
HWY_EXPORT(raiseWide);
HWY_EXPORT(fromSrgbWide);
HWY_EXPORT(toSrgbWide);
HWY_EXPORT(signedRootsWide);
HWY_EXPORT(signedSquaresWide);
HWY_EXPORT(combineRootsWide);
}  // namespace

void toRgb(float* y, float* cb, float* cr, std::size_t count, double red, double blue) {
  HWY_DYNAMIC_DISPATCH(toRgbWide)(y, cb, cr, count, red, blue);
}
void fromRgb(float* r, float* g, float* b, std::size_t count, double red, double blue) {
  HWY_DYNAMIC_DISPATCH(fromRgbWide)(r, g, b, count, red, blue);
}
void multiply(float* values, std::size_t count, float by) {
  HWY_DYNAMIC_DISPATCH(multiplyWide)(values, count, by);
}
void raise(float* values, std::size_t count, float power) {
  HWY_DYNAMIC_DISPATCH(raiseWide)(values, count, power);
}
void srgbToLinear(float* values, std::size_t count) {
  HWY_DYNAMIC_DISPATCH(fromSrgbWide)(values, count);
}
void linearToSrgb(float* values, std::size_t count) {
  HWY_DYNAMIC_DISPATCH(toSrgbWide)(values, count);
}

void signedRoots(const float* values, std::size_t count, std::int16_t* out) {
  HWY_DYNAMIC_DISPATCH(signedRootsWide)(values, count, out);
}
void signedSquares(const std::int16_t* roots, std::size_t count, float* out) {
  HWY_DYNAMIC_DISPATCH(signedSquaresWide)(roots, count, out);
}
void combineRoots(BlendMode blend, std::span<const std::int16_t* const> rows, std::ptrdiff_t ahead,
                  std::span<const float> weights, std::size_t count, float* mixed) {
  HWY_DYNAMIC_DISPATCH(combineRootsWide)(blend, rows, ahead, weights.data(), count, mixed);
}

}  // namespace molten
#endif
