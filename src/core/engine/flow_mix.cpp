#include "core/engine/flow_mix.h"

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/field/plane_sites.h"

namespace molten {
namespace {

/// Motion below this, in pixels, is none: still backgrounds stay as they are.
constexpr float still = 1.0f / 8;
/// Motions that differ by less, in samples, are the same.
constexpr float same = 0.5f;
/// There and back may differ by this part of the picture's width; from three times that on nothing is believed.
constexpr float trustedPart = 1.0f / 160, leastTrusted = 1.0f;

/// A rectangle of a plane, in samples; right and bottom are outside.
struct Box {
  int left = 0, top = 0, right = 0, bottom = 0;
  void add(int x, int y) {
    if (right == left) {
      *this = {x, y, x + 1, y + 1};
      return;
    }
    left = std::min(left, x), top = std::min(top, y), right = std::max(right, x + 1), bottom = std::max(bottom, y + 1);
  }
  int width() const { return right - left; }
  int height() const { return bottom - top; }
};

/// Samples of a frame around a box, row after row; what lies outside the plane is its edge.
template <class Sample>
class Patch {
 public:
  void cut(const StoredFrame& frame, int plane, const Box& box, int margin) {
    const FrameLayout& layout = frame.layout();
    const PictureShape& shape = layout.shape();
    const int width = shape.format.planeWidth(plane, shape.size.width);
    const int height = shape.format.planeHeight(plane, shape.size.height);
    left_ = box.left - margin, top_ = box.top - margin;
    stride_ = box.width() + 2 * margin;
    const int rows = box.height() + 2 * margin;
    samples_.resize(static_cast<std::size_t>(stride_) * static_cast<std::size_t>(rows));
    const TilePlane& part = layout.plane(plane);
    const int from = std::clamp(left_, 0, width - 1), to = std::clamp(left_ + stride_, from + 1, width);
    for (int r = 0; r < rows; ++r) {
      const int y = std::clamp(top_ + r, 0, height - 1);
      Sample* const row = samples_.data() + static_cast<std::ptrdiff_t>(r) * stride_;
      for (int x = from; x < to;) {
        const int tile = y / part.height * layout.tilesAcross() + x / part.width, inX = x % part.width,
                  inY = y % part.height;
        const std::uint8_t* const at = frame.tile(tile) + part.offset;
        int length;
        const Sample* source;
        if (layout.kind() == Layout::Rows) {
          source = reinterpret_cast<const Sample*>(at + static_cast<std::size_t>(inY) * part.rowBytes) + inX;
          length = part.width - inX;
        } else {
          constexpr int side = FrameLayout::blockSide;
          source = reinterpret_cast<const Sample*>(at + static_cast<std::size_t>(inY / side) * part.rowBytes) +
                   inX / side * FrameLayout::blockSamples + inY % side * side + inX % side;
          length = side - inX % side;
        }
        length = std::min(length, to - x);
        std::memcpy(row + (x - left_), source, static_cast<std::size_t>(length) * sizeof(Sample));
        x += length;
      }
      std::fill(row, row + (from - left_), row[from - left_]);
      std::fill(row + (to - left_), row + stride_, row[to - 1 - left_]);
    }
  }
  Sample exact(int x, int y) const { return samples_[static_cast<std::size_t>((y - top_) * stride_ + x - left_)]; }
  /// Straight between the four samples around a place that is at least a sample inside.
  float at(float x, float y) const {
    x -= static_cast<float>(left_), y -= static_cast<float>(top_);
    const int ix = static_cast<int>(x), iy = static_cast<int>(y);
    const float fx = x - static_cast<float>(ix), fy = y - static_cast<float>(iy);
    const Sample* const a = samples_.data() + static_cast<std::ptrdiff_t>(iy) * stride_ + ix;
    const float upper = static_cast<float>(a[0]) + (static_cast<float>(a[1]) - static_cast<float>(a[0])) * fx;
    const Sample* const b = a + stride_;
    const float lower = static_cast<float>(b[0]) + (static_cast<float>(b[1]) - static_cast<float>(b[0])) * fx;
    return upper + (lower - upper) * fy;
  }

 private:
  int left_ = 0, top_ = 0, stride_ = 0;
  std::vector<Sample> samples_;
};

/// Both opinions' motions at one place, and how far there and back differ. In pixels of the frame.
struct Opinions {
  Vector u, v;
  float uOff = 0, vOff = 0;
};

Opinions opinionsAt(const FlowField& flow, float x, float y, float t) {
  Opinions o;
  o.u = flow.forward(x, y), o.v = flow.backward(x, y);
  for (int step = 0; step < 2; ++step) {
    o.u = flow.forward(x - t * o.u.x, y - t * o.u.y);
    o.v = flow.backward(x - (1 - t) * o.v.x, y - (1 - t) * o.v.y);
  }
  const Vector uBack = flow.backward(x + (1 - t) * o.u.x, y + (1 - t) * o.u.y),
               vBack = flow.forward(x + t * o.v.x, y + t * o.v.y);
  o.uOff = std::sqrt((o.u.x + uBack.x) * (o.u.x + uBack.x) + (o.u.y + uBack.y) * (o.u.y + uBack.y));
  o.vOff = std::sqrt((o.v.x + vBack.x) * (o.v.x + vBack.x) + (o.v.y + vBack.y) * (o.v.y + vBack.y));
  const auto none = [](Vector& w) {
    if (std::abs(w.x) < still && std::abs(w.y) < still) w = {};
  };
  none(o.u), none(o.v);
  return o;
}

Opinions between(const Opinions& a, const Opinions& b, float f) {
  const auto mix = [f](float p, float q) { return p + (q - p) * f; };
  return {{mix(a.u.x, b.u.x), mix(a.u.y, b.u.y)},
          {mix(a.v.x, b.v.x), mix(a.v.y, b.v.y)},
          mix(a.uOff, b.uOff),
          mix(a.vOff, b.vOff)};
}

template <class Sample>
Sample rounded(float value, float top) {
  if constexpr (std::is_floating_point_v<Sample>)
    return value;
  else
    return static_cast<Sample>(std::clamp(value, 0.0f, top) + 0.5f);
}

/// As Mixed mixes.
template <class Sample>
Sample plainMix(Sample a, Sample b, std::uint32_t weight) {
  if constexpr (std::is_floating_point_v<Sample>)
    return static_cast<Sample>((static_cast<double>(a) * (wholeWeight - weight) + static_cast<double>(b) * weight) /
                               wholeWeight);
  else
    return static_cast<Sample>((a * (wholeWeight - weight) + b * weight + wholeWeight / 2) / wholeWeight);
}

}  // namespace

FlowMix::FlowMix(const GatherProgram& program, const FrameLayout& layout, const PictureShape& made,
                 const FrameTable& table, FrameOf frameOf)
    : program_(program), layout_(layout), made_(made), table_(table), frameOf_(std::move(frameOf)) {}

/// A tile's pixels are taken together by the two frames that they lie between: each pair's patches of the frames are
/// cut out once, and its motion worked out on the flow's cells.
template <class Sample>
void FlowMix::assembleTile(Picture& out, int plane, int tile) const {
  const bool madeAlpha = plane == layout_.shape().format.planes();
  const int from = madeAlpha ? 0 : plane;
  const TilePlane& part = layout_.plane(from);
  const int left = tile % layout_.tilesAcross() * part.width, top = tile / layout_.tilesAcross() * part.height;
  const int width = std::min(part.width, out.planeWidth(plane) - left);
  const int height = std::min(part.height, out.planeHeight(plane) - top);
  if (width <= 0 || height <= 0) return;
  const bool pairs = program_.picking() == Picking::Pairs;
  const auto samples = static_cast<std::size_t>(layout_.partSamples(from));
  thread_local std::vector<std::int32_t> firsts, seconds;
  firsts.resize(samples), seconds.resize(samples);
  program_.picksOfTile(plane, tile, 0, firsts);
  if (!pairs) program_.picksOfTile(plane, tile, 1, seconds);
  const auto pairWeights = pairs ? program_.pairWeights(plane, tile) : std::span<const std::uint16_t>();
  const auto firstWeights = pairs ? std::span<const std::uint32_t>() : program_.laneWeights(plane, tile, 0);
  const auto secondWeights = pairs ? std::span<const std::uint32_t>() : program_.laneWeights(plane, tile, 1);

  struct Pair {
    std::int32_t first, second;  ///< numbers of the program
    Box box;
  };
  struct Pixel {
    std::uint32_t pair, weight, firstWeight;
  };
  thread_local std::vector<Pair> found;
  thread_local std::vector<Pixel> pixels;
  found.clear();
  pixels.resize(static_cast<std::size_t>(width) * static_cast<std::size_t>(height));
  std::uint32_t current = 0;
  for (int y = 0; y < height; ++y)
    for (int x = 0; x < width; ++x) {
      const std::size_t at = layout_.sampleInPart(plane, x, y);
      Pixel& pixel =
          pixels[static_cast<std::size_t>(y) * static_cast<std::size_t>(width) + static_cast<std::size_t>(x)];
      pixel.weight = pairs ? pairWeights[at] : secondWeights[at];
      pixel.firstWeight = pairs ? wholeWeight - pixel.weight : firstWeights[at];
      const std::int32_t first = firsts[at], second = pairs ? first + 1 : pixel.weight > 0 ? seconds[at] : first;
      if (found.empty() || found[current].first != first || found[current].second != second) {
        const auto known =
            std::find_if(found.begin(), found.end(), [&](auto& p) { return p.first == first && p.second == second; });
        current = static_cast<std::uint32_t>(known - found.begin());
        if (known == found.end()) found.push_back({first, second, {}});
      }
      found[current].box.add(left + x, top + y);
      pixel.pair = current;
    }

  const PictureFormat& format = made_.format;
  const float most = format.floating ? 1.0f : static_cast<float>((1u << format.bits) - 1);
  const std::uint32_t black = blackSample(made_, plane);
  const PlaneSites sites = planeSites(layout_.shape(), from, 1);
  const auto stepX = static_cast<float>(sites.stepX), stepY = static_cast<float>(sites.stepY);
  const float trusted = std::max(leastTrusted, static_cast<float>(made_.size.width) * trustedPart);
  const auto belief = [&](float off) { return std::clamp((3 * trusted - off) / (2 * trusted), 0.0f, 1.0f); };
  thread_local Patch<Sample> patchA, patchB;
  thread_local std::vector<Opinions> cells, line;
  for (std::uint32_t p = 0; p < found.size(); ++p) {
    const Pair& pair = found[p];
    const std::int32_t a = frameOf_(pair.first), b = frameOf_(pair.second);
    const StoredFrame* const frameA = a == noFrame ? nullptr : table_.find(a);
    const StoredFrame* const frameB = b == noFrame ? nullptr : table_.find(b);
    if ((a != noFrame && !frameA) || (b != noFrame && !frameB)) continue;
    const auto eachPixel = [&](auto make) {
      for (int y = pair.box.top; y < pair.box.bottom; ++y) {
        auto* const row = reinterpret_cast<Sample*>(out.writableRow(plane, y));
        const Pixel* const line0 = pixels.data() + static_cast<std::ptrdiff_t>(y - top) * width - left;
        for (int x = pair.box.left; x < pair.box.right; ++x)
          if (line0[x].pair == p) row[x] = make(x, y, line0[x]);
      }
    };
    if (madeAlpha) {
      const auto opaque = format.floating ? 1.0 : static_cast<double>(opaqueSample(format));
      eachPixel([&](int, int, const Pixel& pixel) {
        const double present = (frameA ? pixel.firstWeight : 0) + (frameB ? pixel.weight : 0);
        return static_cast<Sample>(opaque * present / wholeWeight + (format.floating ? 0 : 0.5));
      });
      continue;
    }
    if (!frameA || !frameB) {
      // Only one of the two is there, or none: as much of it as there is, which the alpha tells.
      const StoredFrame* const only = frameA ? frameA : frameB;
      if (only) patchA.cut(*only, from, pair.box, 0);
      eachPixel([&](int x, int y, const Pixel& pixel) -> Sample {
        const std::uint32_t present = (frameA ? pixel.firstWeight : 0) + (frameB ? pixel.weight : 0);
        if (!only || present == 0) return static_cast<Sample>(black);
        const Sample sample = patchA.exact(x, y);
        if (format.alpha && !format.isAlphaPlane(plane)) return sample;
        return plainMix(static_cast<Sample>(black), sample, present);
      });
      continue;
    }
    const bool back = b == a - 1;
    const FlowField* const flow = std::abs(b - a) == 1 ? table_.flow(std::min(a, b)) : nullptr;
    if (a == b || !flow || flow->isCut()) {
      patchA.cut(*frameA, from, pair.box, 0);
      patchB.cut(*frameB, from, pair.box, 0);
      const bool cut = flow && flow->isCut();
      eachPixel([&](int x, int y, const Pixel& pixel) {
        const std::uint32_t weight = cut ? (pixel.weight >= wholeWeight / 2 ? wholeWeight : 0) : pixel.weight;
        return plainMix(patchA.exact(x, y), patchB.exact(x, y), weight);
      });
      continue;
    }
    // The flow's cells around the pair's box, each at the moment of the pixel nearest to its middle.
    const float cell = flow->cellSize();
    const auto placeX = [&](int x) { return static_cast<float>(sites.x0) + static_cast<float>(x) * stepX; };
    const auto placeY = [&](int y) { return static_cast<float>(sites.y0) + static_cast<float>(y) * stepY; };
    const int cellLeft = static_cast<int>(std::floor(placeX(pair.box.left) / cell - 0.5f)),
              cellTop = static_cast<int>(std::floor(placeY(pair.box.top) / cell - 0.5f));
    const int across = static_cast<int>(std::floor(placeX(pair.box.right - 1) / cell - 0.5f)) - cellLeft + 2,
              down = static_cast<int>(std::floor(placeY(pair.box.bottom - 1) / cell - 0.5f)) - cellTop + 2;
    cells.resize(static_cast<std::size_t>(across) * static_cast<std::size_t>(down));
    float farthest = 0;
    for (int j = 0; j < down; ++j)
      for (int i = 0; i < across; ++i) {
        const float cx = (static_cast<float>(cellLeft + i) + 0.5f) * cell,
                    cy = (static_cast<float>(cellTop + j) + 0.5f) * cell;
        const int px = std::clamp(static_cast<int>((cx - static_cast<float>(sites.x0)) / stepX + 0.5f), pair.box.left,
                                  pair.box.right - 1),
                  py = std::clamp(static_cast<int>((cy - static_cast<float>(sites.y0)) / stepY + 0.5f), pair.box.top,
                                  pair.box.bottom - 1);
        const Pixel& pixel = pixels[static_cast<std::size_t>((py - top) * width + px - left)];
        const float position = static_cast<float>(found[pixel.pair].first - pair.first) +
                               static_cast<float>(pixel.weight) / static_cast<float>(wholeWeight);
        const float t = std::clamp(position, 0.0f, 1.0f);
        Opinions& o = cells[static_cast<std::size_t>(j * across + i)];
        o = opinionsAt(*flow, cx, cy, back ? 1 - t : t);
        // From here on in samples of the plane.
        o.u = {o.u.x / stepX, o.u.y / stepY}, o.v = {o.v.x / stepX, o.v.y / stepY};
        for (const float m : {o.u.x, o.u.y, o.v.x, o.v.y}) farthest = std::max(farthest, std::abs(m));
      }
    const int margin = farthest == 0 ? 0 : static_cast<int>(farthest) + 2;
    patchA.cut(*frameA, from, pair.box, margin);
    patchB.cut(*frameB, from, pair.box, margin);
    const Patch<Sample>&lower = back ? patchB : patchA, &upper = back ? patchA : patchB;
    const float eighths = 255 / most;  // differences are judged as of 8-bit samples
    line.resize(static_cast<std::size_t>(across));
    const auto isStill = [](const Opinions& o) { return o.u.x == 0 && o.u.y == 0 && o.v.x == 0 && o.v.y == 0; };
    // Where both opinions are the same motion, and there is no doubt, one is enough.
    const auto agrees = [&](const Opinions& o) {
      return std::abs(o.u.x + o.v.x) <= same && std::abs(o.u.y + o.v.y) <= same;
    };
    int lineOf = pair.box.top - 1, segmentOf = -1;
    Opinions begin, end;  // of the segment between two cells of the row
    bool stillHere = false, oneHere = false;
    eachPixel([&](int x, int y, const Pixel& pixel) -> Sample {
      if (pixel.weight == 0) return patchA.exact(x, y);
      if (farthest == 0) return plainMix(patchA.exact(x, y), patchB.exact(x, y), pixel.weight);
      if (lineOf != y) {
        lineOf = y;
        segmentOf = -1;
        const float gy = placeY(y) / cell - 0.5f - static_cast<float>(cellTop);
        const int j = std::clamp(static_cast<int>(gy), 0, down - 2);
        for (int i = 0; i < across; ++i)
          line[static_cast<std::size_t>(i)] =
              between(cells[static_cast<std::size_t>(j * across + i)],
                      cells[static_cast<std::size_t>((j + 1) * across + i)], gy - static_cast<float>(j));
      }
      const float gx = placeX(x) / cell - 0.5f - static_cast<float>(cellLeft);
      const int i = std::clamp(static_cast<int>(gx), 0, across - 2);
      if (segmentOf != i) {
        segmentOf = i;
        begin = line[static_cast<std::size_t>(i)], end = line[static_cast<std::size_t>(i + 1)];
        stillHere = isStill(begin) && isStill(end);
        oneHere = agrees(begin) && agrees(end) && begin.uOff <= trusted && end.uOff <= trusted;
      }
      if (stillHere) return plainMix(patchA.exact(x, y), patchB.exact(x, y), pixel.weight);
      const float w = static_cast<float>(pixel.weight) / static_cast<float>(wholeWeight), t = back ? 1 - w : w;
      const auto fx = static_cast<float>(x), fy = static_cast<float>(y);
      const float f = gx - static_cast<float>(i);
      if (oneHere) {
        const float ux = begin.u.x + (end.u.x - begin.u.x) * f, uy = begin.u.y + (end.u.y - begin.u.y) * f;
        const float pa = lower.at(fx - t * ux, fy - t * uy), pb = upper.at(fx + (1 - t) * ux, fy + (1 - t) * uy);
        return rounded<Sample>(pa + (pb - pa) * t, most);
      }
      const Opinions o = between(begin, end, f);
      const float pa = lower.at(fx - t * o.u.x, fy - t * o.u.y),
                  pb = upper.at(fx + (1 - t) * o.u.x, fy + (1 - t) * o.u.y);
      float made = pa + (pb - pa) * t, believed = belief(o.uOff);
      if (!agrees(o)) {
        const float qa = lower.at(fx + t * o.v.x, fy + t * o.v.y),
                    qb = upper.at(fx - (1 - t) * o.v.x, fy - (1 - t) * o.v.y);
        const float pOff = std::abs(pa - pb) * eighths + o.uOff, qOff = std::abs(qa - qb) * eighths + o.vOff;
        const float pWeight = 1 / (1 + pOff * pOff), qWeight = 1 / (1 + qOff * qOff);
        made = (made * pWeight + (qa + (qb - qa) * t) * qWeight) / (pWeight + qWeight);
        believed = (believed * pWeight + belief(o.vOff) * qWeight) / (pWeight + qWeight);
      }
      if (believed < 1) {
        const auto sa = static_cast<float>(patchA.exact(x, y)), sb = static_cast<float>(patchB.exact(x, y));
        const float plain = sa + (sb - sa) * w;
        made = plain + (made - plain) * believed;
      }
      return rounded<Sample>(made, most);
    });
  }
}

void FlowMix::assemble(Picture& out, int plane, int from, int to) const {
  for (int tile = from * layout_.tilesAcross(); tile < to * layout_.tilesAcross(); ++tile) {
    if (made_.format.floating)
      assembleTile<float>(out, plane, tile);
    else if (made_.format.bits > 8)
      assembleTile<std::uint16_t>(out, plane, tile);
    else
      assembleTile<std::uint8_t>(out, plane, tile);
  }
}

}  // namespace molten
