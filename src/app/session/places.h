#pragma once
// Places of the picture that is shown, and of those inside the chain.

#include "app/session/session.h"

namespace molten {

/// A place of the final picture at the playhead, in what leaves a stage: there its handles stand.
inline Place intoStage(const Session& session, std::size_t stage, Place place) {
  return session.reading()->placeInto(session.placeOn(stage) + 1, place, session.piece().moment(session.frame()));
}
/// And back.
inline Place outOfStage(const Session& session, std::size_t stage, Place place) {
  return session.reading()->placeOutOf(session.placeOn(stage) + 1, place, session.piece().moment(session.frame()));
}

}  // namespace molten
