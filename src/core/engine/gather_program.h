#pragma once
// Which frame every sample of a picture reads, made ready for copying.

#include <cstdint>
#include <functional>
#include <span>
#include <vector>

#include "core/engine/gather_kernels.h"
#include "core/engine/tile_store.h"
#include "core/time/frame_clock.h"

namespace molten {

/// What a row of samples reads: in each lane a frame and its weight in 1/65536. Lanes are mixed.
struct RowPicks {
  struct Lane {
    std::vector<std::int32_t> frame;    ///< a number of a frame, or a distance from the picture's own
    std::vector<std::uint32_t> weight;  ///< the lanes' weights come to 65536 at most; the rest is black or clear
  };
  std::vector<Lane> lanes;
};

/// How the lanes of picks are to be read.
enum class Picking {
  Copy,   ///< one lane, all of it
  Pairs,  ///< one lane; `weight` is that of the frame after the one named, which has the rest
  Lanes   ///< every lane as it says
};

/// Frames by their number less `least`: the list of a frame's tiles. nullptr: nothing is there, samples are black and
/// clear.
struct FrameLookup {
  using Tiles = const std::uint8_t* const*;
  std::int32_t least = 0;
  std::vector<Tiles> frames;
  Tiles at(std::int32_t frame) const { return frames[static_cast<std::size_t>(frame - least)]; }
  /// Stands for a frame that comes in another lot.
  static constexpr const std::uint8_t* const noTiles[1] = {};
  static constexpr Tiles later = noTiles;
};

/// Samples of a picture in the making, when its frames come in lots.
using LotSamples = std::vector<std::vector<std::uint8_t>>;

/// Compiled once, run for many pictures, by several threads. Pictures whole, by their sources and in lots each have their
/// way through it: hence its twenty-eight methods.
class GatherProgram {
 public:
  /// Fills the picks of a row of a plane.
  using PickRow = std::function<void(int plane, int row, RowPicks& picks)>;

  /// `source`: how the frames that are read lie in memory. `made`: the pictures that come out: as those that are read,
  /// or with an alpha of their own. `pickRow` is asked for plane 0 and, if chroma is smaller, for plane 1, from several
  /// threads at once, and fills `lanes` lanes.
  GatherProgram(const FrameLayout& source, const PictureShape& made, Picking picking, int lanes,
                const PickRow& pickRow);

  Picking picking() const { return picking_; }
  /// The numbers that occur, pairs' second frames included; rising.
  const std::vector<std::int32_t>& frames() const { return frames_; }
  /// How many pictures' worth of samples are gathered before they are mixed.
  int sources() const { return picking_ == Picking::Pairs ? 2 : lanes_; }

  /// Copies and mixes rows of tiles [from, to) of a plane. The frames must be held where they are read.
  void assemble(const FrameLookup& lookup, Picture& out, int plane, int from, int to) const;
  /// Only copies one of the sources that would be mixed.
  void assembleSource(int source, const FrameLookup& lookup, Picture& out, int plane, int from, int to) const;

  /// The same with frames in lots: each frame must be in just one of the lookups, and be later() in the others; after
  /// the last lot finish() gives the picture.
  void beginLots(LotSamples& samples) const;
  void assembleLot(const FrameLookup& lookup, LotSamples& samples, int plane, int from, int to) const;
  void finishLots(const LotSamples& samples, Picture& out, int plane, int from, int to) const;
  void finishSource(int source, const LotSamples& samples, Picture& out, int plane, int from, int to) const;

  /// For a tile of a plane: the frame that each sample reads in a lane, as numbered by the picks, in the order of the
  /// tile's memory; and the weights. Requires partSamples() places.
  void picksOfTile(int plane, int tile, int lane, std::span<std::int32_t> frames) const;
  std::span<const std::uint16_t> pairWeights(int plane, int tile) const;
  std::span<const std::uint32_t> laneWeights(int plane, int tile, int lane) const;
  /// A source's weight (0…1) at every pixel: width · height, row after row.
  std::vector<float> sourceWeights(int source) const;

 private:
  /// Consecutive samples of a row that read one frame. Rows layout only.
  struct Run {
    std::int32_t x;       ///< first sample
    std::int32_t length;  ///< in samples
    std::uint32_t local;  ///< index into the tile's frames
  };
  /// A row of tiles of one plane in one lane.
  struct TileRow {
    std::vector<std::uint32_t> where;  ///< BlockOps of all its tiles
    std::vector<std::uint64_t> mask;
    std::vector<std::uint32_t> firstOp;      ///< of each tile; one more than there are tiles
    std::vector<Run> runs;                   ///< Rows layout: of its one tile
    std::vector<std::uint32_t> firstRun;     ///< of each row; one more than there are rows
    std::vector<std::int32_t> frames;        ///< that its tiles read
    std::vector<std::uint32_t> firstFrame;   ///< of each tile; one more than there are tiles
    std::vector<std::uint32_t> weights;      ///< Lanes: a sample each, in the order of the tiles' memory
    std::vector<std::uint16_t> pairWeights;  ///< Pairs: likewise
  };
  struct PlaneProgram {
    std::vector<std::vector<TileRow>> lanes;
  };
  /// Planes whose samples stand on the same sites share a program.
  const PlaneProgram& program(int plane) const;
  void compileTileRow(int plane, int tileRow, const PickRow& pickRow);
  void compileBlocks(TileRow& row, int plane, std::span<const std::int32_t> frames, int paddedWidth) const;
  static void compileRuns(TileRow& row, std::span<const std::int32_t> frames, int rows);
  BlockOps opsOf(const TileRow& row, int tile) const;
  /// Where a plane's part of a tile begins in each of the frames that the tile reads, or in those `shift` after them.
  void findParts(const TileRow& row, int tileRow, int tile, int plane, const FrameLookup& lookup, int shift,
                 std::vector<const std::uint8_t*>& parts) const;
  void gatherRuns(const TileRow& row, int plane, std::span<const std::uint8_t* const> parts, std::uint8_t* out,
                  std::ptrdiff_t stride, int rows) const;
  void gatherLot(const TileRow& row, int tile, int plane, std::span<const std::uint8_t* const> parts,
                 std::uint8_t* out) const;
  /// Sources of a tile's mix into its first one.
  void mixTile(int plane, int tileRow, int tile, std::span<std::uint8_t* const> sources) const;
  /// All sources, mixed (first = 0, count = sources()), or one alone.
  void assembleSome(int first, int count, const FrameLookup& lookup, Picture& out, int plane, int from, int to) const;
  void finishSome(int first, int count, const LotSamples& samples, Picture& out, int plane, int from, int to) const;
  void putTile(const std::uint8_t* part, int tileRow, int tile, int plane, Picture& out) const;
  bool madeAlpha(int plane) const { return plane == source_.shape().format.planes(); }
  int sourcePlane(int plane) const { return madeAlpha(plane) ? 0 : plane; }

  FrameLayout source_, made_;
  Picking picking_;
  int lanes_ = 1;
  std::vector<PlaneProgram> planes_;  ///< of the first plane, and of chroma where it stands elsewhere
  std::vector<std::int32_t> frames_;
  std::vector<std::vector<std::uint8_t>> black_;  ///< for each plane made, what is read where no frame is
  std::vector<std::uint8_t> solid_;               ///< what an alpha that is made reads where a frame is
};

}  // namespace molten
