#include "core/stages/shot_row.h"

#include <algorithm>
#include <cmath>
#include <cstring>

#include "core/picture/accumulator.h"
#include "core/picture/halve.h"
#include "core/picture/lay.h"
#include "core/stages/material.h"
#include "core/stages/mixing.h"

namespace molten {
namespace {

/// What a shot's picture is laid over where it does not reach: black, or nothing where pictures may be clear.
Picture ground(const PictureShape& shape) {
  PictureShape rgb = shape;
  rgb.format = {ColourModel::Rgb, 32, 0, 0, shape.format.alpha, true};
  rgb.colour.range = AVCOL_RANGE_JPEG;
  Picture black(rgb);
  for (int p = 0; p < rgb.format.planes(); ++p)
    for (int y = 0; y < black.planeHeight(p); ++y) std::memset(black.writableRow(p, y), 0, black.rowBytes(p));
  return narrowed(black, shape);
}

bool sameFrame(const PictureShape& a, const PictureShape& b) {
  return a.size.width == b.size.width && a.size.height == b.size.height && a.pixelAspect == b.pixelAspect;
}

/// The same numbers for the same colours.
bool sameColour(const PictureShape& a, const PictureShape& b) {
  return a.format.model == b.format.model && a.format.alpha == b.format.alpha && a.colour.primaries == b.colour.primaries &&
         a.colour.transfer == b.colour.transfer;
}

struct Conforming {
  Size own;               ///< of the shot's pictures, at their full size
  Rational pixelAspect;
  bool fills = false;
};

class InRow : public Mixture {
 public:
  /// `conforming`: one a source. `share`: of the second one.
  InRow(std::vector<MixSource> sources, std::vector<Conforming> conforming, double share, Light light, VideoDescription row,
        const MixShapes& shapes)
      : sources_(std::move(sources)), conforming_(std::move(conforming)), share_(share), light_(light), row_(std::move(row)), shapes_(shapes) {}
  const std::vector<MixSource>& sources() const override { return sources_; }
  void add(std::size_t first, std::span<const Picture> pictures) override {
    const bool two = sources_.size() > 1;
    for (std::size_t i = 0; i < pictures.size(); ++i)
      conformed_.push_back(conformed(pictures[i], conforming_[first + i], two ? wideShape(shapes_.out) : shapes_.out));
  }
  Picture finish() override {
    if (conformed_.empty()) return ground(shapes_.out);
    if (conformed_.size() == 1) return conformed_[0];
    const PictureShape wide = wideShape(shapes_.out);
    Accumulator both(wide, wide, {BlendMode::Mean, light_}, {static_cast<float>(1 - share_), static_cast<float>(share_)});
    both.add(0, conformed_);
    return narrowed(both.finish(), shapes_.out);
  }

 private:
  Picture conformed(const Picture& picture, const Conforming& how, const PictureShape& to) const {
    const PictureShape& shape = picture.shape();
    if (sameFrame(shape, to) && sameColour(shape, to)) return narrowed(picture, to);
    const double across = row_.size.width * row_.pixelAspect.toDouble() / (how.own.width * how.pixelAspect.toDouble());
    const double down = static_cast<double>(row_.size.height) / how.own.height;
    const double step = how.fills ? std::max(across, down) : std::min(across, down);
    Laying laying;
    laying.right = how.own.width, laying.bottom = how.own.height;
    laying.way.xx = row_.pixelAspect.toDouble() / (step * how.pixelAspect.toDouble()), laying.way.yy = 1 / step;
    laying.way.x0 = how.own.width / 2.0 - laying.way.xx * row_.size.width / 2.0;
    laying.way.y0 = how.own.height / 2.0 - laying.way.yy * row_.size.height / 2.0;
    return laidOver(ground(to), picture, laying, shapes_.scale, to);
  }

  std::vector<MixSource> sources_;
  std::vector<Conforming> conforming_;
  double share_;
  Light light_;
  VideoDescription row_;
  MixShapes shapes_;
  std::vector<Picture> conformed_;
};

VideoDescription videoOf(const ShotRow& row) {
  VideoDescription video{row.size, row.pixelAspect, row.rate, 1};
  video.setLength(row.seconds() * row.rate);
  video.between = row.between;
  return video;
}

class RowMap : public MovingMap, public Mixing {
 public:
  RowMap(std::shared_ptr<const ShotRow> row, const Surroundings& around) : MovingMap(videoOf(*row)), row_(std::move(row)) {
    if (!around.material) return;
    for (const RowShot& shot : row_->shots) {
      Made made;
      if (!shot.source.use.path.empty()) made.source = around.material->source(shot.source.use, shot.source.between, SourceStays::Known);
      if (made.source) {
        made.video = videoAt(shot.chain, shot.chain.size(), made.source->made);
        made.way = ways_.size();
        ways_.push_back({shot.chain, std::nullopt, made.source, shot.sounds});
      }
      made_.push_back(std::move(made));
    }
  }

  PastTheEnds pastTheEnds() const override { return PastTheEnds::StandStill; }
  const Mixing* mixing() const override { return this; }
  bool sharesSources() const override { return false; }
  std::vector<MixWay> ways() const override { return ways_.empty() ? std::vector<MixWay>{MixWay{}} : ways_; }

  std::vector<std::int64_t> cuts() const override {
    std::vector<std::int64_t> all;
    for (std::size_t k = 1; k < row_->shots.size(); ++k)
      if (row_->shots[k].comes == Rational(0)) all.push_back((row_->shots[k].begin * row_->rate).floor());
    return all;
  }
  std::vector<MixSource> sources(const Moment& moment) const override {
    std::vector<MixSource> all;
    for (const std::size_t shot : shotsAt(moment))
      if (shot < made_.size() && made_[shot].source) all.push_back({made_[shot].way, momentOf(shot, moment)});
    return all;
  }
  std::unique_ptr<Mixture> mixture(const Moment& moment, const MixShapes& shapes) const override {
    const RowMoment at = rowMoment(*row_, secondsOf(moment));
    std::vector<Conforming> conforming;
    for (const std::size_t shot : shotsAt(moment))
      if (shot < made_.size() && made_[shot].source)
        conforming.push_back({made_[shot].video.size, made_[shot].video.pixelAspect, row_->shots[shot].fills});
    const Light light = at.next && row_->shots[*at.next].linearLight ? Light::Linear : Light::Display;
    return std::make_unique<InRow>(sources(moment), std::move(conforming), at.share, light, outgoing(), shapes);
  }

 private:
  struct Made {
    std::shared_ptr<const SourceVideo> source;  ///< nullptr: it cannot be had
    VideoDescription video;                     ///< that leaves the shot's chain
    std::size_t way = 0;
  };
  /// What is not exact of a moment decides nothing.
  Rational secondsOf(const Moment& moment) const {
    // A moment between two pictures is of the earlier one's shot, however near it comes to the next.
    const auto off = static_cast<std::int64_t>(std::floor(moment.part() + samePosition));
    return Rational(std::max<std::int64_t>(0, moment.whole + off)) / row_->rate;
  }
  std::vector<std::size_t> shotsAt(const Moment& moment) const {
    const RowMoment at = rowMoment(*row_, secondsOf(moment));
    std::vector<std::size_t> all{at.shot};
    if (at.next && at.share > 0) all.push_back(*at.next);
    return all;
  }
  /// Of what leaves a shot's chain.
  Moment momentOf(std::size_t number, const Moment& moment) const {
    const RowShot& shot = row_->shots[number];
    const VideoDescription& video = made_[number].video;
    const Rational since = std::clamp(moment.exact() / row_->rate - shot.begin, Rational(0), shot.length);
    Rational exact = (shot.from + since) * video.rate;
    double off = moment.off * (video.rate / row_->rate).toDouble();
    const Rational length = video.pictures();
    if (exact.toDouble() + off < 0) exact = 0, off = 0;
    if (video.endless) {
      if (exact >= length) exact = exact - length * Rational((exact / length).floor());
    } else if (exact.toDouble() + off > static_cast<double>(video.length - 1)) {
      // Its last picture lasts until its end.
      exact = video.length - 1, off = 0;
    }
    return Moment::ofPictures(exact, off);
  }

  std::shared_ptr<const ShotRow> row_;
  std::vector<Made> made_;
  std::vector<MixWay> ways_;
};

class Row : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {"shots", "Shots", "Shots in a row.", {}, {}};
    return described;
  }
  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription&, const Surroundings& around) const override {
    return std::make_unique<RowMap>(stage.shots.row, around);
  }
  std::string summary(const StageValues&, const VideoDescription&) const override { return {}; }
  std::vector<StageNote> notes(const StageValues&, const VideoDescription&, Rational) const override { return {}; }
};

}  // namespace

bool operator==(const SharedRow& a, const SharedRow& b) {
  return a.row == b.row || (a.row && b.row && *a.row == *b.row);
}

RowMoment rowMoment(const ShotRow& row, Rational seconds) {
  const auto ends = [](Rational at, const RowShot& shot) { return at < shot.end(); };
  const auto found = std::upper_bound(row.shots.begin(), row.shots.end(), seconds, ends);
  const std::size_t k = std::min(static_cast<std::size_t>(found - row.shots.begin()), row.shots.size() - 1);
  RowMoment moment{k};
  if (k + 1 < row.shots.size() && row.shots[k + 1].comes > Rational(0) && seconds >= row.shots[k + 1].begin) {
    moment.next = k + 1;
    moment.share = ((seconds - row.shots[k + 1].begin) / row.shots[k + 1].comes).toDouble();
  }
  return moment;
}

Stage shotRow(std::shared_ptr<const ShotRow> row) {
  static const Row kind;
  Stage stage = newStage(kind);
  stage.shots.row = std::move(row);
  return stage;
}

}  // namespace molten
