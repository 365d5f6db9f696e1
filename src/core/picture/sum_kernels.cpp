#include "core/picture/sum_kernels.h"

#include <algorithm>
#include <cmath>

#include "core/wide.h"

namespace molten {
namespace {

/// work(a sample pointer of the format's own type).
template <class Work>
auto asSamples(const PictureFormat& format, const std::uint8_t* row, Work work) {
  if (format.floating) return work(reinterpret_cast<const float*>(row));
  if (format.bits > 8) return work(reinterpret_cast<const std::uint16_t*>(row));
  return work(row);
}

MOLTEN_WIDE void add8(const std::uint8_t* row, float weight, float black, int count, float* sums) {
  for (int i = 0; i < count; ++i) sums[i] += weight * (static_cast<float>(row[i]) - black);
}
MOLTEN_WIDE void add8x4(const std::uint8_t* const* rows, const float* weights, float black, int count, float* sums) {
  const std::uint8_t *a = rows[0], *b = rows[1], *c = rows[2], *d = rows[3];
  const float wa = weights[0], wb = weights[1], wc = weights[2], wd = weights[3];
  for (int i = 0; i < count; ++i) {
    float sum = sums[i] + wa * (static_cast<float>(a[i]) - black);
    sum = sum + wb * (static_cast<float>(b[i]) - black);
    sum = sum + wc * (static_cast<float>(c[i]) - black);
    sums[i] = sum + wd * (static_cast<float>(d[i]) - black);
  }
}
MOLTEN_WIDE void add16(const std::uint16_t* row, float weight, float black, int count, float* sums) {
  for (int i = 0; i < count; ++i) sums[i] += weight * (static_cast<float>(row[i]) - black);
}
MOLTEN_WIDE void addFloats(const float* row, float weight, float black, int count, float* sums) {
  for (int i = 0; i < count; ++i) sums[i] += weight * (row[i] - black);
}

MOLTEN_WIDE void put8(const float* sums, float gain, float black, int count, std::uint8_t* out) {
  for (int i = 0; i < count; ++i) {
    const float value = sums[i] * gain + black + 0.5f;
    out[i] = static_cast<std::uint8_t>(static_cast<std::int32_t>(value < 0 ? 0.0f : value > 255 ? 255.0f : value));
  }
}
MOLTEN_WIDE void put16(const float* sums, float gain, float black, float top, int count, std::uint16_t* out) {
  for (int i = 0; i < count; ++i) {
    const float value = sums[i] * gain + black + 0.5f;
    out[i] = static_cast<std::uint16_t>(static_cast<std::int32_t>(value < 0 ? 0.0f : value > top ? top : value));
  }
}
MOLTEN_WIDE void putFloats(const float* sums, float gain, float black, int count, float* out) {
  for (int i = 0; i < count; ++i) out[i] = sums[i] * gain + black;
}

MOLTEN_WIDE void mix8(const std::uint8_t* a, const std::uint8_t* b, const float* shares, int count, std::uint8_t* out) {
  for (int i = 0; i < count; ++i) {
    const auto own = static_cast<float>(a[i]);
    out[i] = static_cast<std::uint8_t>(static_cast<std::int32_t>(own + shares[i] * (static_cast<float>(b[i]) - own) + 0.5f));
  }
}
MOLTEN_WIDE void mix16(const std::uint16_t* a, const std::uint16_t* b, const float* shares, int count,
                       std::uint16_t* out) {
  for (int i = 0; i < count; ++i) {
    const auto own = static_cast<float>(a[i]);
    out[i] = static_cast<std::uint16_t>(static_cast<std::int32_t>(own + shares[i] * (static_cast<float>(b[i]) - own) + 0.5f));
  }
}
MOLTEN_WIDE void mixFloats(const float* a, const float* b, const float* shares, int count, float* out) {
  for (int i = 0; i < count; ++i) out[i] = a[i] + shares[i] * (b[i] - a[i]);
}

MOLTEN_WIDE void whole8(const std::uint8_t* row, int sign, int count, std::int32_t* sums) {
  for (int i = 0; i < count; ++i) sums[i] += sign * row[i];
}
MOLTEN_WIDE void whole16(const std::uint16_t* row, int sign, int count, std::int32_t* sums) {
  for (int i = 0; i < count; ++i) sums[i] += sign * row[i];
}

MOLTEN_WIDE void addUp(const float* v, const float* a, float w, float* mixed, std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) mixed[i] += w * a[i] * v[i];
}
MOLTEN_WIDE void screen(const float* v, const float* a, float w, float* mixed, std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) mixed[i] = 1 - (1 - mixed[i]) * (1 - w * a[i] * v[i]);
}
MOLTEN_WIDE void lighten(const float* v, const float* a, float w, float* mixed, std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) {
    const float value = w * a[i] * v[i];
    mixed[i] = value > mixed[i] ? value : mixed[i];
  }
}
MOLTEN_WIDE void darken(const float* v, const float* a, float w, float* mixed, std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) {
    const float value = 1 - w * a[i] * (1 - v[i]);
    mixed[i] = value < mixed[i] ? value : mixed[i];
  }
}
MOLTEN_WIDE void over(const float* v, const float* a, float w, float* mixed, std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) {
    const float opacity = w * a[i];
    mixed[i] = opacity * v[i] + (1 - opacity) * mixed[i];
  }
}
MOLTEN_WIDE void under(const float* v, const float* a, float w, const float* coverage, float* mixed,
                       std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) mixed[i] += (1 - coverage[i]) * (w * a[i]) * v[i];
}
// Likewise where all is opaque.
MOLTEN_WIDE void addUp(const float* v, float w, float* mixed, std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) mixed[i] += w * v[i];
}
MOLTEN_WIDE void screen(const float* v, float w, float* mixed, std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) mixed[i] = 1 - (1 - mixed[i]) * (1 - w * v[i]);
}
MOLTEN_WIDE void lighten(const float* v, float w, float* mixed, std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) {
    const float value = w * v[i];
    mixed[i] = value > mixed[i] ? value : mixed[i];
  }
}
MOLTEN_WIDE void darken(const float* v, float w, float* mixed, std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) {
    const float value = 1 - w * (1 - v[i]);
    mixed[i] = value < mixed[i] ? value : mixed[i];
  }
}
MOLTEN_WIDE void over(const float* v, float w, float* mixed, std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) mixed[i] = w * v[i] + (1 - w) * mixed[i];
}

MOLTEN_WIDE void cover(const float* a, float w, float* coverage, std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) coverage[i] += (1 - coverage[i]) * (w * a[i]);
}
MOLTEN_WIDE void coverEvenly(const float* a, float w, float* coverage, std::size_t count) {
  for (std::size_t i = 0; i < count; ++i) coverage[i] += w * a[i];
}

}  // namespace

double sumOfRow(const PictureFormat& format, const std::uint8_t* row, int count) {
  return asSamples(format, row, [&](const auto* samples) {
    using Sample = std::remove_cvref_t<decltype(*samples)>;
    if constexpr (std::is_floating_point_v<Sample>) {
      double sum = 0;
      for (int i = 0; i < count; ++i) sum += static_cast<double>(samples[i]);
      return sum;
    } else {
      std::uint32_t sum = 0;  // 65 535 samples of 16 bits fit; a row has fewer
      std::uint64_t all = 0;
      for (int i = 0; i < count; ++i) {
        sum += samples[i];
        if ((i & 0x7fff) == 0x7fff) all += sum, sum = 0;
      }
      return static_cast<double>(all + sum);
    }
  });
}

void addWeighted(const PictureFormat& format, std::span<const std::uint8_t* const> rows, std::span<const float> weights,
                 float black, int count, float* sums) {
  std::size_t k = 0;
  if (!format.floating && format.bits == 8)
    for (; k + 4 <= rows.size(); k += 4) add8x4(rows.data() + k, weights.data() + k, black, count, sums);
  for (; k < rows.size(); ++k) {
    if (format.floating)
      addFloats(reinterpret_cast<const float*>(rows[k]), weights[k], black, count, sums);
    else if (format.bits > 8)
      add16(reinterpret_cast<const std::uint16_t*>(rows[k]), weights[k], black, count, sums);
    else
      add8(rows[k], weights[k], black, count, sums);
  }
}

void putSums(const PictureFormat& format, const float* sums, float gain, float black, int count, std::uint8_t* out) {
  if (format.floating)
    putFloats(sums, gain, black, count, reinterpret_cast<float*>(out));
  else if (format.bits > 8)
    put16(sums, gain, black, static_cast<float>((1u << format.bits) - 1), count, reinterpret_cast<std::uint16_t*>(out));
  else
    put8(sums, gain, black, count, out);
}

void mixRow(const PictureFormat& format, const std::uint8_t* a, const std::uint8_t* b, const float* shares, int count,
            std::uint8_t* out) {
  if (format.floating)
    mixFloats(reinterpret_cast<const float*>(a), reinterpret_cast<const float*>(b), shares, count,
              reinterpret_cast<float*>(out));
  else if (format.bits > 8)
    mix16(reinterpret_cast<const std::uint16_t*>(a), reinterpret_cast<const std::uint16_t*>(b), shares, count,
          reinterpret_cast<std::uint16_t*>(out));
  else
    mix8(a, b, shares, count, out);
}

void addWhole(const PictureFormat& format, const std::uint8_t* row, int sign, int count, std::int32_t* sums) {
  if (format.bits > 8)
    whole16(reinterpret_cast<const std::uint16_t*>(row), sign, count, sums);
  else
    whole8(row, sign, count, sums);
}

namespace {

void combineOpaque(BlendMode blend, const float* v, float weight, float coverage, float* mixed, std::size_t count) {
  switch (blend) {
    case BlendMode::Sum:
    case BlendMode::Mean:
      return addUp(v, weight, mixed, count);
    case BlendMode::BelowWhite:
      return screen(v, weight, mixed, count);
    case BlendMode::Brightest:
      return lighten(v, weight, mixed, count);
    case BlendMode::Darkest:
      return darken(v, weight, mixed, count);
    case BlendMode::Over:
      return over(v, weight, mixed, count);
    case BlendMode::Under:
      return addUp(v, (1 - coverage) * weight, mixed, count);
  }
}

}  // namespace

void combineRow(BlendMode blend, const float* const values[3], const float* alpha, float weight, float whole,
                float* const mixed[3], float* coverage, std::size_t count) {
  if (!alpha) {
    for (int c = 0; c < 3; ++c) combineOpaque(blend, values[c], weight, *coverage, mixed[c], count);
    *coverage += (1 - *coverage) * weight;
    return;
  }
  for (int c = 0; c < 3; ++c) {
    switch (blend) {
      case BlendMode::Sum:
      case BlendMode::Mean:
        addUp(values[c], alpha, weight, mixed[c], count);
        break;
      case BlendMode::BelowWhite:
        screen(values[c], alpha, weight, mixed[c], count);
        break;
      case BlendMode::Brightest:
        lighten(values[c], alpha, weight, mixed[c], count);
        break;
      case BlendMode::Darkest:
        darken(values[c], alpha, weight, mixed[c], count);
        break;
      case BlendMode::Over:
        over(values[c], alpha, weight, mixed[c], count);
        break;
      case BlendMode::Under:
        under(values[c], alpha, weight, coverage, mixed[c], count);
        break;
    }
  }
  if (blend == BlendMode::Mean)
    coverEvenly(alpha, weight, coverage, count);
  else
    cover(alpha, blend == BlendMode::Over || blend == BlendMode::Under ? weight : whole, coverage, count);
}

}  // namespace molten
