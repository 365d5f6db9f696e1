#include "core/stages/insert.h"

#include <algorithm>
#include <cmath>
#include <cstdio>

#include "core/picture/blank.h"
#include "core/stages/insert_place.h"
#include "core/stages/material.h"
#include "core/stages/mixing.h"

namespace molten {
namespace {

const InsertParameters& of() {
  return insertParameters();
}

/// Its lengths in time are written with three decimals of a second.
Rational secondsOf(double seconds) {
  return Rational::near(seconds);
}

VideoDescription laidIn(const Stage& stage, const VideoDescription& in) {
  VideoDescription out = in;
  // What is laid in need not repeat with the picture.
  if (of().shows(stage.values) == InsertShows::Title || !of().source(stage.values).empty()) out.endless = false;
  return out;
}

class OneLaid : public Mixture {
 public:
  /// `own`: what is laid, where it is none of the sources.
  OneLaid(std::vector<MixSource> sources, const Picture& own, Laying laying, const MixShapes& shapes)
      : sources_(std::move(sources)), own_(own), laying_(std::move(laying)), shapes_(shapes) {}
  const std::vector<MixSource>& sources() const override { return sources_; }
  void add(std::size_t, std::span<const Picture> pictures) override {
    pictures_.insert(pictures_.end(), pictures.begin(), pictures.end());
  }
  Picture finish() override {
    const Picture over = pictures_.size() > 1 ? pictures_[1] : own_;
    return over ? laidOver(pictures_[0], over, laying_, shapes_.scale, shapes_.out) : narrowed(pictures_[0], shapes_.out);
  }

 private:
  std::vector<MixSource> sources_;
  Picture own_;
  Laying laying_;
  MixShapes shapes_;
  std::vector<Picture> pictures_;
};

class InsertMap : public MovingMap, public Mixing {
 public:
  InsertMap(const Stage& stage, const VideoDescription& in, const Surroundings& around)
      : MovingMap(laidIn(stage, in)), in_(in), moving_(stage, in, around) {
    material_ = around.material;
    const auto own = stage.kind->ownSource(stage.values);
    if (!own || !material_) return;
    source_ = material_->source(own->use, own->between, SourceStays::Open);
    if (!source_) return;
    made_ = videoAt(stage.branch, stage.branch.size(), source_->made);
    first_ = secondsOf(of().from(stage.values)) * made_.rate;
    const double to = of().to(stage.values);
    const Rational end = to > 0 ? std::min(secondsOf(to) * made_.rate, made_.pictures()) : made_.pictures();
    pictures_ = std::max(Rational(0), end - first_);
  }

  PastTheEnds pastTheEnds() const override { return PastTheEnds::StandStill; }
  const Mixing* mixing() const override { return this; }
  bool sharesSources() const override { return false; }

  std::vector<MixWay> ways() const override {
    std::vector<MixWay> all{MixWay{}};
    if (source_) all.push_back({moving_.stage().branch, std::nullopt, source_});
    return all;
  }
  std::vector<MixSource> sources(const Moment& moment) const override {
    std::vector<MixSource> all{{0, moment}};
    if (!source_) return all;
    const Laying laying = layingOf(moving_.at(moment), in_, wholeOf(made_));
    if (const auto own = ownMoment(moment); own && laying.opacity > 0) all.push_back({1, *own});
    return all;
  }
  std::unique_ptr<Mixture> mixture(const Moment& moment, const MixShapes& shapes) const override {
    auto all = sources(moment);
    const StageValues values = moving_.at(moment);
    if (source_) return std::make_unique<OneLaid>(std::move(all), Picture(), layingOf(values, in_, wholeOf(made_)), shapes);
    const auto look = lookOf(values, in_);
    if (!look || !material_ || !lasts(moment)) return std::make_unique<OneLaid>(std::move(all), Picture(), Laying{}, shapes);
    const auto title = material_->title(*look, shapes.scale);
    const OwnPicture own{title->full, 1, title->left, title->top, title->right, title->bottom};
    Laying laying = layingOf(values, in_, own);
    return std::make_unique<OneLaid>(std::move(all), laying.opacity > 0 ? title->picture : Picture(), std::move(laying), shapes);
  }

 private:
  /// Whether a title is there at a moment.
  bool lasts(const Moment& moment) const {
    const StageValues& values = moving_.stage().values;
    const double since = moment.seconds(in_.rate) - of().startsAt(values), to = of().to(values), unseen = samePosition / in_.rate.toDouble();
    return since > -unseen && (to == 0 || since < to - unseen);
  }
  /// What is seen of the source at a moment of the picture; none: nothing.
  std::optional<Moment> ownMoment(const Moment& moment) const {
    const StageValues& values = moving_.stage().values;
    const Rational ratio = made_.rate / in_.rate;
    Rational exact = moment.exact() * ratio - secondsOf(of().startsAt(values)) * made_.rate;
    double off = moment.off * ratio.toDouble();
    if (!(pictures_ > Rational(0))) return std::nullopt;
    const double position = exact.toDouble() + off, length = pictures_.toDouble(), last = std::max(0.0, std::ceil(length - samePosition) - 1);
    if (position < -samePosition || position > length - samePosition) {
      const bool round = made_.endless && of().to(values) == 0;
      const PastTheEnds ends = round ? PastTheEnds::GoRound : of().ends(values);
      if (ends == PastTheEnds::Transparent) return std::nullopt;
      if (ends == PastTheEnds::GoRound) {
        const auto rounds = static_cast<std::int64_t>(std::floor((position + samePosition) / length));
        exact = exact - pictures_ * Rational(rounds);
      } else {
        const Moment at = *foldMoment(Moment::ofPictures(exact, off), static_cast<std::int64_t>(last) + 1, ends);
        exact = at.exact(), off = at.off;
      }
    }
    // Its last picture lasts until its end.
    const double reached = exact.toDouble() + off;
    if (!made_.endless && reached > last) exact = Rational(static_cast<std::int64_t>(last)), off = 0;
    if (reached < 0) exact = 0, off = 0;
    return Moment::ofPictures(exact + first_, off);
  }

  VideoDescription in_;
  MovingValues moving_;
  std::shared_ptr<Material> material_;
  std::shared_ptr<const SourceVideo> source_;
  VideoDescription made_;        ///< what leaves the source's own chain
  Rational first_, pictures_ = 0;  ///< of it: where it begins, and how long it lasts, in its pictures
};

class Insert : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "insert",
        "Insert",
        "Lays a second source over the picture: a clip, with a key, a still, or a title.",
        of().list.described(),
        {{"lay-into-clear-pictures", "Lay into clear pictures", "Source", "In their own chain what is laid is bent by itself; the picture below stays as it is.", StageAction::Wants::Nothing},
         {"pick-the-key-colour", "Pick the key colour", "Key", "Click the colour that is to be cut out.", StageAction::Wants::Colour}},
        {{"Frames", true}, {"Lines", true}, {"Trims", true}, {"Matte", true}, {"Outline and shade", true}, {"Size", true}, {"Crop", true}, {"Laid over", true}, {"Key", false, 1}, {"Left out", true}},
        true};
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings& around) const override {
    return std::make_unique<InsertMap>(stage, incoming, around);
  }

  std::string summary(const StageValues& values, const VideoDescription&) const override {
    const bool title = of().shows(values) == InsertShows::Title;
    const std::string& path = of().source(values);
    if (!title && path.empty()) return "nothing yet";
    std::string name = namesBlank(path) ? "blank" : path.substr(path.find_last_of('/') + 1);
    if (title) name = "“" + of().text(values).substr(0, of().text(values).find('\n')) + "”";
    if (const double starts = of().startsAt(values); starts != 0) name += " at " + secondsText(starts, 1);
    return name;
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription&, Rational) const override {
    std::vector<StageNote> found;
    if (!ownSource(values) || of().key(values) == KeyBy::Nothing) return found;
    if (of().view(values) != LaidView::Result)
      found.push_back({"Key", std::string("The ") + (of().view(values) == LaidView::Matte ? "matte" : "figure") +
                                  " is what a render shows too."});
    return found;
  }

  std::optional<OwnSource> ownSource(const StageValues& values) const override {
    const std::string& path = of().source(values);
    if (path.empty() || of().shows(values) == InsertShows::Title) return std::nullopt;
    const double fps = of().fps(values);
    return OwnSource{{path, fps > 0 ? std::optional(Rational::near(fps)) : std::nullopt}, of().between(values)};
  }
  StageValues withOwnSource(StageValues values, const OwnSource& source) const override {
    of().source.set(values, source.use.path);
    of().fps.set(values, source.use.rate.value_or(Rational(0)).toDouble());
    of().between.set(values, source.between);
    return values;
  }

  Stage shownForColour(const Stage& stage, std::string_view) const override {
    // All of the source as it is.
    Stage shown = stage;
    of().key.set(shown.values, KeyBy::Nothing);
    of().laid.set(shown.values, LaidHow::Layers);
    of().leftOut.set(shown.values, {});
    shown.keys.erase(of().opacity.index()), shown.drives.erase(of().opacity.index());
    of().opacity.set(shown.values, 1);
    return shown;
  }
  StageValues withColour(StageValues values, std::string_view, Colour colour) const override {
    of().keyColour.set(values, colour);
    if (of().key(values) == KeyBy::Nothing) of().key.set(values, KeyBy::Colour);
    return values;
  }

  /// It becomes the first stage of the chain of a clear picture, which is laid in its place: what comes after it there
  /// changes it alone.
  Stage acted(const Stage& stage, std::string_view, const VideoDescription& in) const override {
    // There it is already.
    if (const auto own = ownSource(stage.values); own && namesBlank(own->use.path)) return stage;
    Stage outer = newStage(*stage.kind), inner = stage;
    outer.on = stage.on, outer.name = stage.name;
    // Of square pixels, and of the same shape.
    const auto wide = static_cast<int>(std::lround(in.size.width * in.pixelAspect.toDouble()));
    of().source.set(outer.values, blankPath({{std::max(1, wide), in.size.height}, in.rate, in.seconds()}));
    // How it meets the picture below is the outer one's.
    of().laid.set(outer.values, of().laid(stage.values));
    of().belowWhite.set(outer.values, of().belowWhite(stage.values));
    of().winner.set(outer.values, of().winner(stage.values));
    of().reckoned.set(outer.values, of().reckoned(stage.values));
    of().laid.set(inner.values, LaidHow::Layers);
    inner.on = true;
    inner.name.clear();
    if (ownSource(stage.values) || of().shows(stage.values) == InsertShows::Title) outer.branch.push_back(std::move(inner));
    return outer;
  }

  std::optional<TitleLook> title(const StageValues& values, const VideoDescription& in) const override { return lookOf(values, in); }
  std::vector<Place> corners(const StageValues& values, const VideoDescription& in, const OwnPicture& own) const override {
    const Laying laying = layingOf(values, in, own);
    if (laying.opacity <= 0) return {};
    const Affine back = laying.way.inverse();
    std::vector<Place> found;
    // As much as is left when it is cropped.
    const double left = std::max(own.left, laying.left), right = std::min(own.right, laying.right),
                 top = std::max(own.top, laying.top), bottom = std::min(own.bottom, laying.bottom);
    for (const auto& [x, y] : {std::pair{left, top}, {right, top}, {right, bottom}, {left, bottom}})
      found.push_back({back.x(x, y) / in.size.width, back.y(x, y) / in.size.height});
    return found;
  }

  std::vector<StageHandle> handles(const StageValues& values, const VideoDescription& in) const override {
    if (!ownSource(values) && of().shows(values) != InsertShows::Title) return {};
    return {{of().at(values), std::nullopt, "at", std::nullopt}, {cornerOf(values, in), std::nullopt, "scale, turn", std::nullopt}};
  }
  StageValues withHandle(StageValues values, std::size_t handle, Place place, const VideoDescription& in) const override {
    if (handle == 0) {
      of().at.set(values, place);
      return values;
    }
    const Place at = of().at(values);
    const double x = (place.x - at.x) * in.size.width * in.pixelAspect.toDouble(), y = (place.y - at.y) * in.size.height;
    const double far = std::hypot(x, y) / (handleAt * in.size.height);
    of().scale.set(values, std::clamp(far, 0.01, 100.0));
    if (far > 0) {
      // The turn nearest to the one that it has, so that it goes on from round to round.
      const double turn = std::atan2(y, x) * 180 / std::acos(-1.0), was = of().turn(values);
      of().turn.set(values, std::clamp(turn + 360 * std::round((was - turn) / 360), -3600.0, 3600.0));
    }
    return values;
  }

 private:
  /// The second handle stands so far from the first, in picture heights, at a scale of 100 %.
  static constexpr double handleAt = 0.4;
  static Place cornerOf(const StageValues& values, const VideoDescription& in) {
    const double turn = of().turn(values) * std::acos(-1.0) / 180, far = of().scale(values) * handleAt * in.size.height;
    const Place at = of().at(values);
    return {at.x + std::cos(turn) * far / (in.size.width * in.pixelAspect.toDouble()), at.y + std::sin(turn) * far / in.size.height};
  }
};

}  // namespace

const StageKind& insert() {
  static const Insert kind;
  return kind;
}

}  // namespace molten
