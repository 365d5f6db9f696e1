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
    if (const auto stage = session_.selectedStage(); stage && session_.footage())
      lanes->setPlayhead(session_.stageMoment(*stage));
  });
  connect(lanes, &KeyLanes::changed, this,
          [this](std::size_t parameter, const KeyTrack& track, const QString& name, const QString& mergeKey) {
            const auto stage = session_.selectedStage();
            if (!stage) return;
            const std::string key = mergeKey.isEmpty() ? std::string() : "lane " + mergeKey.toStdString();
            session_.apply(setKeys(session_.project(), *stage, parameter, track, session_.stageMoment(*stage),
                                   name.toStdString(), key));
          });
  connect(lanes, &KeyLanes::gestureEnded, &session_.document(), &Document::endGesture);
  connect(lanes, &KeyLanes::scrubbed, this, [this](Rational seconds) {
    // Where later stages move pictures, the lanes' time is not the output's: there is no one place to go to.
    const Piece& piece = session_.piece();
    const auto stage = session_.selectedStage();
    if (stage && session_.stageMoment(*stage) == piece.moment(session_.frame()).seconds(piece.chainRate))
      session_.goTo((seconds * piece.rate + Rational(1, 2)).floor());
  });
}

void KeyHands::refresh() {
  KeyLanesState state;
  const auto selected = session_.selectedStage();
  if (session_.footage() && selected) {
    const Stage& stage = session_.project().chain[*selected];
    const StageDescription& described = stage.kind->description();
    state.kind = stage.kind;
    state.rate = session_.piece().chainRate;
    state.playhead = session_.stageMoment(*selected);
    const auto followed = followed_.of(*selected);
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
