#pragma once
// A hash.

#include <cstdint>

namespace molten {

/// A hash with no pattern to be seen in it (Wellons, Prospecting for Hash Functions, 2018: lowbias32).
constexpr std::uint32_t scrambled(std::uint32_t x) {
  x ^= x >> 16;
  x *= 0x7feb352dU;
  x ^= x >> 15;
  x *= 0x846ca68bU;
  x ^= x >> 16;
  return x;
}

}  // namespace molten
