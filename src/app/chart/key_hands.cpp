#include "app/chart/key_hands.h"

#include "app/chart/deck.h"
#include "app/session/followed_shots.h"

namespace molten {

KeyHands::KeyHands(Session& session, FollowedShots& followed, Deck& chart, QObject* parent)
    : QObject(parent), session_(session), followed_(followed), chart_(chart) {
  KeyLanes* const lanes = chart_.lanes();
  connect(&session_, &Session::changed, this, &KeyHands::refresh);
  connect(&session_, &Session::selectionChanged, this, &KeyHands::refresh);
  connect(&followed_, &FollowedShots::measured, this, &KeyHands::refresh);
  connect(&session_, &Session::frameChanged, this, [this, lanes] {
    if (const auto held = inHand(session_); held && session_.footage()) lanes->setPlayhead(held->at);
  });
  connect(lanes, &KeyLanes::changed, this,
          [this](std::size_t parameter, const KeyTrack& track, const QString& name, const QString& mergeKey) {
            const auto held = inHand(session_);
            if (!held) return;
            const std::string key = mergeKey.isEmpty() ? std::string() : "lane " + mergeKey.toStdString();
            session_.apply(editInHand(session_, *held, [&](const Project& project, std::size_t stage) {
              return setKeys(project, stage, parameter, track, held->at, name.toStdString(), key);
            }));
          });
  connect(lanes, &KeyLanes::gestureEnded, &session_.document(), &Document::endGesture);
  connect(lanes, &KeyLanes::scrubbed, this, [this](Rational seconds) {
    // Where later stages move pictures, the lanes' time is not the output's: there is no one place to go to.
    const Piece& piece = session_.piece();
    const auto held = inHand(session_);
    if (held && (held->sound || held->at == piece.moment(session_.frame()).seconds(piece.chainRate)))
      session_.goTo((seconds * piece.rate + Rational(1, 2)).floor());
  });
}

void KeyHands::refresh() {
  KeyLanesState state;
  const auto held = inHand(session_);
  if (session_.footage() && held) {
    const Stage& stage = *held->stage;
    const StageDescription& described = stage.kind->description();
    state.kind = stage.kind;
    state.rate = held->sound ? session_.piece().rate : session_.piece().chainRate;
    state.playhead = held->at;
    const auto followed = followed_.of(*held);
    for (std::size_t i = 0; i < described.parameters.size(); ++i) {
      if (!stage.varies(i) || !isInUse(described, stage.values, i)) continue;
      const ParameterDescription& parameter = described.parameters[i];
      const Movement movement = movementOf(stage, i);
      const std::size_t curves = std::holds_alternative<PlaceDescription>(parameter.kind)    ? 2
                                 : std::holds_alternative<ColourDescription>(parameter.kind) ? 3
                                                                                             : 1;
      state.lanes.push_back({i, QString::fromStdString(parameter.label), curves, movement.keys, movement.drives,
                             keyValue(movement.value), movement.drives.empty() ? nullptr : followed});
    }
  }
  chart_.lanes()->setState(state);
  chart_.lanes()->setView(chart_.plot()->sight().view);
}

}  // namespace molten
