#include "app/sound/sound_hands.h"

#include <QMenu>
#include <algorithm>
#include <cmath>

#include "app/chart/deck.h"
#include "app/chart/pace_on_chart.h"
#include "app/commands/commands.h"
#include "app/sound/hearing.h"
#include "app/sound/sound_lanes.h"
#include "core/time/pace_on_moments.h"

namespace molten {
namespace {

/// Of the turns at onsets, in seconds.
const Rational turnGlide(8, 100);

std::size_t parameterOf(const Stage& sound, const char* id) {
  return parameterIndex(sound.kind->description(), id);
}

Rational exact(double seconds) {
  // To the sample.
  return Rational(std::llround(seconds * soundRate), soundRate);
}

}  // namespace

SoundHands::SoundHands(Session& session, HeardShot& heard, Hearing& hearing, PaceOnChart& pace, Deck& deck, QObject* parent)
    : QObject(parent), session_(session), heard_(heard), hearing_(hearing), pace_(pace), deck_(deck) {
  connect(&session_, &Session::changed, this, &SoundHands::refresh);
  connect(&heard_, &HeardShot::changed, this, &SoundHands::refresh);
  connect(&heard_, &HeardShot::onsetsChanged, this, &SoundHands::refresh);
  connect(&session_, &Session::frameChanged, this, [this] {
    deck_.sounds()->setPlayhead(static_cast<double>(session_.frame()) / session_.piece().rate.toDouble());
  });
  connectLanes();
}

void SoundHands::connectLanes() {
  SoundLanes* const lanes = deck_.sounds();
  connect(lanes, &SoundLanes::relaid, this, [this](std::size_t sound, const LaidSound& laid, const QString& name, const QString& key) {
    if (sound < session_.project().sounds.size())
      session_.apply(relaySound(session_.project(), sound, laid, name.toStdString(), "sound " + std::to_string(sound) + key.toStdString()));
  });
  connect(lanes, &SoundLanes::gained, this, [this](const SoundName& which, double decibels) {
    session_.apply(setSoundValue(session_.project(), which, parameterOf(soundOf(session_.project(), which), "gain"), decibels));
  });
  connect(lanes, &SoundLanes::muted, this, [this](const SoundName& which, bool on) { setToggle(which, "mute", on); });
  connect(lanes, &SoundLanes::madeAlone, this, [this](const SoundName& which, bool on) { setToggle(which, "alone", on); });
  connect(lanes, &SoundLanes::gestureEnded, &session_.document(), &Document::endGesture);
  connect(lanes, &SoundLanes::scrubbed, this, [this](double seconds) {
    session_.goTo(std::llround(seconds * session_.piece().rate.toDouble()));
  });
  connect(lanes, &SoundLanes::dropped, this, &SoundHands::layIn);
  connect(lanes, &SoundLanes::menuWanted, this, &SoundHands::fillLaneMenu);
}

void SoundHands::setToggle(const SoundName& which, const char* parameter, bool on) {
  session_.apply(setSoundValue(session_.project(), which, parameterOf(soundOf(session_.project(), which), parameter), on));
  session_.document().endGesture();
}

void SoundHands::layIn(const QStringList& files, double at) {
  std::vector<std::string> paths;
  for (const QString& file : files) paths.push_back(file.toStdString());
  session_.apply(layInSounds(session_.project(), paths, at));
}

void SoundHands::layInHere(const QStringList& files) {
  layIn(files, static_cast<double>(session_.frame()) / session_.piece().rate.toDouble());
}

std::vector<double> SoundHands::onsetsOnPiece(const SoundName& which) const {
  std::vector<double> moments;
  const auto& heard = heard_.heard();
  if (!heard || !which || *which >= heard->laid.size() || !heard->laid[*which].feed) return moments;
  const PlacedSound& placed = heard->laid[*which].placed;
  for (const std::int64_t onset : heard_.onsetsOf(heard->laid[*which].feed->path())) {
    // Once in each round.
    for (std::int64_t at = onset - placed.from; at < placed.length; at += placed.round) {
      if (at >= 0) moments.push_back(static_cast<double>(placed.at + at) / soundRate);
      if (placed.round <= 0) break;
    }
  }
  std::sort(moments.begin(), moments.end());
  return moments;
}

std::vector<Rational> SoundHands::onsets(const std::optional<SoundName>& which) const {
  std::vector<double> moments;
  for (std::size_t i = 0; i < session_.project().sounds.size(); ++i) {
    if (which && *which != SoundName(i)) continue;
    const auto some = onsetsOnPiece(i);
    moments.insert(moments.end(), some.begin(), some.end());
  }
  std::sort(moments.begin(), moments.end());
  std::vector<Rational> exactly;
  for (const double moment : moments)
    if (moment > 0 && (exactly.empty() || exactly.back() < exact(moment))) exactly.push_back(exact(moment));
  return exactly;
}

void SoundHands::refresh() {
  SoundLanesState state;
  const auto& heard = heard_.heard();
  const Project& project = session_.project();
  const Piece& piece = session_.piece();
  state.rate = piece.rate;
  state.length = piece.seconds().toDouble();
  state.playhead = static_cast<double>(session_.frame()) / piece.rate.toDouble();
  const bool current = session_.footage() && heard && heard->laid.size() == project.sounds.size();
  const auto laneOf = [&](const SoundName& which) {
    const Stage& sound = soundOf(project, which);
    SoundLane lane;
    lane.which = which;
    lane.title = QString::fromStdString(soundTitle(project, which));
    const SoundLevel level = soundLevel(sound);
    lane.muted = level.mute, lane.alone = level.alone;
    const std::size_t gain = parameterOf(sound, "gain");
    lane.gainMoves = sound.varies(gain);
    lane.gain = std::get<double>(sound.values[gain]);
    return lane;
  };
  bool anyAlone = soundLevel(project.ownSound).alone;
  for (const Stage& sound : project.sounds) anyAlone |= soundLevel(sound).alone;
  if (current && heard->own) {
    SoundLane lane = laneOf(std::nullopt);
    lane.feed = heard->own;
    lane.curve = heard->curve;
    lane.end = state.length;
    state.lanes.push_back(std::move(lane));
  }
  for (std::size_t i = 0; current && i < project.sounds.size(); ++i) {
    SoundLane lane = laneOf(i);
    lane.laid = laidSound(project.sounds[i]);
    lane.feed = heard->laid[i].feed;
    lane.begin = lane.laid.at;
    lane.end = lane.begin + static_cast<double>(heard->laid[i].placed.length) / soundRate;
    lane.onsets = onsetsOnPiece(i);
    state.lanes.push_back(std::move(lane));
  }
  for (SoundLane& lane : state.lanes) lane.heard = !lane.muted && (!anyAlone || lane.alone);
  if (pace_.stage()) {
    const PaceCurve curve = pace_.setting().curve();
    for (std::size_t i = 1; i < curve.spans().size(); ++i) state.marks.push_back(curve.beginOf(i).toDouble());
  }
  deck_.sounds()->setState(state);
  deck_.sounds()->setView(deck_.plot()->sight().view);
}

std::optional<SoundName> SoundHands::inHand() const {
  const SoundSight& sight = deck_.sounds()->sight();
  if (sight.selected) return sight.state.lanes[*sight.selected].which;
  if (session_.project().sounds.size() == 1) return SoundName(0);
  return std::nullopt;
}

void SoundHands::fillLaneMenu(const SoundName& which, QMenu& menu) {
  if (!which) return fillChoice(which, "other-speeds", menu);
  menu.addAction(tr("Mark every onset"), this, &SoundHands::markOnsets);
  menu.addAction(tr("Back and again on these onsets"), this, &SoundHands::turnAtOnsets);
  menu.addAction(tr("Fit the span in hand to this sound"), this, &SoundHands::fitSpan);
  menu.addSeparator();
  QMenu* const found = menu.addMenu(tr("Onsets"));
  const std::pair<QString, double> degrees[] = {{tr("Only the clearest"), 0.1}, {tr("As usual"), 0.5}, {tr("Soft ones too"), 0.75}, {tr("All that could be one"), 1}};
  for (const auto& [label, sensitivity] : degrees) {
    QAction* const action = found->addAction(label, this, [this, to = sensitivity] { heard_.setSensitivity(to); });
    action->setCheckable(true);
    action->setChecked(heard_.sensitivity() == sensitivity);
  }
  QAction* const loop = menu.addAction(tr("Loop"), this, [this, which](bool on) { setToggle(which, "loop", on); });
  loop->setCheckable(true);
  loop->setChecked(laidSound(soundOf(session_.project(), which)).loop);
  menu.addAction(tr("Duplicate"), this, [this, which] { session_.apply(duplicateSound(session_.project(), *which)); });
  menu.addAction(tr("Remove"), this, [this, which] { session_.apply(removeSound(session_.project(), *which)); });
}

void SoundHands::fillChoice(const SoundName& which, const char* parameter, QMenu& menu) {
  const Stage& sound = soundOf(session_.project(), which);
  const std::size_t index = parameterOf(sound, parameter);
  const ParameterDescription& described = sound.kind->description().parameters[index];
  const auto& choices = std::get<ChoicesDescription>(described.kind).choices;
  menu.addSection(QString::fromStdString(described.label));
  for (std::size_t i = 0; i < choices.size(); ++i) {
    const ParameterValue value = i;
    QAction* const action = menu.addAction(QString::fromStdString(choices[i].label), this, [this, which, index, value] {
      session_.apply(setSoundValue(session_.project(), which, index, value));
      session_.document().endGesture();
    });
    action->setToolTip(QString::fromStdString(choices[i].help));
    action->setCheckable(true);
    action->setChecked(sound.values[index] == value);
  }
}

void SoundHands::fill(Commands& commands, QMenu* menu) {
  commands.add(menu, tr("Add sounds…"), QKeySequence("Shift+A"), [this] { emit filesWanted(); }, Needs::Footage);
  commands.add(menu, tr("To the next onset"), QKeySequence("Alt+Right"), [this] { goToOnset(1); }, Needs::Footage);
  commands.add(menu, tr("To the onset before"), QKeySequence("Alt+Left"), [this] { goToOnset(-1); }, Needs::Footage);
  commands.add(menu, tr("Mark every onset"), {}, [this] { markOnsets(); }, Needs::Footage);
  commands.add(menu, tr("Back and again on these onsets"), {}, [this] { turnAtOnsets(); }, Needs::Footage);
  commands.add(menu, tr("Fit the span in hand to the sound"), {}, [this] { fitSpan(); }, Needs::Footage);
  commands.add(menu, tr("Scrubbing is heard, or silent"), QKeySequence("Alt+S"), [this] {
    hearing_.setScrubSounds(!hearing_.scrubSounds());
    emit said(hearing_.scrubSounds() ? tr("Scrubbing is heard.") : tr("Scrubbing is silent."));
  });
}

void SoundHands::markOnsets() {
  const auto moments = onsets(inHand());
  if (moments.empty()) return emit said(tr("There are no onsets: lay a sound first, or raise the sensitivity."));
  pace_.set(markEvery(pace_.setting(), moments), tr("Mark every onset"), {});
}

void SoundHands::turnAtOnsets() {
  const auto moments = onsets(inHand());
  if (moments.size() < 2) return emit said(tr("It takes two onsets to go back and again between."));
  pace_.set(turnAtEvery(pace_.setting(), moments, turnGlide), tr("Back and again on %1 onsets").arg(moments.size()), {});
}

void SoundHands::fitSpan() {
  const auto which = inHand();
  const auto& heard = heard_.heard();
  if (!which || !*which || !heard || **which >= heard->laid.size())
    return emit said(tr("Select the sound that the span is to fit."));
  const PlacedSound& placed = heard->laid[**which].placed;
  const PaceSetting pace = pace_.setting();
  const auto& chosen = deck_.plot()->sight().span;
  const std::size_t span = chosen ? *chosen : pace.curve().spanAt(pace_.playhead());
  const PaceSetting fitted = molten::fitSpan(pace, span, Rational(placed.at, soundRate), Rational(placed.length, soundRate));
  if (fitted == pace) return emit said(tr("The span before ends after the sound begins."));
  pace_.set(fitted, tr("Span %1 fits %2").arg(span + 1).arg(QString::fromStdString(soundTitle(session_.project(), *which))), {});
}

void SoundHands::goToOnset(int direction) {
  const auto moments = onsets(inHand());
  const double rate = session_.piece().rate.toDouble();
  const std::int64_t frame = session_.frame();
  std::optional<std::int64_t> next;
  for (const Rational moment : moments) {
    const std::int64_t at = std::llround(moment.toDouble() * rate);
    if (direction > 0 && at > frame && !next) next = at;
    if (direction < 0 && at < frame) next = at;
  }
  if (next) session_.goTo(*next);
}

}  // namespace molten
