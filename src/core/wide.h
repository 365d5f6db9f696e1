#pragma once
// Loops in two builds, the wider chosen when the program starts.

/// Before a function of plain loops over arrays: built once for every x86-64 and once for AVX2. Results are the same to
/// the bit, since no sums are fused or reordered. Sanitizers get the plain one.
#if defined(__x86_64__) && !defined(__SANITIZE_ADDRESS__) && !defined(__SANITIZE_THREAD__)
#define MOLTEN_WIDE __attribute__((target_clones("avx2", "default")))
#else
#define MOLTEN_WIDE
#endif

namespace molten {

/// A value within 0…1. In floats before it is held there: masks of doubles would have to be narrowed for it.
inline float heldWithin(double value) {
  const auto f = static_cast<float>(value);
  const float low = f > 0 ? f : 0;
  return low < 1 ? low : 1;
}

}  // namespace molten
