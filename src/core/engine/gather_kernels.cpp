#include "core/engine/gather_kernels.h"

#include <cstring>

#undef HWY_TARGET_INCLUDE
#define HWY_TARGET_INCLUDE "core/engine/gather_kernels.cpp"
#include <hwy/foreach_target.h>
// After the line above, which brings this file in once for each target.
#include <hwy/cache_control.h>
#include <hwy/highway.h>

HWY_BEFORE_NAMESPACE();
namespace molten {
namespace HWY_NAMESPACE {

namespace hn = hwy::HWY_NAMESPACE;
constexpr std::size_t blockSamples = 64;

template <class Sample>
HWY_INLINE void gatherOne(const std::uint8_t* const* parts, std::uint32_t where, std::uint64_t mask,
                          std::uint8_t* out) {
  const hn::CappedTag<Sample, blockSamples> d;
  const std::size_t offset = std::size_t(where & 0xffff) * blockSamples * sizeof(Sample);
  const auto* const from = reinterpret_cast<const Sample*>(parts[where >> 16] + offset);
  auto* const to = reinterpret_cast<Sample*>(out + offset);
  for (std::size_t i = 0; i < blockSamples; i += hn::Lanes(d)) {
    const std::uint64_t bits = mask >> i;
    hn::BlendedStore(hn::Load(d, from + i), hn::LoadMaskBits(d, reinterpret_cast<const std::uint8_t*>(&bits)), d,
                     to + i);
  }
}

template <class Sample>
void gather(const std::uint8_t* const* parts, const BlockOps& ops, std::uint8_t* out,
            const std::uint8_t* const* nextParts, const BlockOps& next) {
  constexpr std::size_t blockBytes = blockSamples * sizeof(Sample);
  const auto fetch = [&](std::size_t i) {
    const std::uint8_t* const at = nextParts[next.where[i] >> 16] + std::size_t(next.where[i] & 0xffff) * blockBytes;
    for (std::size_t b = 0; b < blockBytes; b += 64) hwy::Prefetch(at + b);
  };
  const std::size_t both = ops.count < next.count ? ops.count : next.count;
  for (std::size_t i = 0; i < both; ++i) {
    fetch(i);
    gatherOne<Sample>(parts, ops.where[i], ops.mask[i], out);
  }
  for (std::size_t i = both; i < ops.count; ++i) gatherOne<Sample>(parts, ops.where[i], ops.mask[i], out);
  for (std::size_t i = both; i < next.count; ++i) fetch(i);
}

void gatherAny(int bytesPerSample, const std::uint8_t* const* parts, const BlockOps& ops, std::uint8_t* out,
               const std::uint8_t* const* nextParts, const BlockOps& next) {
  if (bytesPerSample == 1)
    gather<std::uint8_t>(parts, ops, out, nextParts, next);
  else if (bytesPerSample == 2)
    gather<std::uint16_t>(parts, ops, out, nextParts, next);
  else
    gather<std::uint32_t>(parts, ops, out, nextParts, next);
}

void unblockAny(int bytesPerSample, const std::uint8_t* part, int across, int down, std::uint8_t* out,
                std::ptrdiff_t stride) {
#if HWY_TARGET == HWY_SCALAR
  const std::size_t rowBytes = 8 * static_cast<std::size_t>(bytesPerSample);
  for (int by = 0; by < down; ++by, out += 8 * stride)
    for (int bx = 0; bx < across; ++bx)
      for (int y = 0; y < 8; ++y, part += rowBytes)
        std::memcpy(out + y * stride + static_cast<std::size_t>(bx) * rowBytes, part, rowBytes);
#else
  const hn::FixedTag<std::uint64_t, 2> d;
  const auto at = [](const std::uint8_t* p) { return reinterpret_cast<const std::uint64_t*>(p); };
  const auto to = [](std::uint8_t* p) { return reinterpret_cast<std::uint64_t*>(p); };
  if (bytesPerSample == 1) {
    // Rows are made in the nearest cache and leave it by whole lines, a row of blocks later.
    const hn::CappedTag<std::uint8_t, 64> line;
    const std::size_t rowBytes = static_cast<std::size_t>(across) * 8;
    HWY_ALIGN std::uint8_t made[2][8 * 128];
    const auto leave = [&](const std::uint8_t* rows, std::uint8_t* where) {
      for (int y = 0; y < 8; ++y, where += stride, rows += rowBytes)
        for (std::size_t i = 0; i < rowBytes; i += hn::Lanes(line))
          hn::Stream(hn::Load(line, rows + i), line, where + i);
    };
    for (int by = 0; by < down; ++by) {
      std::uint8_t* const rows = made[by % 2];
      for (int bx = 0; bx < across; bx += 2, part += 128)
        for (int y = 0; y < 8; y += 2) {
          const auto left = hn::Load(d, at(part + y * 8)), right = hn::Load(d, at(part + 64 + y * 8));
          std::uint8_t* const row = rows + static_cast<std::size_t>(y) * rowBytes + bx * 8;
          hn::Store(hn::InterleaveLower(left, right), d, to(row));
          hn::Store(hn::InterleaveUpper(d, left, right), d, to(row + rowBytes));
        }
      if (by > 0) leave(made[(by - 1) % 2], out + (by - 1) * 8 * stride);
    }
    leave(made[(down - 1) % 2], out + (down - 1) * 8 * stride);
    hwy::FlushStream();
    return;
  }
  for (int by = 0; by < down; ++by, out += 8 * stride) {
    const int rowBytes = 8 * bytesPerSample;
    for (int bx = 0; bx < across; ++bx)
      for (int y = 0; y < 8; ++y, part += rowBytes)
        for (int i = 0; i < rowBytes; i += 16)
          hn::Stream(hn::Load(d, at(part + i)), d, to(out + y * stride + bx * rowBytes + i));
  }
  hwy::FlushStream();
#endif
}

std::size_t split(const std::uint16_t* numbers, int blocks, std::uint32_t* where, std::uint64_t* mask) {
  const hn::CappedTag<std::uint16_t, blockSamples> d;
  std::size_t count = 0;
  for (int b = 0; b < blocks; ++b, numbers += blockSamples) {
    std::uint64_t rest = ~std::uint64_t(0);
    while (rest) {
      const std::uint16_t number = numbers[__builtin_ctzll(rest)];
      const auto wanted = hn::Set(d, number);
      // By way of bytes in memory: GCC 12 may widen a mask of 32 bits to 64 with what lay beside it.
      std::uint8_t bytes[blockSamples] = {};
      for (std::size_t i = 0; i < blockSamples; i += hn::Lanes(d))
        hn::StoreMaskBits(d, hn::Eq(hn::LoadU(d, numbers + i), wanted), bytes + (hn::Lanes(d) < 8 ? i : i / 8));
      std::uint64_t same = 0;
      if (hn::Lanes(d) < 8)
        for (std::size_t i = 0; i < blockSamples; ++i) same |= std::uint64_t(bytes[i] & 1) << i;
      else
        std::memcpy(&same, bytes, sizeof same);
      where[count] = std::uint32_t(number) << 16 | static_cast<std::uint32_t>(b);
      mask[count++] = same;
      rest &= ~same;
    }
  }
  return count;
}

}  // namespace HWY_NAMESPACE
}  // namespace molten
HWY_AFTER_NAMESPACE();

#if HWY_ONCE
namespace molten {
namespace {
HWY_EXPORT(gatherAny);
HWY_EXPORT(split);
HWY_EXPORT(unblockAny);
}  // namespace

void gatherBlocks(int bytesPerSample, const std::uint8_t* const* parts, const BlockOps& ops, std::uint8_t* out,
                  const std::uint8_t* const* nextParts, const BlockOps& next) {
  HWY_DYNAMIC_DISPATCH(gatherAny)(bytesPerSample, parts, ops, out, nextParts, next);
}

void unblock(int bytesPerSample, const std::uint8_t* part, int across, int down, std::uint8_t* out,
             std::ptrdiff_t stride) {
  HWY_DYNAMIC_DISPATCH(unblockAny)(bytesPerSample, part, across, down, out, stride);
}

std::size_t splitBlocks(const std::uint16_t* numbers, int blocks, std::uint32_t* where, std::uint64_t* mask) {
  return HWY_DYNAMIC_DISPATCH(split)(numbers, blocks, where, mask);
}

}  // namespace molten
#endif
