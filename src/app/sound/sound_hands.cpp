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

Rational exact(double seconds) {
  // To the sample.
  return Rational(std::llround(seconds * soundRate), soundRate);
}

/// What is heard of a reel, by the time of one of its shots.
std::shared_ptr<const SoundCurve> onShotsTime(const SoundCurve& curve, const ShotTime& time) {
  const double later = (time.begin - time.from).toDouble();
  return std::make_shared<const SoundCurve>(
      [curve, later](double seconds) { return curve.at(std::llround((seconds + later) * soundRate)) / soundRate; });
}

}  // namespace

SoundHands::SoundHands(Session& session, HeardShot& heard, Hearing& hearing, PaceOnChart& pace, Deck& deck, QObject* parent)
    : QObject(parent), session_(session), heard_(heard), hearing_(hearing), pace_(pace), deck_(deck) {
  connect(&session_, &Session::changed, this, &SoundHands::refresh);
  connect(&heard_, &HeardShot::changed, this, &SoundHands::refresh);
  connect(&heard_, &HeardShot::onsetsChanged, this, &SoundHands::refresh);
  connect(&heard_, &HeardShot::outlined, deck_.sounds(), QOverload<>::of(&QWidget::update));
  connect(&session_, &Session::frameChanged, this, [this] {
    deck_.sounds()->setPlayhead(static_cast<double>(session_.frame()) / session_.piece().rate.toDouble());
  });
  connectLanes();
}

void SoundHands::connectLanes() {
  SoundLanes* const lanes = deck_.sounds();
  connect(lanes, &SoundLanes::picked, &session_, &Session::selectSound);
  connect(lanes, &SoundLanes::relaid, this, [this](std::size_t sound, const LaidSound& laid, const QString& name, const QString& key) {
    if (sound < session_.project().sounds.size())
      session_.apply(relaySound(session_.project(), sound, laid, name.toStdString(), "sound " + std::to_string(sound) + key.toStdString()));
  });
  connect(lanes, &SoundLanes::moved, this, &SoundHands::move);
  connect(lanes, &SoundLanes::gained, this, &SoundHands::setGain);
  connect(lanes, &SoundLanes::removed, this, &SoundHands::remove);
  connect(lanes, &SoundLanes::muted, this,
          [this](const SoundName& which, bool on) { setEach(which, &SoundParameters::mute, on, on ? tr("Mute") : tr("Heard")); });
  connect(lanes, &SoundLanes::madeAlone, this,
          [this](const SoundName& which, bool on) { setEach(which, &SoundParameters::alone, on, on ? tr("Alone") : tr("Not alone")); });
  connect(lanes, &SoundLanes::gestureEnded, &session_.document(), &Document::endGesture);
  connect(lanes, &SoundLanes::scrubbed, this, [this](double seconds) {
    session_.goTo(std::llround(seconds * session_.piece().rate.toDouble()));
  });
  connect(lanes, &SoundLanes::dropped, this, &SoundHands::layIn);
  connect(lanes, &SoundLanes::menuWanted, this, &SoundHands::fillLaneMenu);
}

std::vector<SoundName> SoundHands::taken(const SoundName& which) const {
  const auto all = deck_.sounds()->selected();
  return std::find(all.begin(), all.end(), which) == all.end() ? std::vector{which} : all;
}

void SoundHands::setEach(const SoundName& which, std::size_t SoundParameters::*parameter, const ParameterValue& value, const QString& name) {
  const auto all = taken(which);
  session_.apply(editSounds(session_.project(), all, tr("%1 for %2 sounds").arg(name).arg(all.size()).toStdString(),
                            [&](const Project& project, const SoundName& one) {
                              return setSoundValue(project, one, soundParameters(soundOf(project, one)).*parameter, value);
                            }));
  session_.document().endGesture();
}

void SoundHands::set(const SoundName& which, std::size_t parameter, const ParameterValue& value) {
  session_.apply(setSoundValue(session_.project(), which, parameter, value));
  session_.document().endGesture();
}

/// All that are taken, by as much.
void SoundHands::setGain(const SoundName& which, double decibels) {
  const Project& project = session_.project();
  const auto gainOf = [](const Stage& sound) { return std::get<double>(sound.values[soundParameters(sound).gain]); };
  const auto all = taken(which);
  const double more = decibels - gainOf(soundOf(project, which));
  session_.apply(editSounds(project, all, tr("Gain of %1 sounds").arg(all.size()).toStdString(), [&](const Project& before, const SoundName& one) {
    const Stage& sound = soundOf(before, one);
    return setSoundValue(before, one, soundParameters(sound).gain, gainOf(sound) + more);
  }));
}

/// Likewise; the shot's own sound lies where it lies.
void SoundHands::move(std::size_t which, double at, const QString& name) {
  const Project& project = session_.project();
  if (which >= project.sounds.size()) return;
  auto all = taken(which);
  std::erase(all, SoundName());
  const double by = at - laidSound(project.sounds[which]).at;
  session_.apply(editSounds(project, all, tr("Move %1 sounds").arg(all.size()).toStdString(), [&](const Project& before, const SoundName& one) {
    LaidSound laid = laidSound(before.sounds[*one]);
    laid.at += by;
    return relaySound(before, *one, laid, name.toStdString(), "move sound " + std::to_string(*one));
  }));
}

void SoundHands::remove() {
  auto all = deck_.sounds()->selected();
  std::erase(all, SoundName());
  // From the last on, so that the others keep their numbers meanwhile.
  std::sort(all.rbegin(), all.rend());
  if (all.empty()) return emit said(tr("Select a laid sound to remove it; the shot's own can be muted."));
  session_.apply(editSounds(session_.project(), all, tr("Remove %1 sounds").arg(all.size()).toStdString(),
                            [](const Project& before, const SoundName& one) { return removeSound(before, *one); }));
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
  if (!heard || !which || *which >= std::min(heard->laid.size(), session_.project().sounds.size()) || !heard->laid[*which].feed) return moments;
  const PlacedSound& placed = heard->laid[*which].placed;
  for (const std::int64_t onset : heard_.onsetsOf(session_.project().sounds[*which])) {
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
    const SoundSwitches switches = soundSwitches(sound);
    lane.muted = switches.mute, lane.alone = switches.alone;
    const std::size_t gain = soundParameters(sound).gain;
    lane.gainMoves = sound.varies(gain);
    lane.gain = std::get<double>(sound.values[gain]);
    return lane;
  };
  bool anyAlone = soundSwitches(project.ownSound).alone;
  for (const Stage& sound : project.sounds) anyAlone |= soundSwitches(sound).alone;
  const auto shot = session_.inReel();
  const auto own = current ? std::find_if(heard->own.begin(), heard->own.end(), [&](const Heard::Own& one) { return one.shot == (shot ? session_.shot() : 0); })
                           : std::vector<Heard::Own>::const_iterator();
  if (current && own != heard->own.end()) {
    SoundLane lane = laneOf(std::nullopt);
    lane.feed = own->feed;
    lane.curve = shot ? onShotsTime(*own->curve, shot->time) : own->curve;
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
  std::vector<double> all;
  for (const SoundLane& lane : state.lanes) all.insert(all.end(), lane.onsets.begin(), lane.onsets.end());
  std::sort(all.begin(), all.end());
  deck_.plot()->setOnsets(std::move(all));
  deck_.sounds()->setView(deck_.plot()->sight().view);
}

std::optional<SoundName> SoundHands::inHand() const {
  if (const auto all = deck_.sounds()->selected(); !all.empty()) return all.back();
  if (session_.project().sounds.size() == 1) return SoundName(0);
  return std::nullopt;
}

void SoundHands::fillLaneMenu(const SoundName& which, QMenu& menu) {
  const Stage& sound = soundOf(session_.project(), which);
  const SoundParameters parameters = soundParameters(sound);
  if (parameters.otherSpeeds) fillChoice(which, *parameters.otherSpeeds, menu);
  if (!which) return;
  menu.addAction(tr("Mark every onset"), this, &SoundHands::markOnsets);
  menu.addAction(tr("Back and again on these onsets"), this, &SoundHands::turnAtOnsets);
  menu.addAction(tr("Fit the span in hand to this sound"), this, &SoundHands::fitSpan);
  menu.addSeparator();
  QAction* const loop = menu.addAction(tr("Loop"), this, [this, which, parameter = *parameters.loop](bool on) { set(which, parameter, on); });
  loop->setCheckable(true);
  loop->setChecked(laidSound(sound).loop);
  menu.addAction(tr("Duplicate"), this, [this, which] { session_.apply(duplicateSound(session_.project(), *which)); });
  menu.addAction(tr("Remove"), QKeySequence(Qt::Key_Delete), this, &SoundHands::remove);
}

void SoundHands::fillChoice(const SoundName& which, std::size_t parameter, QMenu& menu) {
  const Stage& sound = soundOf(session_.project(), which);
  const ParameterDescription& described = sound.kind->description().parameters[parameter];
  const auto& choices = std::get<ChoicesDescription>(described.kind).choices;
  menu.addSection(QString::fromStdString(described.label));
  for (std::size_t i = 0; i < choices.size(); ++i) {
    QAction* const action =
        menu.addAction(QString::fromStdString(choices[i].label), this, [this, which, parameter, i] { set(which, parameter, i); });
    action->setToolTip(QString::fromStdString(choices[i].help));
    action->setCheckable(true);
    action->setChecked(sound.values[parameter] == ParameterValue(i));
  }
}

void SoundHands::fill(Commands& commands, QMenu* menu) {
  commands.add(menu, tr("Add sounds…"), QKeySequence("Shift+A"), [this] { emit filesWanted(); }, Needs::Footage);
  commands.add(menu, tr("To the next onset"), QKeySequence("Alt+Right"), [this] { goToOnset(1); }, Needs::Footage);
  commands.add(menu, tr("To the onset before"), QKeySequence("Alt+Left"), [this] { goToOnset(-1); }, Needs::Footage);
  commands.add(menu, tr("Mark every onset"), {}, [this] { markOnsets(); }, Needs::Footage);
  commands.add(menu, tr("Back and again on these onsets"), {}, [this] { turnAtOnsets(); }, Needs::Footage);
  commands.add(menu, tr("Fit the span in hand to the sound"), {}, [this] { fitSpan(); }, Needs::Footage);
  commands.add(menu, tr("Scrubbing is heard, or silent"), QKeySequence("Alt+G"), [this] {
    hearing_.setScrubSounds(!hearing_.scrubSounds());
    emit said(hearing_.scrubSounds() ? tr("Scrubbing is heard.") : tr("Scrubbing is silent."));
  });
}

void SoundHands::markOnsets() {
  const auto moments = onsets(inHand());
  if (moments.empty()) return emit said(tr("There are no onsets: lay a sound first, or raise its Sensitivity in the Dials."));
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
