// Gathering against its plain twin: every sample from the frame that was named for it.
#include <map>
#include <random>

#include "core/engine/frame_table.h"
#include "core/engine/gather_kernels.h"
#include "core/engine/gather_program.h"
#include "core/engine/mix_kernels.h"
#include "support/clips.h"

namespace molten {
namespace {

struct alignas(64) Block {
  std::uint8_t bytes[256];
};

TEST(GatherKernels, BlocksLikeTheirPlainTwin) {
  std::mt19937 random(2);
  for (const int bytesPerSample : {1, 2, 4}) {
    constexpr int blocks = 16, frames = 5;
    const auto blockBytes = static_cast<std::size_t>(64 * bytesPerSample);
    std::vector<Block> memory(frames * blocks), got(blocks), expected(blocks);
    std::vector<const std::uint8_t*> parts;
    const auto partOf = [&](std::vector<Block>& all, int frame) {
      return all[static_cast<std::size_t>(frame * blocks)].bytes;
    };
    for (auto& block : memory)
      for (auto& byte : block.bytes) byte = static_cast<std::uint8_t>(random());
    for (int f = 0; f < frames; ++f) parts.push_back(partOf(memory, f));
    std::vector<std::uint32_t> where;
    std::vector<std::uint64_t> mask;
    for (int i = 0; i < 200; ++i) {
      const auto frame = random() % frames, block = random() % blocks;
      where.push_back(static_cast<std::uint32_t>(frame << 16 | block));
      mask.push_back(std::uint64_t(random()) << 32 | random());
      for (std::size_t s = 0; s < 64; ++s)
        if (mask.back() >> s & 1)
          std::copy_n(parts[frame] + block * blockBytes + s * static_cast<std::size_t>(bytesPerSample), bytesPerSample,
                      partOf(expected, 0) + block * blockBytes + s * static_cast<std::size_t>(bytesPerSample));
    }
    const BlockOps ops{where.data(), mask.data(), where.size()};
    gatherBlocks(bytesPerSample, parts.data(), ops, partOf(got, 0), parts.data(), {where.data(), mask.data(), 7});
    EXPECT_TRUE(std::equal(partOf(got, 0), partOf(got, 0) + blocks * blockBytes, partOf(expected, 0)));
  }
}

TEST(GatherKernels, EveryNumberOfABlockIsFoundWhereItIs) {
  std::mt19937 random(4);
  for (const unsigned kinds : {1u, 2u, 7u, 64u, 65536u}) {
    std::vector<std::uint16_t> numbers(64 * 9);
    for (auto& n : numbers) n = static_cast<std::uint16_t>(random() % kinds);
    std::vector<std::uint32_t> where(numbers.size());
    std::vector<std::uint64_t> mask(numbers.size());
    const std::size_t count = splitBlocks(numbers.data(), 9, where.data(), mask.data());
    std::vector<int> told(numbers.size(), -1);
    for (std::size_t i = 0; i < count; ++i)
      for (std::size_t s = 0; s < 64; ++s)
        if (mask[i] >> s & 1) {
          ASSERT_EQ(told[(where[i] & 0xffff) * 64 + s], -1);
          told[(where[i] & 0xffff) * 64 + s] = static_cast<int>(where[i] >> 16);
        }
    for (std::size_t i = 0; i < numbers.size(); ++i) ASSERT_EQ(told[i], numbers[i]);
  }
}

TEST(GatherKernels, RowsLikeTheirPlainTwin) {
  std::mt19937 random(6);
  for (const int bytesPerSample : {1, 2, 4}) {
    constexpr int across = 8, down = 3, stride = 320;
    std::vector<Block> blocks(across * down), rows(down * 8 * stride / sizeof(Block));
    auto* const part = blocks[0].bytes;
    const auto rowBytes = static_cast<std::size_t>(8 * bytesPerSample);
    for (std::size_t i = 0; i < across * down * 8 * rowBytes; ++i) part[i] = static_cast<std::uint8_t>(random());
    unblock(bytesPerSample, part, across, down, rows[0].bytes, stride);
    for (std::size_t y = 0; y < down * 8; ++y)
      for (std::size_t x = 0; x < across * rowBytes; ++x)
        ASSERT_EQ(rows[0].bytes[y * stride + x],
                  part[((y / 8 * across + x / rowBytes) * 8 + y % 8) * rowBytes + x % rowBytes]);
  }
}

TEST(MixKernels, OneRoundingHalvesUp) {
  std::mt19937 random(7);
  PictureFormat deep;
  deep.bits = 16;
  std::vector<std::uint16_t> a(999), b(999), weights(999), out(999);
  for (std::size_t i = 0; i < a.size(); ++i) {
    a[i] = static_cast<std::uint16_t>(i % 3 ? random() : 65535), b[i] = static_cast<std::uint16_t>(random());
    weights[i] = static_cast<std::uint16_t>(i % 5 ? random() : 0);
  }
  const auto bytes = [](std::vector<std::uint16_t>& list) { return reinterpret_cast<std::uint8_t*>(list.data()); };
  mixPair(deep, bytes(a), bytes(b), weights.data(), a.size(), bytes(out));
  for (std::size_t i = 0; i < a.size(); ++i)
    ASSERT_EQ(out[i], (std::uint64_t(a[i]) * (65536 - weights[i]) + std::uint64_t(b[i]) * weights[i] + 32768) / 65536);
}

/// Any picks at all: near and far frames, none, weights; in both layouts; whole and in lots.
TEST(GatherProgram, EverySampleIsTheNamedFrames) {
  std::mt19937 random(11);
  PictureShape shape;
  shape.size = {150, 77};
  for (const bool deep : {false, true})
    for (const Layout kind : {Layout::Rows, Layout::Blocks})
      for (const Picking picking : {Picking::Copy, Picking::Pairs, Picking::Lanes})
        for (const std::int32_t spread : {1, 30, 40000}) {
          shape.format = {ColourModel::Yuv, deep ? 10 : 8, 1, 1, false, false};
          const int lanes = picking == Picking::Lanes ? 3 : 1;
          constexpr int known = 9;
          // Numbers stand for a few frames, spread out as the spread says.
          const auto numberOf = [&](unsigned i) { return static_cast<std::int32_t>(i % known) * spread - 3; };
          std::map<std::int32_t, Picture> pictures;
          const auto store = std::make_shared<TileStore>(FrameLayout(shape, kind));
          FrameTable table;
          for (unsigned i = 0; i <= known; ++i)
            for (const std::int32_t n : {numberOf(i), numberOf(i) + 1}) {
              if (pictures.contains(n) || n % 7 == 0) continue;  // those are nowhere: black
              pictures[n] = test::randomPicture(shape, random);
              auto frame = std::make_shared<StoredFrame>(store);
              frame->keep(pictures[n], {});
              table.put(n, frame);
            }
          std::map<std::pair<int, int>, RowPicks> picked;
          for (int p = 0; p < 2; ++p)
            for (int y = 0; y < shape.format.planeHeight(p, shape.size.height); ++y) {
              RowPicks& picks = picked[{p, y}];
              picks.lanes.resize(static_cast<std::size_t>(lanes));
              for (int x = 0; x < shape.format.planeWidth(p, shape.size.width); ++x) {
                std::uint32_t rest = wholeWeight;
                for (auto& lane : picks.lanes) {
                  lane.frame.push_back(numberOf(random() % 20 ? static_cast<unsigned>(x / 13 + y / 9) : random()));
                  lane.weight.push_back(rest ? random() % rest : 0);
                  if (!pictures.contains(lane.frame.back()) && picking == Picking::Lanes) lane.weight.back() = 0;
                  rest -= lane.weight.back();
                }
              }
            }
          const GatherProgram program(FrameLayout(shape, kind), shape, picking, lanes,
                                      [&](int plane, int row, RowPicks& picks) {
                                        picks = picked[{plane, row}];
                                      });
          FrameLookup lookup;
          lookup.least = program.frames().front();
          lookup.frames.resize(static_cast<std::size_t>(program.frames().back() - lookup.least + 1));
          for (const auto n : program.frames())
            if (table.has(n)) lookup.frames[static_cast<std::size_t>(n - lookup.least)] = table.find(n)->tiles();
          Picture whole(shape), inLots(shape);
          LotSamples samples;
          program.beginLots(samples);
          for (int p = 0; p < 3; ++p) {
            program.assemble(lookup, whole, p, 0, store->layout().tilesDown());
            for (std::size_t lot = 0; lot < 3; ++lot) {
              FrameLookup some = lookup;
              for (std::size_t i = 0; i < some.frames.size(); ++i)
                if (i % 3 != lot) some.frames[i] = FrameLookup::later;
              program.assembleLot(some, samples, p, 0, store->layout().tilesDown());
            }
            program.finishLots(samples, inLots, p, 0, store->layout().tilesDown());
          }
          EXPECT_TRUE(test::samePicture(inLots, whole));
          for (int p = 0; p < 3; ++p)
            for (int y = 0; y < whole.planeHeight(p); ++y)
              for (int x = 0; x < whole.planeWidth(p); ++x) {
                const auto at = [&](std::int32_t n) -> std::uint64_t {
                  return pictures.contains(n) ? test::sampleAt(pictures[n], p, x, y) : blackSample(shape, p);
                };
                const auto& row = picked[{p > 0, y}].lanes;
                const auto i = static_cast<std::size_t>(x);
                std::uint64_t expected = at(row[0].frame[i]);
                if (picking == Picking::Pairs)
                  expected =
                      (expected * (65536 - row[0].weight[i]) + at(row[0].frame[i] + 1) * row[0].weight[i] + 32768) /
                      65536;
                if (picking == Picking::Lanes) {
                  std::uint64_t sum = 0, rest = 65536;
                  for (const auto& lane : row) sum += at(lane.frame[i]) * lane.weight[i], rest -= lane.weight[i];
                  expected = (sum + blackSample(shape, p) * rest + 32768) / 65536;
                }
                ASSERT_EQ(test::sampleAt(whole, p, x, y), expected) << "plane " << p << " at " << x << ", " << y;
              }
        }
}

}  // namespace
}  // namespace molten
