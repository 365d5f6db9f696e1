#include "core/stages/slit_mixture.h"

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/field/plane_sites.h"
#include "core/parallel.h"
#include "core/picture/accumulator.h"
#include "core/picture/picture_part.h"
#include "core/picture/sum_kernels.h"

namespace molten {
namespace {

class SlitMixture : public Mixture {
 public:
  SlitMixture(SlitPicture what, const StripLayout& blocks, const std::optional<StandingSlit>& standing,
              const MixShapes& shapes)
      : what_(std::move(what)), blocks_(blocks), standing_(standing), shapes_(shapes) {}
  const std::vector<MixSource>& sources() const override { return what_.sources; }
  void add(std::size_t, std::span<const Picture> pictures) override {
    // In the result's format: samples as they are, unless something is mixed of it further on.
    for (const Picture& picture : pictures) {
      PictureShape shape = shapes_.out;
      shape.format.alpha = picture.shape().format.alpha;
      shape.size = picture.shape().size;
      shape.pixelAspect = picture.shape().pixelAspect;
      if (shape.format == picture.format())
        pictures_.push_back(picture);
      else
        pictures_.push_back(narrowed(picture, shape));
    }
  }
  Picture finish() override {
    for (const MixSource& source : what_.sources)
      boxes_.push_back(source.part.right > source.part.left
                           ? partAtScale(source.part, shapes_.in, shapes_.scale)
                           : PixelBox{0, 0, shapes_.in.size.width, shapes_.in.size.height});
    Picture out(shapes_.out);
    const PictureFormat& format = shapes_.out.format;
    for (int p = 0; p < format.planes(); ++p) {
      parallelRows(out.planeHeight(p), 8, [&](int from, int to) {
        for (int y = from; y < to; ++y) {
          if (format.bytesPerSample() == 1)
            makeRow<std::uint8_t>(out, p, y);
          else if (format.floating)
            makeRow<std::uint32_t>(out, p, y);
          else
            makeRow<std::uint16_t>(out, p, y);
        }
      });
    }
    return out;
  }

 private:
  template <class Sample>
  void makeRow(Picture& out, int plane, int y) const {
    const PlaneSites sites = planeSites(shapes_.out, plane, shapes_.scale);
    const PlaneSites from = planeSites(shapes_.in, plane < shapes_.in.format.planes() ? plane : 0, shapes_.scale);
    const PictureFormat& format = shapes_.out.format;
    const bool alpha = format.isAlphaPlane(plane), madeAlpha = alpha && !shapes_.in.format.alpha;
    const bool chroma = format.isChromaPlane(plane);
    Sample solid, empty;
    fillSamples(reinterpret_cast<std::uint8_t*>(&empty), 1, format, blackSample(shapes_.out, plane));
    fillSamples(reinterpret_cast<std::uint8_t*>(&solid), 1, format, format.floating ? 1 : opaqueSample(format));
    auto* const row = reinterpret_cast<Sample*>(out.writableRow(plane, y));
    const bool sameSize = shapes_.in.size == shapes_.out.size;
    const Size full{static_cast<int>(shapes_.in.size.width) * shapes_.scale,
                    static_cast<int>(shapes_.in.size.height) * shapes_.scale};
    const double siteY = sites.y0 + y * sites.stepY;
    for (int x = 0; x < sites.width; ++x) {
      const double siteX = sites.x0 + x * sites.stepX;
      const int block = blocks_.stripAt(siteX, siteY);
      const int source = what_.ofBlock[static_cast<std::size_t>(block)];
      if (source == SlitPicture::nothing) {
        row[x] = empty;
        continue;
      }
      if (madeAlpha) {
        row[x] = solid;
        continue;
      }
      int column = x, line = y;
      if (standing_ && source != what_.live) {
        const double u = blocks_.along(siteX, siteY);
        const Place at = standing_->sourceOf(siteX, siteY, u, u - blocks_.border(block), sameSize, full);
        column = static_cast<int>(std::floor((at.x - from.x0) / from.stepX + 0.5));
        line = static_cast<int>(std::floor((at.y - from.y0) / from.stepY + 0.5));
      }
      const Picture& picture = pictures_[static_cast<std::size_t>(source)];
      const PixelBox& box = boxes_[static_cast<std::size_t>(source)];
      column = std::clamp(column - (chroma ? box.left >> format.shiftX : box.left), 0, picture.planeWidth(plane) - 1);
      line = std::clamp(line - (chroma ? box.top >> format.shiftY : box.top), 0, picture.planeHeight(plane) - 1);
      std::memcpy(row + x, picture.row(plane, line) + static_cast<std::size_t>(column) * sizeof(Sample),
                  sizeof(Sample));
    }
  }

  SlitPicture what_;
  StripLayout blocks_;
  std::optional<StandingSlit> standing_;
  MixShapes shapes_;
  std::vector<Picture> pictures_;
  std::vector<PixelBox> boxes_;
};

class FadingTrail : public Mixture {
 public:
  FadingTrail(std::vector<MixSource> both, const StripLayout& blocks, std::vector<float> liveOfBlock, const MixShapes& shapes)
      : sources_(std::move(both)), blocks_(blocks), live_(std::move(liveOfBlock)), shapes_(shapes) {}
  const std::vector<MixSource>& sources() const override { return sources_; }
  void add(std::size_t, std::span<const Picture> pictures) override {
    for (const Picture& picture : pictures) pictures_.push_back(narrowed(picture, shapes_.out));
  }
  Picture finish() override {
    Picture out(shapes_.out);
    for (int p = 0; p < out.format().planes(); ++p) {
      const PlaneSites sites = planeSites(shapes_.out, p, shapes_.scale);
      const auto shares = [&](int row) {
        std::vector<float> all(static_cast<std::size_t>(sites.width));
        blocks_.stripsOf(sites, row, {1, 1}, [&](int i, int block) { all[static_cast<std::size_t>(i)] = live_[static_cast<std::size_t>(block)]; });
        return all;
      };
      const std::vector<float> once = shares(0);
      parallelRows(sites.height, 8, [&](int from, int to) {
        for (int y = from; y < to; ++y)
          mixRow(out.format(), pictures_[0].row(p, y), pictures_[1].row(p, y), (blocks_.acrossOnly() ? once : shares(y)).data(), sites.width, out.writableRow(p, y));
      });
    }
    return out;
  }

 private:
  std::vector<MixSource> sources_;
  StripLayout blocks_;
  std::vector<float> live_;
  MixShapes shapes_;
  std::vector<Picture> pictures_;
};

}  // namespace

std::unique_ptr<Mixture> fadingTrail(std::vector<MixSource> both, const StripLayout& blocks, std::vector<float> liveOfBlock,
                                     const MixShapes& shapes) {
  return std::make_unique<FadingTrail>(std::move(both), blocks, std::move(liveOfBlock), shapes);
}

Place StandingSlit::sourceOf(double x, double y, double u, double within, bool sameSize, const Size& size) const {
  const Place way = footage.direction();
  const double to = at + within;
  // Along the footage's own pixels there is nothing to be rounded, and the picture may have another length.
  if (way.y == 0) return {way.x > 0 ? to : size.width - to, y};
  if (way.x == 0) return {x, way.y > 0 ? to : size.height - to};
  if (!sameSize) return {x, y};
  return {x + way.x * (to - u), y + way.y * (to - u)};
}

std::unique_ptr<Mixture> slitMixture(SlitPicture what, const StripLayout& blocks,
                                     const std::optional<StandingSlit>& standing, const MixShapes& shapes) {
  return std::make_unique<SlitMixture>(std::move(what), blocks, standing, shapes);
}

}  // namespace molten
