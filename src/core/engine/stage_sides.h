#pragma once
// The pictures on both sides of a stage: what enters it, and what leaves it.

#include <optional>

#include "core/engine/evaluator.h"
#include "core/picture/brightness.h"
#include "core/picture/convert.h"
#include "core/stages/source_use.h"

namespace molten {

/// A shot of a reel, whose chain is not the one that is shown.
struct ShotShown {
  Chain chain;
  OwnSource source;
  FollowedSounds sounds;
  friend bool operator==(const ShotShown&, const ShotShown&) = default;
};

/// What is asked about a stage.
struct SidesOf {
  std::size_t stage = 0;       ///< of the chain; it is on
  Moment entering, leaving;    ///< which pictures: of the video that enters, and of the one that leaves
  Size room{0, 0};             ///< of a small picture of what enters, in the screen's pixels; 0: none is wanted
  bool brightness = false;     ///< whether it is wanted, of both
  std::optional<ShotShown> shot = std::nullopt;  ///< whose chain it stands in; none: the one that is shown
  friend bool operator==(const SidesOf&, const SidesOf&) = default;
};

struct StageSides {
  ScreenImage entering;  ///< at most as large as the room
  std::optional<Brightness> before, after;
};

/// Makes them, and keeps them: while a hand moves a stage what enters it stays the same.
class SidesMaker {
 public:
  explicit SidesMaker(Evaluator& evaluator) : evaluator_(evaluator) {}

  /// `whole`: the picture that leaves the chain, if that is the stage's. `settings`: those that it was made with. `atHand`: only what needs no
  /// other picture; nothing if that will not do.
  Result<std::optional<StageSides>> of(const Chain& chain, const SidesOf& asked, const PlanSettings& settings,
                                       const Picture& whole, bool atHand, std::stop_token stop);

 private:
  /// Of the picture that leaves some stages.
  struct Side {
    Chain stages;
    PlanSettings settings;
    std::shared_ptr<const SourceVideo> source;
    Moment moment;
    std::optional<PicturePlan> plan;
    std::optional<Picture> picture;
    ScreenImage small;
    Size room{0, 0};
    std::optional<Brightness> brightness;
  };
  /// What a side is of, but for its stages.
  struct Over {
    PlanSettings settings;
    std::shared_ptr<const SourceVideo> source;  ///< nullptr: the footage
  };
  bool has(const Side& side, const Chain& stages, const Over& over, const Moment& moment) const;
  Status make(Side& side, const Chain& stages, const Over& over, const Moment& moment, std::stop_token stop);

  Evaluator& evaluator_;
  Side entering_, leaving_;
  Converter converter_;
};

}  // namespace molten
