#include "core/engine/flow_mix.h"

#include <algorithm>
#include <cmath>

#include "core/engine/flow_opinions.h"

namespace molten {
namespace {

/// As Mixed mixes.
template <class Sample>
Sample plainMix(Sample a, Sample b, std::uint32_t weight) {
  if constexpr (std::is_floating_point_v<Sample>)
    return static_cast<Sample>((static_cast<double>(a) * (wholeWeight - weight) + static_cast<double>(b) * weight) /
                               wholeWeight);
  else
    return static_cast<Sample>((a * (wholeWeight - weight) + b * weight + wholeWeight / 2) / wholeWeight);
}

/// Two frames that some of a tile's pixels lie between, and where those are.
struct FramePair {
  std::int32_t first, second;  ///< numbers of the program
  PlaneBox box;
};

struct MixedPixel {
  std::uint32_t pair;         ///< its index among the tile's
  std::uint32_t weight;       ///< of the second frame, in 1/65536
  std::uint32_t firstWeight;  ///< of the first: less than what is left where there is none
};

/// What a thread needs for a tile, kept for the next one.
template <class Sample>
struct MixScratch {
  std::vector<std::int32_t> firsts, seconds;
  std::vector<FramePair> pairs;
  std::vector<MixedPixel> pixels;  ///< of the tile, row after row
  std::vector<float> way;          ///< of a row's pixels: the part of it from the earlier frame to the later one
  PlanePatch<Sample> first, second;
  OpinionGrid grid;
};

}  // namespace

/// One tile of one plane in the making. Its pixels are taken together by the two frames that they lie between: each
/// pair's patches of the frames are cut out once, and its motion worked out on the flow's cells.
template <class Sample>
class FlowMix::Tile {
 public:
  /// Of the layout.
  Tile(const FlowMix& mix, Picture& out, int plane, int tile) : Tile(mix, out, plane, tile, mix.tileBox(plane, tile)) {}
  Tile(const FlowMix& mix, Picture& out, int plane, int tile, const PlaneBox& box)
      : mix_(mix),
        out_(out),
        plane_(plane),
        madeAlpha_(mix.madeAlpha(plane)),
        from_(madeAlpha_ ? 0 : plane),
        tile_(tile),
        left_(box.left),
        top_(box.top),
        width_(std::min(box.right, out.planeWidth(plane)) - left_),
        height_(std::min(box.bottom, out.planeHeight(plane)) - top_),
        most_(format().floating ? 1.0f : static_cast<float>((1u << format().bits) - 1)),
        trust_(mix.made_.size.width) {}

  void make() {
    if (width_ <= 0 || height_ <= 0) return;
    if (mix_.even_) return makeEven();
    findPairs();
    for (std::uint32_t p = 0; p < scratch_.pairs.size(); ++p) makePair(p);
  }

 private:
  static MixScratch<Sample>& ofThisThread() {
    thread_local MixScratch<Sample> kept;
    return kept;
  }
  const PictureFormat& format() const { return mix_.made_.format; }
  /// Those of a row; the first is that at the tile's left.
  MixedPixel* pixelsOf(int y) const {
    return scratch_.pixels.data() + (mix_.even_ ? 0 : static_cast<std::ptrdiff_t>(y - top_) * width_);
  }
  MixedPixel& pixelAt(int x, int y) const { return pixelsOf(y)[x - left_]; }

  /// All pixels are of one pair.
  void makeEven() {
    const EvenPair& even = *mix_.even_;
    PlaneBox box{left_, top_, left_ + width_, top_ + height_};
    scratch_.pairs.assign(1, {even.first, even.second, box});
    // One row stands for all.
    scratch_.pixels.assign(static_cast<std::size_t>(width_), {0, even.weight, wholeWeight - even.weight});
    scratch_.way.clear();
    makePair(0);
  }

  /// Which pairs there are, and each pixel's.
  void findPairs() {
    MixScratch<Sample>& s = scratch_;
    const GatherProgram& program = *mix_.program_;
    const bool pairs = program.picking() == Picking::Pairs;
    const auto samples = static_cast<std::size_t>(mix_.layout_.partSamples(from_));
    s.firsts.resize(samples), s.seconds.resize(samples);
    program.picksOfTile(plane_, tile_, 0, s.firsts);
    if (!pairs) program.picksOfTile(plane_, tile_, 1, s.seconds);
    const auto pairWeights = pairs ? program.pairWeights(plane_, tile_) : std::span<const std::uint16_t>();
    const auto firstWeights = pairs ? std::span<const std::uint32_t>() : program.laneWeights(plane_, tile_, 0);
    const auto secondWeights = pairs ? std::span<const std::uint32_t>() : program.laneWeights(plane_, tile_, 1);
    s.pairs.clear();
    s.pixels.resize(static_cast<std::size_t>(width_) * static_cast<std::size_t>(height_));
    std::uint32_t current = 0;
    for (int y = top_; y < top_ + height_; ++y)
      for (int x = left_; x < left_ + width_; ++x) {
        const std::size_t at = mix_.layout_.sampleInPart(plane_, x - left_, y - top_);
        MixedPixel& pixel = pixelAt(x, y);
        pixel.weight = pairs ? pairWeights[at] : secondWeights[at];
        pixel.firstWeight = pairs ? wholeWeight - pixel.weight : firstWeights[at];
        const std::int32_t first = s.firsts[at];
        current = pairOf(current, first, pairs ? first + 1 : pixel.weight > 0 ? s.seconds[at] : first);
        pixel.pair = current;
        s.pairs[current].box.add(x, y);
      }
  }
  /// The index of a pair, `likely` if it is that of the pixel before.
  std::uint32_t pairOf(std::uint32_t likely, std::int32_t first, std::int32_t second) {
    std::vector<FramePair>& pairs = scratch_.pairs;
    const auto is = [&](const FramePair& p) { return p.first == first && p.second == second; };
    if (!pairs.empty() && is(pairs[likely])) return likely;
    const auto known = std::find_if(pairs.begin(), pairs.end(), is);
    const auto index = static_cast<std::uint32_t>(known - pairs.begin());
    if (known == pairs.end()) pairs.push_back({first, second, {}});
    return index;
  }

  /// The pixels of a pair, both of whose frames are in the table.
  void makePair(std::uint32_t p) {
    const FramePair& pair = scratch_.pairs[p];
    const std::int32_t a = mix_.frameOf_(pair.first), b = mix_.frameOf_(pair.second);
    const StoredFrame* const frameA = a == noFrame ? nullptr : mix_.table_.find(a);
    const StoredFrame* const frameB = b == noFrame ? nullptr : mix_.table_.find(b);
    if ((a != noFrame && !frameA) || (b != noFrame && !frameB)) return;
    if (madeAlpha_) return makeAlpha(p, frameA, frameB);
    if (!frameA || !frameB) return makePart(p, frameA, frameB);
    const FlowField* const flow = std::abs(b - a) == 1 ? mix_.table_.flow(std::min(a, b)) : nullptr;
    if (a == b || !flow || flow->isCut()) return makePlain(p, *frameA, *frameB, flow && flow->isCut());
    makeAlongFlow(p, *frameA, *frameB, *flow, b == a - 1);
  }

  /// make(x, y, pixel) for each pixel of a pair.
  template <class Make>
  void eachPixel(std::uint32_t p, Make make) {
    const PlaneBox box = scratch_.pairs[p].box;
    for (int y = box.top; y < box.bottom; ++y) {
      auto* const row = reinterpret_cast<Sample*>(out_.writableRow(plane_, y));
      const MixedPixel* const pixels = pixelsOf(y) - left_;
      for (int x = box.left; x < box.right; ++x)
        if (pixels[x].pair == p) row[x] = make(x, y, pixels[x]);
    }
  }

  /// An alpha that the frames have not: as much as there is of them.
  void makeAlpha(std::uint32_t p, bool first, bool second) {
    const auto opaque = format().floating ? 1.0 : static_cast<double>(opaqueSample(format()));
    eachPixel(p, [&](int, int, const MixedPixel& pixel) {
      const double present = (first ? pixel.firstWeight : 0) + (second ? pixel.weight : 0);
      return static_cast<Sample>(opaque * present / wholeWeight + (format().floating ? 0 : 0.5));
    });
  }

  /// Only one of the two is there, or none: as much of it as there is, which the alpha tells.
  void makePart(std::uint32_t p, const StoredFrame* first, const StoredFrame* second) {
    PlanePatch<Sample>& patch = scratch_.first;
    const StoredFrame* const only = first ? first : second;
    if (only) patch.cut(*only, from_, scratch_.pairs[p].box, 0);
    const auto black = static_cast<Sample>(blackSample(mix_.made_, plane_));
    eachPixel(p, [&](int x, int y, const MixedPixel& pixel) {
      const std::uint32_t present = (first ? pixel.firstWeight : 0) + (second ? pixel.weight : 0);
      if (!only || present == 0) return black;
      const Sample sample = patch.exact(x, y);
      return format().alpha && !format().isAlphaPlane(plane_) ? sample : plainMix(black, sample, present);
    });
  }

  void makePlain(std::uint32_t p, const StoredFrame& first, const StoredFrame& second, bool cut) {
    PlanePatch<Sample>&a = scratch_.first, &b = scratch_.second;
    a.cut(first, from_, scratch_.pairs[p].box, 0);
    b.cut(second, from_, scratch_.pairs[p].box, 0);
    eachPixel(p, [&](int x, int y, const MixedPixel& pixel) {
      const std::uint32_t weight = cut ? (pixel.weight >= wholeWeight / 2 ? wholeWeight : 0) : pixel.weight;
      return plainMix(a.exact(x, y), b.exact(x, y), weight);
    });
  }

  /// `back`: the second frame is the one before the first.
  void makeAlongFlow(std::uint32_t p, const StoredFrame& first, const StoredFrame& second, const FlowField& flow,
                     bool back) {
    MixScratch<Sample>& s = scratch_;
    const FramePair& pair = s.pairs[p];
    OpinionGrid& grid = s.grid;
    const auto sites = planeSites(mix_.layout_.shape(), from_, 1);
    const auto partOf = [&](const MixedPixel& pixel) {
      // A pixel of another pair tells as well where this one goes on.
      const float position = static_cast<float>(s.pairs[pixel.pair].first - pair.first) +
                             static_cast<float>(pixel.weight) / static_cast<float>(wholeWeight);
      const float t = std::clamp(position, 0.0f, 1.0f);
      return back ? 1 - t : t;
    };
    if (mix_.even_)
      grid.make(flow, sites, pair.box, partOf(s.pixels[0]));
    else
      grid.make(flow, sites, pair.box, [&](int x, int y) { return partOf(pixelAt(x, y)); });
    PlanePatch<Sample>&a = s.first, &b = s.second;
    a.cut(first, from_, pair.box, grid.margin());
    b.cut(second, from_, pair.box, grid.margin());
    if (grid.still())
      return eachPixel(p, [&](int x, int y, const MixedPixel& pixel) {
        return plainMix(a.exact(x, y), b.exact(x, y), pixel.weight);
      });
    for (int y = pair.box.top; y < pair.box.bottom; ++y) {
      auto* const row = reinterpret_cast<Sample*>(out_.writableRow(plane_, y));
      const MixedPixel* const pixels = pixelsOf(y) - left_;
      grid.goTo(y);
      for (const OpinionGrid::Run& run : grid.runs())
        for (int x = run.from; x < run.to;) {
          const int from = x;
          if (mix_.even_)
            x = run.to;
          else
            while (x < run.to && pixels[x].pair == p) ++x;
          if (run.still)
            for (int i = from; i < x; ++i) row[i] = plainMix(a.exact(i, y), b.exact(i, y), pixels[i].weight);
          else if (x > from)
            makeRun(from, x - from, y, pixels + from, back, row + from);
          while (x < run.to && pixels[x].pair != p) ++x;
        }
    }
  }

  /// Pixels of one pair, which move, by its patches and its grid.
  void makeRun(int x, int count, int y, const MixedPixel* pixels, bool back, Sample* out) {
    MixScratch<Sample>& s = scratch_;
    const auto wayOf = [back](const MixedPixel& pixel) {
      const float w = static_cast<float>(pixel.weight) / static_cast<float>(wholeWeight);
      return back ? 1 - w : w;
    };
    if (mix_.even_) {
      if (s.way.empty()) s.way.assign(static_cast<std::size_t>(width_), wayOf(pixels[0]));
    } else {
      s.way.resize(static_cast<std::size_t>(width_));
      std::transform(pixels, pixels + count, s.way.begin(), wayOf);
    }
    FlowRun run{x, y, count, s.way.data()};
    run.same = FlowOpinions::sameMotion, run.trusted = trust_.trusted(), run.most = most_;
    s.grid.tell(x, run);
    mixAlongFlow(run, (back ? s.second : s.first).view(), (back ? s.first : s.second).view(), out);
  }

  const FlowMix& mix_;
  Picture& out_;
  int plane_;
  bool madeAlpha_;  ///< the plane is an alpha that the source has not
  int from_;        ///< the plane of the source
  int tile_;
  int left_, top_, width_, height_;  ///< of the tile in the plane, in samples
  float most_;
  FlowTrust trust_;
  MixScratch<Sample>& scratch_ = ofThisThread();
};

FlowMix::FlowMix(const GatherProgram& program, const FrameLayout& layout, const PictureShape& made,
                 const FrameTable& table, Gathering::Meaning frameOf)
    : program_(&program), layout_(layout), made_(made), table_(table), frameOf_(std::move(frameOf)) {}

FlowMix::FlowMix(const EvenPair& pair, const FrameLayout& layout, const PictureShape& made, const FrameTable& table)
    : even_(pair), layout_(layout), made_(made), table_(table), frameOf_([](std::int32_t frame) { return frame; }) {}

bool FlowMix::madeAlpha(int plane) const {
  return plane == layout_.shape().format.planes();
}

PlaneBox FlowMix::tileBox(int plane, int tile) const {
  const TilePlane& part = layout_.plane(madeAlpha(plane) ? 0 : plane);
  const int left = tile % layout_.tilesAcross() * part.width, top = tile / layout_.tilesAcross() * part.height;
  return {left, top, left + part.width, top + part.height};
}

template <class... Words>
void FlowMix::makeTile(Picture& out, Words... words) const {
  if (made_.format.floating)
    Tile<float>(*this, out, words...).make();
  else if (made_.format.bits > 8)
    Tile<std::uint16_t>(*this, out, words...).make();
  else
    Tile<std::uint8_t>(*this, out, words...).make();
}

void FlowMix::assemble(Picture& out, int plane, int from, int to) const {
  for (int tile = from * layout_.tilesAcross(); tile < to * layout_.tilesAcross(); ++tile) makeTile(out, plane, tile);
}

void FlowMix::assembleEven(Picture& out, int plane, int row) const {
  for (int left = 0; left < out.planeWidth(plane); left += evenAcross)
    makeTile(out, plane, 0, PlaneBox{left, row * evenDown, left + evenAcross, (row + 1) * evenDown});
}

}  // namespace molten
