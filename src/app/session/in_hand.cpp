#include "app/session/in_hand.h"

namespace molten {

std::optional<InHand> inHand(const Session& session) {
  const Project& project = session.project();
  if (const auto& sound = session.selectedSound())
    return InHand{&soundOf(project, *sound), sound, project.chain.size(), Rational(session.frame()) / session.piece().rate};
  if (const auto stage = session.selectedStage())
    return InHand{&project.chain[*stage], std::nullopt, *stage, session.stageMoment(*stage)};
  return std::nullopt;
}

Edit editInHand(const Session& session, const InHand& what, const InHand::Change& change) {
  return what.sound ? editSound(session.project(), *what.sound, change) : change(session.project(), what.place);
}

}  // namespace molten
