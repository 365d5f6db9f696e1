#pragma once
// What the Dials and the key lanes are about: the selected stage, or the selected sound.

#include <functional>
#include <optional>

#include "app/session/session.h"

namespace molten {

struct InHand {
  const Stage* stage = nullptr;        ///< of the session's project
  std::optional<SoundName> sound;      ///< if it is one
  std::size_t place = 0;               ///< in the chain; of a sound: after all of it
  Rational at;                         ///< the playhead on what leaves it, in seconds
  /// An edit of it: `change` is given a project and the number of the stage there.
  using Change = std::function<Edit(const Project& project, std::size_t stage)>;
};
/// None where the footage or the output is.
std::optional<InHand> inHand(const Session& session);
Edit editInHand(const Session& session, const InHand& what, const InHand::Change& change);

}  // namespace molten
