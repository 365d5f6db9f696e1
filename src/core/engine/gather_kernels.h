#pragma once
// The innermost loops of gathering, in the widest instructions that the processor has (chosen when the program starts).
// Results are the same to the bit with all of them; each has a plain twin in the tests.

#include <cstddef>
#include <cstdint>

namespace molten {

/// Samples of one block that read one frame: bit i of `mask` stands for sample i of the block, row after row.
/// `where`: which of the tile's frames in the upper 16 bits, which block of the tile in the lower.
struct BlockOps {
  const std::uint32_t* where = nullptr;
  const std::uint64_t* mask = nullptr;
  std::size_t count = 0;
};

/// Copies the samples that `ops` name from `parts` (where a plane's part of the tile begins in each frame) to `out`
/// (laid out alike). The blocks of `next`, the tile that comes after, are fetched into the cache meanwhile from
/// `nextParts`.
void gatherBlocks(int bytesPerSample, const std::uint8_t* const* parts, const BlockOps& ops, std::uint8_t* out,
                  const std::uint8_t* const* nextParts, const BlockOps& next);

/// For blocks of 64 numbers each: which numbers occur in a block, and where. Writes up to 64 ops a block, `where` with
/// the number itself in the upper bits; returns how many.
std::size_t splitBlocks(const std::uint16_t* numbers, int blocks, std::uint32_t* where, std::uint64_t* mask);

/// Rows of samples from blocks of 8 × 8 samples: `down` rows of `across` blocks, one after another from `part` on, to
/// rows that lie `stride` bytes apart, past the caches: what is assembled is not read again soon, and would push out
/// frames that are. Requires an even `across`, `part`, `out` and `stride` aligned to 16 bytes.
void unblock(int bytesPerSample, const std::uint8_t* part, int across, int down, std::uint8_t* out,
             std::ptrdiff_t stride);

}  // namespace molten
