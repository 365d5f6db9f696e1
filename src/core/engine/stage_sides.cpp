#include "core/engine/stage_sides.h"

#include <algorithm>

namespace molten {
namespace {

/// As large as finds room, with the pixels' shape.
Size within(Size room, const VideoDescription& video) {
  const double wide = video.size.width * video.pixelAspect.toDouble(), tall = video.size.height;
  const double scale = std::min({1.0, room.width / wide, room.height / tall});
  return {std::max(1, static_cast<int>(wide * scale + 0.5)), std::max(1, static_cast<int>(tall * scale + 0.5))};
}

}  // namespace

bool SidesMaker::has(const Side& side, const Chain& stages, const Over& over, const Moment& moment) const {
  return side.picture && side.settings == over.settings && side.source == over.source && side.moment == moment && side.stages == stages;
}

Status SidesMaker::make(Side& side, const Chain& stages, const Over& over, const Moment& moment, std::stop_token stop) {
  if (has(side, stages, over, moment)) return {};
  if (!side.plan || !(side.settings == over.settings && side.source == over.source && side.stages == stages)) {
    PicturePlan next = evaluator_.plan(stages, over.settings, side.plan && side.source == over.source ? &*side.plan : nullptr, over.source);
    side.plan.emplace(std::move(next));
  }
  side.stages = stages, side.settings = over.settings, side.source = over.source, side.moment = moment;
  side.picture.reset(), side.brightness.reset(), side.room = {0, 0};
  auto picture = evaluator_.picture(*side.plan, moment, stop);
  if (!picture) return picture.error();
  side.picture = std::move(*picture);
  return {};
}

Result<std::optional<StageSides>> SidesMaker::of(const Chain& shown, const SidesOf& asked, const PlanSettings& settings,
                                                 const Picture& whole, bool atHand, std::stop_token stop) {
  const Chain& chain = asked.shot ? asked.shot->chain : shown;
  const auto begin = chain.begin(), at = begin + static_cast<std::ptrdiff_t>(asked.stage);
  const Chain upstream(begin, at);
  // While a hand moves pictures may be smaller than the one that was looked at before: it tells the same.
  Over own{settings, nullptr};
  if (asked.shot) {
    own.source = evaluator_.source(asked.shot->source);
    if (!own.source) return std::optional<StageSides>();
    own.settings.between = asked.shot->source.between;
    own.settings.sounds = asked.shot->sounds;
  }
  if (atHand) own.settings.scale = entering_.settings.scale;
  if (atHand && !has(entering_, upstream, own, asked.entering)) return std::optional<StageSides>();
  // What leaves the last stage is what leaves the chain.
  const bool last = !asked.shot && std::none_of(at + 1, chain.end(), [](const Stage& stage) { return stage.on; });
  const Chain through(begin, at + 1);
  if (asked.brightness && !last && atHand && !has(leaving_, through, own, asked.leaving))
    return std::optional<StageSides>();
  if (const Status made = make(entering_, upstream, own, asked.entering, stop); !made) return made.error();
  StageSides sides;
  if (asked.room.width > 0 && !(entering_.room == asked.room)) {
    auto small = toScreen(converter_, *entering_.picture, within(asked.room, entering_.plan->outgoing()), Scaling::Screen);
    if (!small) return small.error();
    entering_.small = std::move(*small), entering_.room = asked.room;
  }
  if (asked.room.width > 0) sides.entering = entering_.small;
  if (!asked.brightness) return std::optional(std::move(sides));
  if (!entering_.brightness) entering_.brightness = brightnessOf(*entering_.picture);
  sides.before = entering_.brightness;
  if (last) {
    sides.after = brightnessOf(whole);
    return std::optional(std::move(sides));
  }
  if (const Status made = make(leaving_, through, own, asked.leaving, stop); !made) return made.error();
  if (!leaving_.brightness) leaving_.brightness = brightnessOf(*leaving_.picture);
  sides.after = leaving_.brightness;
  return std::optional(std::move(sides));
}

}  // namespace molten
