#pragma once
// Mixing samples by weights in 1/65536, with one rounding.

#include <cstddef>
#include <cstdint>
#include <span>

#include "core/picture/picture_format.h"

namespace molten {

/// out[i] = (a[i]·(65536 − w[i]) + b[i]·w[i]) / 65536, integers rounded to the nearest, halves up. `out` may be a or b.
void mixPair(const PictureFormat& format, const std::uint8_t* a, const std::uint8_t* b, const std::uint16_t* weights,
             std::size_t count, std::uint8_t* out);

/// out[i] = Σ sources[k][i]·weights[k][i] over the sum of the weights, or with `black` for what is missing to 65536
/// unless `whatIsThere` says that an alpha tells how much is there. `out` may be one of the sources.
void mixLanes(const PictureFormat& format, std::span<std::uint8_t* const> sources,
              std::span<const std::uint32_t* const> weights, std::size_t count, bool whatIsThere, std::uint32_t black,
              std::uint8_t* out);

}  // namespace molten
