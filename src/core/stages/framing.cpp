#include "core/stages/framing.h"

#include <algorithm>
#include <cmath>

#include "core/number_text.h"
#include "core/stages/frame_work.h"
#include "core/stages/framing_view.h"

namespace molten {
namespace {

const FramingParameters& of() {
  return framingParameters();
}

Beyond beyondOf(FrameEdges edges) {
  switch (edges) {
    case FrameEdges::Mirror:
      return Beyond::Mirror;
    case FrameEdges::Transparent:
      return Beyond::Clear;
    default:
      return Beyond::StandStill;
  }
}

class FramingChange : public FrameChange {
 public:
  FramingChange(std::vector<Affine> ways, Beyond beyond, Size in, Size out)
      : ways_(std::move(ways)), beyond_(beyond), in_(in), out_(out) {}

  Picture made(const Picture& picture, const PictureShape& to) const override {
    // A smaller picture stands for the same places.
    const Size has = picture.shape().size;
    const double inX = static_cast<double>(has.width) / in_.width, inY = static_cast<double>(has.height) / in_.height;
    const double outX = static_cast<double>(out_.width) / to.size.width,
                 outY = static_cast<double>(out_.height) / to.size.height;
    std::vector<Affine> ways = ways_;
    for (Affine& way : ways) {
      way.xx *= outX * inX, way.xy *= outY * inX, way.x0 *= inX;
      way.yx *= outX * inY, way.yy *= outY * inY, way.y0 *= inY;
    }
    return resampled(picture, ways, beyond_, to);
  }

 private:
  std::vector<Affine> ways_;
  Beyond beyond_;
  Size in_, out_;
};

class FramingMap : public MovingMap, public FrameWork, public Warp {
 public:
  explicit FramingMap(const std::shared_ptr<const FramingView>& view) : MovingMap(view->outgoing()), view_(view) {}

  PastTheEnds pastTheEnds() const override { return PastTheEnds::StandStill; }
  const FrameWork* frameWork() const override { return this; }
  const Warp* warp() const override { return this; }
  bool alike() const override { return !view_->varies(); }
  bool mayBeClear() const override { return edges() == FrameEdges::Transparent; }
  std::shared_ptr<const FrameChange> changeAt(const Moment& moment) const override {
    const auto ways = view_->waysAt(moment.pictures());
    const bool same = view_->incoming().size == view_->outgoing().size;
    if (same && std::all_of(ways.begin(), ways.end(), [](const Affine& way) { return way == Affine{}; })) return nullptr;
    return std::make_shared<const FramingChange>(ways, beyondOf(edges()), view_->incoming().size,
                                                 view_->outgoing().size);
  }
  Affine toIncoming(const Moment& moment) const override {
    const Size in = view_->incoming().size, out = view_->outgoing().size;
    Affine way = view_->wayAt(moment.pictures());
    way.xx *= static_cast<double>(out.width) / in.width, way.xy *= static_cast<double>(out.height) / in.width;
    way.yx *= static_cast<double>(out.width) / in.height, way.yy *= static_cast<double>(out.height) / in.height;
    way.x0 /= in.width, way.y0 /= in.height;
    return way;
  }

 private:
  FrameEdges edges() const { return of().edges(view_->values().stage().values); }

  std::shared_ptr<const FramingView> view_;
};

class Framing : public StageKind {
 public:
  const StageDescription& description() const override {
    static const StageDescription described = {
        "framing",
        "Framing",
        "Which part of the picture is seen, how large and how it lies; with a shake, and the blur of its moves.",
        of().list.described(),
        {},
        {{"Frame", false, 1}, {"Edges", false, 1}, {"Size and shape", true, 1}, {"Shake", true}, {"Blur of its moves", true}}};
    return described;
  }

  std::unique_ptr<TimeMap> timeMap(const Stage& stage, const VideoDescription& incoming,
                                   const Surroundings& around) const override {
    return std::make_unique<FramingMap>(std::make_shared<const FramingView>(stage, incoming, around));
  }

  std::string summary(const StageValues& values, const VideoDescription& in) const override {
    std::string words;
    const auto add = [&](const std::string& more) { words += (words.empty() ? "" : ", ") + more; };
    const auto label = [&](std::size_t i) { return valueLabel(description().parameters[i], values[i]); };
    if (of().zoom(values) != 1) add("zoom " + label(of().zoom.index()));
    if (of().turn(values) != 0) add("turned " + label(of().turn.index()));
    if (of().mirror(values) != Mirrored::None) add("mirrored");
    if (of().shake(values) > 0) add("shake " + label(of().shake.index()));
    if (const Size size = framed(values, in).size; !(size == in.size))
      add(std::to_string(size.width) + "×" + std::to_string(size.height));
    return words.empty() ? "all of the picture" : words;
  }

  std::vector<StageNote> notes(const StageValues& values, const VideoDescription& in, Rational) const override {
    std::vector<StageNote> found;
    Stage stage = newStage(*this);
    stage.values = values;
    const FramingView view(stage, in, {});
    if (const double more = view.enlargedAt(0); more > 1 + 1e-9)
      found.push_back({"Edges", "Enlarged by " + fixedText((more - 1) * 100, 1) + " %, so that no edge is seen."});
    const double step = 1 / std::sqrt(std::abs(view.wayAt(0).determinant()));
    if (step > 1.0001) found.push_back({"Frame", "Each pixel that enters is " + shortText(step, 2) + " pixels wide here."});
    return found;
  }

  std::vector<StageHandle> handles(const StageValues& values, const VideoDescription&) const override {
    return {{of().place(values), std::nullopt, "held", std::nullopt}};
  }
  StageValues withHandle(StageValues values, std::size_t, Place place, const VideoDescription&) const override {
    of().place.set(values, {std::clamp(place.x, 0.0, 1.0), std::clamp(place.y, 0.0, 1.0)});
    return values;
  }
  StageValues withFrameAt(StageValues values, Place middle, double position, const VideoDescription& in) const override {
    Stage stage = newStage(*this);
    stage.values = std::move(values);
    // Where the middle lies goes evenly with the held place: what three of them give says all.
    const auto middleOf = [&](Place held) {
      of().place.set(stage.values, held);
      const FramingView view(stage, in, {});
      const Size out = view.outgoing().size;
      const Affine way = view.wayAt(position);
      return Place{way.x(out.width / 2.0, out.height / 2.0) / in.size.width,
                   way.y(out.width / 2.0, out.height / 2.0) / in.size.height};
    };
    const Place held = of().place(stage.values);
    const Place from = middleOf({0, 0}), across = middleOf({1, 0}), down = middleOf({0, 1});
    Affine way{across.x - from.x, down.x - from.x, from.x, across.y - from.y, down.y - from.y, from.y};
    Place to = held;
    // Where it has no room to move one way, it still has it the other.
    constexpr double none = 1e-9;
    if (std::abs(way.determinant()) > none) {
      const Affine back = way.inverse();
      to = {back.x(middle.x, middle.y), back.y(middle.x, middle.y)};
    } else if (std::abs(way.xx) > none) {
      to.x = (middle.x - way.x0) / way.xx;
    } else if (std::abs(way.yy) > none) {
      to.y = (middle.y - way.y0) / way.yy;
    }
    of().place.set(stage.values, {std::clamp(to.x, 0.0, 1.0), std::clamp(to.y, 0.0, 1.0)});
    return stage.values;
  }
};

}  // namespace

const StageKind& framing() {
  static const Framing kind;
  return kind;
}

}  // namespace molten
