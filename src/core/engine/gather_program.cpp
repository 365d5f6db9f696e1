#include "core/engine/gather_program.h"

#include <algorithm>
#include <array>
#include <cstring>
#include <iterator>

#include "core/engine/gather_kernels.h"
#include "core/engine/mix_kernels.h"
#include "core/parallel.h"

namespace molten {
namespace {

/// Memory for a thread's tiles, kept from one to the next.
std::span<std::uint8_t> scratch(std::size_t slot, std::size_t bytes) {
  struct Aligned {
    std::vector<std::uint8_t> memory;
    std::uint8_t* at(std::size_t size) {
      if (memory.size() < size + 64) memory.resize(size + 64);
      const auto address = reinterpret_cast<std::uintptr_t>(memory.data());
      return memory.data() + ((address + 63) / 64 * 64 - address);
    }
  };
  thread_local std::vector<Aligned> slots;
  if (slots.size() <= slot) slots.resize(slot + 1);
  return {slots[slot].at(bytes), bytes};
}

const std::uint8_t* alignedIn(const std::vector<std::uint8_t>& memory) {
  const auto address = reinterpret_cast<std::uintptr_t>(memory.data());
  return memory.data() + ((address + 63) / 64 * 64 - address);
}

std::vector<std::uint8_t> filled(const PictureFormat& format, std::size_t bytes, std::uint32_t value) {
  std::vector<std::uint8_t> memory(bytes + 64);
  auto* const begin = const_cast<std::uint8_t*>(alignedIn(memory));
  fillSamples(begin, static_cast<int>(bytes) / format.bytesPerSample(), format, value);
  return memory;
}

}  // namespace

GatherProgram::GatherProgram(const FrameLayout& source, const PictureShape& made, Picking picking, int lanes,
                             const PickRow& pickRow)
    : source_(source), made_(made, source.kind()), picking_(picking), lanes_(lanes) {
  const PictureFormat& format = made.format;
  for (int p = 0; p < format.planes(); ++p) black_.push_back(filled(format, made_.partBytes(p), blackSample(made, p)));
  if (format.alpha) solid_ = filled(format, made_.partBytes(0), format.floating ? 1 : opaqueSample(format));
  const bool smallChroma = format.model == ColourModel::Yuv && (format.shiftX > 0 || format.shiftY > 0);
  planes_.resize(smallChroma ? 2 : 1);
  for (std::size_t p = 0; p < planes_.size(); ++p) {
    planes_[p].lanes.assign(static_cast<std::size_t>(lanes),
                            std::vector<TileRow>(static_cast<std::size_t>(source.tilesDown())));
    parallelRows(source.tilesDown(), 1, [&](int from, int to) {
      for (int row = from; row < to; ++row) compileTileRow(static_cast<int>(p), row, pickRow);
    });
  }
  for (const PlaneProgram& plane : planes_)
    for (const auto& lane : plane.lanes)
      for (const TileRow& row : lane)
        for (const std::int32_t frame : row.frames) {
          frames_.push_back(frame);
          if (picking == Picking::Pairs) frames_.push_back(frame + 1);
        }
  std::sort(frames_.begin(), frames_.end());
  frames_.erase(std::unique(frames_.begin(), frames_.end()), frames_.end());
}

const GatherProgram::PlaneProgram& GatherProgram::program(int plane) const {
  return planes_[planes_.size() == 2 && made_.shape().format.isChromaPlane(plane) ? 1 : 0];
}

void GatherProgram::compileTileRow(int plane, int tileRow, const PickRow& pickRow) {
  const TilePlane& part = source_.plane(plane);
  const PictureShape& shape = source_.shape();
  const int width = shape.format.planeWidth(plane, shape.size.width);
  const int height = shape.format.planeHeight(plane, shape.size.height);
  const int padded = source_.kind() == Layout::Rows ? width : part.width * source_.tilesAcross();
  const int rows = std::min(part.height, height - tileRow * part.height);
  const auto samples = static_cast<std::size_t>(padded) * static_cast<std::size_t>(part.height);
  thread_local std::vector<std::int32_t> frames;
  thread_local std::vector<std::uint32_t> weights;
  thread_local std::vector<RowPicks> buffer;
  // What is picked may be made of pictures, whose own programs are compiled on this thread meanwhile.
  std::vector<RowPicks> picks = std::move(buffer);
  picks.resize(static_cast<std::size_t>(std::max(1, rows)));
  for (int y = 0; y < std::max(1, rows); ++y)
    pickRow(plane, std::min(tileRow * part.height + y, height - 1), picks[static_cast<std::size_t>(y)]);
  for (int lane = 0; lane < lanes_; ++lane) {
    frames.resize(samples);
    weights.resize(samples);
    for (int y = 0; y < part.height; ++y) {
      // What hangs over the edge reads what the edge does: it costs no further frame.
      const auto& picked =
          picks[static_cast<std::size_t>(std::min(y, std::max(1, rows) - 1))].lanes[static_cast<std::size_t>(lane)];
      std::int32_t* const f = frames.data() + static_cast<std::ptrdiff_t>(y) * padded;
      std::copy_n(picked.frame.begin(), width, f);
      std::fill(f + width, f + padded, f[width - 1]);
      if (picking_ == Picking::Copy) continue;
      std::uint32_t* const w = weights.data() + static_cast<std::ptrdiff_t>(y) * padded;
      std::copy_n(picked.weight.begin(), width, w);
      std::fill(w + width, w + padded, 0);
    }
    TileRow& row = planes_[static_cast<std::size_t>(plane)]
                       .lanes[static_cast<std::size_t>(lane)][static_cast<std::size_t>(tileRow)];
    if (source_.kind() == Layout::Rows)
      compileRuns(row, frames, part.height);
    else
      compileBlocks(row, plane, frames, padded);
    if (picking_ == Picking::Copy) continue;
    // Weights lie as the tiles' memory does.
    const auto put = [&](auto& list) {
      const auto perTile = static_cast<std::size_t>(source_.partSamples(plane));
      list.resize(perTile * static_cast<std::size_t>(source_.tilesAcross()));
      using Weight = std::remove_reference_t<decltype(list[0])>;
      for (int y = 0; y < part.height; ++y)
        for (int x = 0; x < padded; ++x) {
          const auto tile = static_cast<std::size_t>(x / part.width);
          // In Rows there is one tile across.
          const std::size_t at = tile * perTile + source_.sampleInPart(plane, x % part.width, y);
          list[at] = static_cast<Weight>(
              weights[static_cast<std::size_t>(y) * static_cast<std::size_t>(padded) + static_cast<std::size_t>(x)]);
        }
    };
    picking_ == Picking::Pairs ? put(row.pairWeights) : put(row.weights);
  }
  buffer = std::move(picks);
}

void GatherProgram::compileRuns(TileRow& row, std::span<const std::int32_t> frames, int rows) {
  const auto width = static_cast<std::int32_t>(frames.size() / static_cast<std::size_t>(rows));
  // One of each run: neighbours mostly read the same.
  std::unique_copy(frames.begin(), frames.end(), std::back_inserter(row.frames));
  std::sort(row.frames.begin(), row.frames.end());
  row.frames.erase(std::unique(row.frames.begin(), row.frames.end()), row.frames.end());
  row.firstFrame = {0, static_cast<std::uint32_t>(row.frames.size())};
  for (int y = 0; y < rows; ++y) {
    row.firstRun.push_back(static_cast<std::uint32_t>(row.runs.size()));
    const std::int32_t* const at = frames.data() + static_cast<std::ptrdiff_t>(y) * width;
    for (std::int32_t x = 0; x < width;) {
      const std::int32_t begin = x;
      while (++x < width && at[x] == at[begin]) {
      }
      const auto local = std::lower_bound(row.frames.begin(), row.frames.end(), at[begin]) - row.frames.begin();
      row.runs.push_back({begin, x - begin, static_cast<std::uint32_t>(local)});
    }
  }
  row.firstRun.push_back(static_cast<std::uint32_t>(row.runs.size()));
}

void GatherProgram::compileBlocks(TileRow& row, int plane, std::span<const std::int32_t> frames,
                                  int paddedWidth) const {
  const TilePlane& part = source_.plane(plane);
  const int side = FrameLayout::blockSide, across = part.width / side, down = part.height / side;
  const int blocks = across * down;
  thread_local std::vector<std::uint16_t> numbers;
  thread_local std::vector<std::int32_t> values;
  thread_local std::vector<std::uint32_t> where, place;
  thread_local std::vector<std::uint64_t> mask;
  const auto samples = static_cast<std::size_t>(blocks * FrameLayout::blockSamples);
  numbers.resize(samples);
  values.resize(samples);
  where.resize(samples);
  mask.resize(samples);
  for (int tile = 0; tile < source_.tilesAcross(); ++tile) {
    row.firstOp.push_back(static_cast<std::uint32_t>(row.where.size()));
    row.firstFrame.push_back(static_cast<std::uint32_t>(row.frames.size()));
    std::int32_t* at = values.data();
    for (int by = 0; by < down; ++by)
      for (int bx = 0; bx < across; ++bx)
        for (int y = 0; y < side; ++y, at += side)
          std::copy_n(
              frames.data() + static_cast<std::ptrdiff_t>(by * side + y) * paddedWidth + tile * part.width + bx * side,
              side, at);
    const auto [leastAt, mostAt] = std::minmax_element(values.begin(), values.end());
    const std::int64_t least = *leastAt, range = std::int64_t(*mostAt) - least + 1;
    std::vector<std::int32_t> all;  // for a tile whose frames lie too far apart to be numbered by their distance
    if (range > 65536) {
      all.assign(values.begin(), values.end());
      std::sort(all.begin(), all.end());
      all.erase(std::unique(all.begin(), all.end()), all.end());
      for (std::size_t i = 0; i < samples; ++i)
        numbers[i] = static_cast<std::uint16_t>(std::lower_bound(all.begin(), all.end(), values[i]) - all.begin());
    } else {
      for (std::size_t i = 0; i < samples; ++i) numbers[i] = static_cast<std::uint16_t>(values[i] - least);
    }
    const std::size_t count = splitBlocks(numbers.data(), blocks, where.data(), mask.data());
    // In the order of the frames, so that each frame's blocks are read one after another as they lie.
    const std::size_t most = all.empty() ? static_cast<std::size_t>(range) : all.size();
    place.assign(most + 1, 0);
    for (std::size_t i = 0; i < count; ++i) ++place[(where[i] >> 16) + 1];
    std::uint32_t local = 0, before = 0;
    thread_local std::vector<std::uint32_t> localOf;
    localOf.assign(most, 0);
    for (std::size_t n = 0; n < most; ++n) {
      const std::uint32_t here = place[n + 1];
      place[n] = before;
      before += here;
      if (here == 0) continue;
      localOf[n] = local++;
      row.frames.push_back(all.empty() ? static_cast<std::int32_t>(least + static_cast<std::int64_t>(n)) : all[n]);
    }
    const std::size_t begin = row.where.size();
    row.where.resize(begin + count);
    row.mask.resize(begin + count);
    for (std::size_t i = 0; i < count; ++i) {
      const std::uint32_t n = where[i] >> 16;
      const std::size_t to = begin + place[n]++;
      row.where[to] = localOf[n] << 16 | (where[i] & 0xffff);
      row.mask[to] = mask[i];
    }
  }
  row.firstOp.push_back(static_cast<std::uint32_t>(row.where.size()));
  row.firstFrame.push_back(static_cast<std::uint32_t>(row.frames.size()));
}

BlockOps GatherProgram::opsOf(const TileRow& row, int tile) const {
  const std::size_t from = row.firstOp[static_cast<std::size_t>(tile)],
                    to = row.firstOp[static_cast<std::size_t>(tile) + 1];
  return {row.where.data() + from, row.mask.data() + from, to - from};
}

void GatherProgram::findParts(const TileRow& row, int tileRow, int tile, int plane, const FrameLookup& lookup,
                              int shift, std::vector<const std::uint8_t*>& parts) const {
  const std::size_t from = row.firstFrame[static_cast<std::size_t>(tile)],
                    to = row.firstFrame[static_cast<std::size_t>(tile) + 1];
  const std::size_t offset = source_.plane(sourcePlane(plane)).offset;
  const int whole = tileRow * source_.tilesAcross() + tile;
  parts.resize(to - from);
  for (std::size_t i = from; i < to; ++i) {
    const FrameLookup::Tiles tiles = lookup.at(row.frames[i] + shift);
    const std::uint8_t*& at = parts[i - from];
    if (tiles == FrameLookup::later)
      at = nullptr;
    else if (!tiles)
      at = alignedIn(black_[static_cast<std::size_t>(plane)]);
    else
      at = madeAlpha(plane) ? alignedIn(solid_) : tiles[whole] + offset;
  }
}

void GatherProgram::gatherRuns(const TileRow& row, int plane, std::span<const std::uint8_t* const> parts,
                               std::uint8_t* out, std::ptrdiff_t stride, int rows) const {
  const TilePlane& part = source_.plane(sourcePlane(plane));
  const auto sampleBytes = static_cast<std::size_t>(source_.shape().format.bytesPerSample());
  for (int y = 0; y < rows; ++y, out += stride) {
    const std::size_t line = static_cast<std::size_t>(y) * part.rowBytes;
    for (auto r = row.firstRun[static_cast<std::size_t>(y)]; r < row.firstRun[static_cast<std::size_t>(y) + 1]; ++r) {
      const Run run = row.runs[r];
      const std::size_t at = static_cast<std::size_t>(run.x) * sampleBytes;
      // The row after the next one is fetched meanwhile: the processor does not guess that another frame follows.
      const auto later = row.firstRun[static_cast<std::size_t>(std::min(y + 2, part.height - 1))];
      if (const std::uint8_t* const soon = parts[row.runs[later].local])
        for (std::size_t b = 0; b < static_cast<std::size_t>(run.length) * sampleBytes; b += 64)
          __builtin_prefetch(soon + line + 2 * part.rowBytes + at + b);
      if (parts[run.local])
        std::memcpy(out + at, parts[run.local] + line + at, static_cast<std::size_t>(run.length) * sampleBytes);
    }
  }
}

void GatherProgram::mixTile(int plane, int tileRow, int tile, std::span<std::uint8_t* const> sources) const {
  const PlaneProgram& lanes = program(plane);
  const auto samples = static_cast<std::size_t>(source_.partSamples(sourcePlane(plane)));
  const std::size_t first = static_cast<std::size_t>(tile) * samples;
  const PictureFormat& format = made_.shape().format;
  if (picking_ == Picking::Pairs) {
    const TileRow& row = lanes.lanes[0][static_cast<std::size_t>(tileRow)];
    mixPair(format, sources[0], sources[1], row.pairWeights.data() + first, samples, sources[0]);
    return;
  }
  std::vector<const std::uint32_t*> weights;
  for (const auto& lane : lanes.lanes)
    weights.push_back(lane[static_cast<std::size_t>(tileRow)].weights.data() + first);
  const bool whatIsThere = format.alpha && !format.isAlphaPlane(plane);
  mixLanes(format, sources, weights, samples, whatIsThere, blackSample(made_.shape(), plane), sources[0]);
}

void GatherProgram::assemble(const FrameLookup& lookup, Picture& out, int plane, int from, int to) const {
  assembleSome(0, sources(), lookup, out, plane, from, to);
}

void GatherProgram::assembleSource(int source, const FrameLookup& lookup, Picture& out, int plane, int from,
                                   int to) const {
  assembleSome(source, 1, lookup, out, plane, from, to);
}

void GatherProgram::assembleSome(int first, int sourceCount, const FrameLookup& lookup, Picture& out, int plane,
                                 int from, int to) const {
  const PlaneProgram& lanes = program(plane);
  const std::size_t bytes = source_.partBytes(sourcePlane(plane));
  const bool blocks = source_.kind() == Layout::Blocks;
  const auto count = static_cast<std::size_t>(sourceCount);
  // For each source the parts of this tile and of the next one.
  thread_local std::vector<std::array<std::vector<const std::uint8_t*>, 2>> parts;
  parts.resize(count);
  std::vector<std::uint8_t*> gathered;
  for (std::size_t s = 0; s < count; ++s) gathered.push_back(scratch(s, bytes).data());
  const int across = source_.tilesAcross(), height = made_.plane(plane).height;
  const auto rowBytes = static_cast<std::ptrdiff_t>(made_.plane(plane).rowBytes);
  // Runs of whole frames go where they belong at once.
  const bool straight = !blocks && count == 1, mixes = count > 1;
  for (int tileRow = from; tileRow < to; ++tileRow)
    for (int tile = 0; tile < across; ++tile) {
      for (std::size_t s = 0; s < count; ++s) {
        const bool pair = picking_ == Picking::Pairs;
        const std::size_t source = s + static_cast<std::size_t>(first);
        const TileRow& row = lanes.lanes[pair ? 0 : source][static_cast<std::size_t>(tileRow)];
        const int shift = pair ? static_cast<int>(source) : 0;
        auto &now = parts[s][static_cast<std::size_t>(tile % 2)],
             &next = parts[s][static_cast<std::size_t>(1 - tile % 2)];
        if (tile == 0) findParts(row, tileRow, tile, plane, lookup, shift, now);
        if (!blocks) {
          if (straight)
            gatherRuns(row, plane, now, out.writableRow(plane, tileRow * height), out.plane(plane).stride,
                       std::min(height, out.planeHeight(plane) - tileRow * height));
          else
            gatherRuns(row, plane, now, gathered[s], rowBytes, height);
          continue;
        }
        BlockOps after;
        if (tile + 1 < across) {
          findParts(row, tileRow, tile + 1, plane, lookup, shift, next);
          after = opsOf(row, tile + 1);
        }
        gatherBlocks(source_.shape().format.bytesPerSample(), now.data(), opsOf(row, tile), gathered[s], next.data(),
                     after);
      }
      if (mixes) mixTile(plane, tileRow, tile, gathered);
      if (!straight) putTile(gathered[0], tileRow, tile, plane, out);
    }
}

void GatherProgram::putTile(const std::uint8_t* part, int tileRow, int tile, int plane, Picture& out) const {
  const TilePlane& shape = made_.plane(plane);
  const int left = tile * shape.width, top = tileRow * shape.height;
  const bool whole = left + shape.width <= out.planeWidth(plane) && top + shape.height <= out.planeHeight(plane);
  if (made_.kind() == Layout::Rows || !whole)
    return made_.fromPart(part, tileRow * made_.tilesAcross() + tile, plane, out);
  const int sampleBytes = out.format().bytesPerSample(), side = FrameLayout::blockSide;
  unblock(sampleBytes, part, shape.width / side, shape.height / side, out.writableRow(plane, top) + left * sampleBytes,
          out.plane(plane).stride);
}

void GatherProgram::beginLots(LotSamples& samples) const {
  samples.clear();
  for (int p = 0; p < made_.shape().format.planes(); ++p)
    samples.emplace_back(made_.partBytes(p) * static_cast<std::size_t>(made_.tiles() * sources()));
}

void GatherProgram::gatherLot(const TileRow& row, int tile, int plane, std::span<const std::uint8_t* const> parts,
                              std::uint8_t* out) const {
  const TilePlane& part = source_.plane(sourcePlane(plane));
  if (source_.kind() == Layout::Rows)
    return gatherRuns(row, plane, parts, out, static_cast<std::ptrdiff_t>(part.rowBytes), part.height);
  const BlockOps ops = opsOf(row, tile);
  std::vector<std::uint32_t> where;
  std::vector<std::uint64_t> mask;
  for (std::size_t i = 0; i < ops.count; ++i) {
    if (!parts[ops.where[i] >> 16]) continue;
    where.push_back(ops.where[i]);
    mask.push_back(ops.mask[i]);
  }
  gatherBlocks(source_.shape().format.bytesPerSample(), parts.data(), {where.data(), mask.data(), where.size()}, out,
               nullptr, {});
}

void GatherProgram::assembleLot(const FrameLookup& lookup, LotSamples& samples, int plane, int from, int to) const {
  const PlaneProgram& lanes = program(plane);
  const std::size_t bytes = source_.partBytes(sourcePlane(plane));
  std::vector<const std::uint8_t*> parts;
  for (int tileRow = from; tileRow < to; ++tileRow)
    for (int tile = 0; tile < source_.tilesAcross(); ++tile)
      for (int s = 0; s < sources(); ++s) {
        const bool pair = picking_ == Picking::Pairs;
        const TileRow& row = lanes.lanes[static_cast<std::size_t>(pair ? 0 : s)][static_cast<std::size_t>(tileRow)];
        findParts(row, tileRow, tile, plane, lookup, pair ? s : 0, parts);
        const auto index = static_cast<std::size_t>((tileRow * source_.tilesAcross() + tile) * sources() + s);
        // Scratch is aligned as the kernels want it; the samples so far go through it.
        std::uint8_t* const kept = samples[static_cast<std::size_t>(plane)].data() + index * bytes;
        std::uint8_t* const tileMemory = scratch(0, bytes).data();
        std::memcpy(tileMemory, kept, bytes);
        gatherLot(row, tile, plane, parts, tileMemory);
        std::memcpy(kept, tileMemory, bytes);
      }
}

void GatherProgram::finishLots(const LotSamples& samples, Picture& out, int plane, int from, int to) const {
  finishSome(0, sources(), samples, out, plane, from, to);
}

void GatherProgram::finishSource(int source, const LotSamples& samples, Picture& out, int plane, int from,
                                 int to) const {
  finishSome(source, 1, samples, out, plane, from, to);
}

void GatherProgram::finishSome(int first, int count, const LotSamples& samples, Picture& out, int plane, int from,
                               int to) const {
  const std::size_t bytes = source_.partBytes(sourcePlane(plane));
  for (int tileRow = from; tileRow < to; ++tileRow)
    for (int tile = 0; tile < source_.tilesAcross(); ++tile) {
      const int index = tileRow * source_.tilesAcross() + tile;
      std::vector<std::uint8_t*> gathered;
      for (int s = first; s < first + count; ++s) {
        gathered.push_back(scratch(static_cast<std::size_t>(s), bytes).data());
        std::memcpy(
            gathered.back(),
            samples[static_cast<std::size_t>(plane)].data() + static_cast<std::size_t>(index * sources() + s) * bytes,
            bytes);
      }
      if (count > 1) mixTile(plane, tileRow, tile, gathered);
      made_.fromPart(gathered[0], index, plane, out);
    }
}

void GatherProgram::picksOfTile(int plane, int tile, int lane, std::span<std::int32_t> frames) const {
  const int tileRow = tile / source_.tilesAcross(), column = tile % source_.tilesAcross();
  const TileRow& row = program(plane).lanes[static_cast<std::size_t>(lane)][static_cast<std::size_t>(tileRow)];
  const std::int32_t* const named = row.frames.data() + row.firstFrame[static_cast<std::size_t>(column)];
  if (source_.kind() == Layout::Rows) {
    const TilePlane& part = source_.plane(sourcePlane(plane));
    const auto stride = part.rowBytes / static_cast<std::size_t>(source_.shape().format.bytesPerSample());
    for (std::size_t y = 0; y + 1 < row.firstRun.size(); ++y)
      for (auto r = row.firstRun[y]; r < row.firstRun[y + 1]; ++r)
        std::fill_n(frames.begin() + static_cast<std::ptrdiff_t>(y * stride) + row.runs[r].x, row.runs[r].length,
                    named[row.runs[r].local]);
    return;
  }
  const BlockOps ops = opsOf(row, column);
  for (std::size_t i = 0; i < ops.count; ++i) {
    const std::int32_t frame = named[ops.where[i] >> 16];
    std::int32_t* const block = frames.data() + std::size_t(ops.where[i] & 0xffff) * FrameLayout::blockSamples;
    for (std::uint64_t rest = ops.mask[i]; rest; rest &= rest - 1) block[__builtin_ctzll(rest)] = frame;
  }
}

std::span<const std::uint16_t> GatherProgram::pairWeights(int plane, int tile) const {
  const auto samples = static_cast<std::size_t>(source_.partSamples(sourcePlane(plane)));
  const TileRow& row = program(plane).lanes[0][static_cast<std::size_t>(tile / source_.tilesAcross())];
  return {row.pairWeights.data() + static_cast<std::size_t>(tile % source_.tilesAcross()) * samples, samples};
}

std::span<const std::uint32_t> GatherProgram::laneWeights(int plane, int tile, int lane) const {
  const auto samples = static_cast<std::size_t>(source_.partSamples(sourcePlane(plane)));
  const TileRow& row =
      program(plane).lanes[static_cast<std::size_t>(lane)][static_cast<std::size_t>(tile / source_.tilesAcross())];
  return {row.weights.data() + static_cast<std::size_t>(tile % source_.tilesAcross()) * samples, samples};
}

std::vector<float> GatherProgram::sourceWeights(int source) const {
  const Size size = source_.shape().size;
  const TilePlane& part = source_.plane(0);
  std::vector<float> weights(static_cast<std::size_t>(size.width) * static_cast<std::size_t>(size.height));
  for (int tile = 0; tile < source_.tiles(); ++tile) {
    const int left = tile % source_.tilesAcross() * part.width, top = tile / source_.tilesAcross() * part.height;
    const bool pairs = picking_ == Picking::Pairs;
    const auto ofPairs = pairs ? pairWeights(0, tile) : std::span<const std::uint16_t>();
    const auto ofLane = pairs ? std::span<const std::uint32_t>() : laneWeights(0, tile, source);
    for (int y = 0; y < std::min(part.height, size.height - top); ++y)
      for (int x = 0; x < std::min(part.width, size.width - left); ++x) {
        const std::size_t at = source_.sampleInPart(0, x, y);
        const std::uint32_t weight = !pairs ? ofLane[at] : source == 0 ? wholeWeight - ofPairs[at] : ofPairs[at];
        weights[static_cast<std::size_t>(top + y) * static_cast<std::size_t>(size.width) +
                static_cast<std::size_t>(left + x)] = static_cast<float>(weight) / static_cast<float>(wholeWeight);
      }
  }
  return weights;
}

}  // namespace molten
