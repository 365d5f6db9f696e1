#include "core/engine/mix_kernels.h"

#include "core/time/frame_clock.h"
#include "core/wide.h"

namespace molten {
namespace {

template <class Sample>
inline __attribute__((always_inline)) void mixIntegers(const Sample* a, const Sample* b, const std::uint16_t* weights,
                                                       std::size_t count, Sample* out) {
  for (std::size_t i = 0; i < count; ++i) {
    const std::uint32_t w = weights[i];
    out[i] = static_cast<Sample>((a[i] * (wholeWeight - w) + b[i] * w + wholeWeight / 2) / wholeWeight);
  }
}

MOLTEN_WIDE void mix8(const std::uint8_t* a, const std::uint8_t* b, const std::uint16_t* w, std::size_t n,
                      std::uint8_t* out) {
  mixIntegers(a, b, w, n, out);
}

MOLTEN_WIDE void mix16(const std::uint16_t* a, const std::uint16_t* b, const std::uint16_t* w, std::size_t n,
                       std::uint16_t* out) {
  mixIntegers(a, b, w, n, out);
}

template <class Sample>
void mixMany(std::span<std::uint8_t* const> sources, std::span<const std::uint32_t* const> weights, std::size_t count,
             bool whatIsThere, std::uint32_t black, Sample* out) {
  for (std::size_t i = 0; i < count; ++i) {
    double sum = 0;
    std::uint32_t present = 0;
    for (std::size_t k = 0; k < sources.size(); ++k) {
      sum += static_cast<double>(reinterpret_cast<const Sample*>(sources[k])[i]) * weights[k][i];
      present += weights[k][i];
    }
    if (present < wholeWeight && !whatIsThere) {
      sum += static_cast<double>(black) * (wholeWeight - present);
      present = wholeWeight;
    }
    if (present == 0)
      out[i] = static_cast<Sample>(black);
    else if constexpr (std::is_floating_point_v<Sample>)
      out[i] = static_cast<Sample>(sum / present);
    else
      out[i] = static_cast<Sample>((static_cast<std::uint64_t>(sum) + present / 2) / present);
  }
}

}  // namespace

void mixPair(const PictureFormat& format, const std::uint8_t* a, const std::uint8_t* b, const std::uint16_t* weights,
             std::size_t count, std::uint8_t* out) {
  if (format.floating) {
    const auto *fa = reinterpret_cast<const float*>(a), *fb = reinterpret_cast<const float*>(b);
    auto* const to = reinterpret_cast<float*>(out);
    for (std::size_t i = 0; i < count; ++i)
      to[i] = static_cast<float>(
          (static_cast<double>(fa[i]) * (wholeWeight - weights[i]) + static_cast<double>(fb[i]) * weights[i]) /
          wholeWeight);
  } else if (format.bits > 8) {
    mix16(reinterpret_cast<const std::uint16_t*>(a), reinterpret_cast<const std::uint16_t*>(b), weights, count,
          reinterpret_cast<std::uint16_t*>(out));
  } else {
    mix8(a, b, weights, count, out);
  }
}

void mixLanes(const PictureFormat& format, std::span<std::uint8_t* const> sources,
              std::span<const std::uint32_t* const> weights, std::size_t count, bool whatIsThere, std::uint32_t black,
              std::uint8_t* out) {
  if (format.floating)
    mixMany(sources, weights, count, whatIsThere, black, reinterpret_cast<float*>(out));
  else if (format.bits > 8)
    mixMany(sources, weights, count, whatIsThere, black, reinterpret_cast<std::uint16_t*>(out));
  else
    mixMany(sources, weights, count, whatIsThere, black, out);
}

}  // namespace molten
