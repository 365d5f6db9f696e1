#include "app/dials/dials_pages.h"

#include <QDir>
#include <QFileInfo>
#include <QStackedWidget>
#include <cmath>

#include "app/chart/small_pictures.h"
#include "app/dials/dials.h"
#include "app/dials/footage_dials.h"
#include "app/dials/output_dials.h"
#include "app/session/beside.h"
#include "app/session/followed_shots.h"
#include "app/session/in_hand.h"
#include "app/session/outside_words.h"
#include "app/theme/parts.h"

namespace molten {

using theme::shown;

DialsPages::DialsPages(Session& session, FollowedShots& followed, SmallPictureMaker& pictures, const Views& views,
                       QObject* parent)
    : QObject(parent), session_(session), followed_(followed), pictures_(pictures), views_(views) {
  connect(&session_, &Session::changed, this, &DialsPages::refresh);
  connect(&session_, &Session::outsideKnown, this, &DialsPages::showOutside);
  connect(&session_, &Session::selectionChanged, this, &DialsPages::refresh);
  // What moves is shown as it is at the playhead.
  connect(&session_, &Session::frameChanged, this, &DialsPages::showMoment);
  connect(&followed_, &FollowedShots::measured, this, &DialsPages::showMoment);
  connectStage();
  connectEnds();
}

void DialsPages::connectStage() {
  Dials* const dials = &views_.stage;
  connect(dials, &Dials::valueChanged, this, &DialsPages::set);
  connect(dials, &Dials::keyToggled, this, &DialsPages::toggleKey);
  connect(dials, &Dials::keysRemoved, this, &DialsPages::removeKeys);
  connect(dials, &Dials::drivesChanged, this, &DialsPages::setDrivesOf);
  connect(dials, &Dials::movementOpened, this, &DialsPages::refresh);
  connect(dials, &Dials::gestureEnded, &session_.document(), &Document::endGesture);
  connect(dials, &Dials::remedyChosen, this, &DialsPages::mend);
  connect(dials, &Dials::picturesWanted, this, [this](const std::vector<std::int32_t>& frames) {
    std::vector<std::int32_t> wanted;
    for (const std::int32_t frame : frames) wanted.push_back(footageFrame(frame));
    pictures_.want(1, wanted);
  });
  dials->setPictures([this](std::int32_t frame) {
    const SmallPictures& known = pictures_.pictures();
    const auto at = known.find(footageFrame(frame));
    return at == known.end() ? QImage() : at->second;
  });
  connect(&pictures_, &SmallPictureMaker::arrived, dials, &Dials::picturesChanged);
}

void DialsPages::connectEnds() {
  connect(&views_.output, &OutputDials::rateChosen, this, [this](std::optional<Rational> rate) {
    const Rational at = Rational(session_.frame()) / session_.piece().rate;
    const Edit edit = setOutputRate(session_.project(), rate, session_.video());
    if (edit.after == session_.project()) return refresh();
    session_.apply(edit);
    session_.goTo((at * session_.piece().rate + Rational(1, 2)).floor());
  });
  connect(&views_.output, &OutputDials::lengthChosen, this, [this](std::optional<Rational> length) {
    const Edit edit = setOutputLength(session_.project(), length);
    edit.after == session_.project() ? refresh() : session_.apply(edit);
  });
  connect(&views_.footage, &FootageDials::betweenChosen, this,
          [this](InBetween between) { session_.apply(setInBetween(session_.project(), between)); });
  connect(&views_.footage, &FootageDials::rateTyped, this,
          [this](Rational rate) { session_.apply(setSourceRate(session_.project(), rate)); });
}

void DialsPages::refresh() {
  const bool footage = session_.footage() != nullptr, sound = session_.selectedSound().has_value();
  const bool output = footage && !sound && session_.selected() == session_.project().chain.size() + 1;
  QWidget* page = &views_.stage;
  if (output) page = &views_.output;
  if (footage && !sound && session_.selected() == 0) page = &views_.footage;
  views_.pages.setCurrentWidget(page);
  if (const auto held = inHand(session_)) return showHeld(*held);
  if (!footage)
    return views_.stage.showWords(
        tr("No footage yet"),
        tr("What a stage can be told stands here once there is footage and a stage in the Chain."));
  output ? showOutput() : showFootage();
}

void DialsPages::showHeld(const InHand& held) {
  const Rational rate = session_.piece().rate;
  views_.stage.showStage(*held.stage, session_.footage() ? std::optional(session_.videoInto(held.place)) : std::nullopt, rate,
                         held.at, followed_.of(held).get());
  if (held.sound && *held.sound) views_.stage.setTitle(shown(soundTitle(session_.project(), *held.sound)));
  showOutside();
  emit stageShown();
}

/// The part of a page that is known a little later than the rest.
void DialsPages::showOutside() {
  if (session_.selectedSound()) return;
  const auto stage = session_.selectedStage();
  if (!stage) {
    if (session_.footage() && session_.selected() > 0) showOutput();
    return;
  }
  const Stage& held = session_.project().chain[*stage];
  QString sentence = held.on ? outsideSentence(session_) : QString();
  if (!sentence.isEmpty())
    sentence += " " + whatHappensThere(session_.reading()->map(session_.placeOn(*stage)).pastTheEnds());
  views_.stage.setFinding(Figure::Outside, sentence, tr("Trim it off"));
}

void DialsPages::showFootage() {
  const Footage& footage = *session_.footage();
  if (session_.reelInHand() && session_.within().empty()) {
    QStringList words{tr("%1 shots, one after the other: %2 pictures").arg(shotCount(session_.whole())).arg(footage.clock().frameCount())};
    words << (session_.whole().stopsAtCuts ? tr("What comes after the last cut stops at cuts: its stages read no moment of another shot.")
                                           : tr("What comes after the last cut reads across cuts, in the reel's time."));
    if (session_.project().chain.empty()) words << tr("\nAdd a stage to the Chain above: it is for all shots together.");
    return views_.footage.showReel(words);
  }
  const QString kind = footage.madeFrom().empty() ? shown(footage.codec())
                       : footage.keptIn().empty() ? tr("the result of a project, made as it is shown")
                                                  : tr("the result of a project, kept in %1").arg(QFileInfo(shown(footage.keptIn())).fileName());
  QStringList lines{tr("%1, %2").arg(kind, shown(formatText(footage.shape().format))),
                    tr("%1 frames, counted from 0").arg(footage.clock().frameCount()),
                    QFileInfo(shown(footage.path())).absolutePath()};
  for (const auto& warning : footage.warnings()) lines << shown(warning);
  if (session_.project().chain.empty())
    lines << tr("\nAdd a stage to the Chain above: a Time Field makes each pixel read its own moment.");
  views_.footage.showFootage(footage, session_.project().source, lines);
}

void DialsPages::showOutput() {
  const Piece& piece = session_.shownPiece();
  const Span span = session_.inReel() ? Span{0, piece.length - 1} : session_.span();
  QStringList lines{tr("%1 pictures, from %2 to %3.").arg(span.count()).arg(span.first).arg(span.last)};
  if (piece.endless) {
    lines << tr("A loop: after the last picture comes the first.");
    if (const double faster = piece.faster() * 100; std::abs(faster) >= 0.005)
      lines << tr("So that its round is a whole number of pictures, time runs %1 % %2.")
                   .arg(std::abs(faster), 0, 'f', 2)
                   .arg(faster > 0 ? tr("faster") : tr("slower"));
  }
  if (const QString outside = outsideSentence(session_); !outside.isEmpty()) lines << outside;
  lines << tr("Size and kind of file are chosen when rendering (Ctrl+R).");
  views_.output.showPiece(piece, session_.video().rate, lines.join('\n'));
}

// ---- what is set

void DialsPages::edit(const InHand& held, bool gesture, const InHand::Change& change) {
  Document& document = session_.document();
  if (!gesture) document.endGesture();
  session_.apply(editInHand(session_, held, change));
  gesture ? document.endGestureSoon() : document.endGesture();
}

void DialsPages::set(std::size_t parameter, const ParameterValue& value, bool gesture) {
  const auto held = inHand(session_);
  if (!held) return;
  ParameterValue whole = value;
  const auto& kind = held->stage->kind->description().parameters[parameter].kind;
  if (auto* file = std::get_if<std::string>(&whole); file && !file->empty() && std::holds_alternative<FileDescription>(kind) && !namesBlank(*file))
    *file = QDir::cleanPath(QFileInfo(besideWhat(session_)).dir().absoluteFilePath(shown(*file))).toStdString();
  edit(*held, gesture, [&](const Project& project, std::size_t stage) { return setValueAt(project, stage, parameter, whole, held->at); });
}

/// A key here, or none; the last one that goes leaves the value that it had.
void DialsPages::toggleKey(std::size_t parameter) {
  const auto held = inHand(session_);
  if (!held || !session_.footage()) return;
  const Stage& keyed = *held->stage;
  const std::string& label = keyed.kind->description().parameters[parameter].label;
  const auto known = keyed.keys.find(parameter);
  KeyTrack track = known == keyed.keys.end() ? KeyTrack{} : known->second;
  const auto here = keyAt(track, held->at);
  if (here)
    track = withoutKeys(track, {*here});
  else
    track = withKey(track, held->at, keyValue(keyed.keyedAt(held->at.toDouble())[parameter]));
  edit(*held, false, [&](const Project& project, std::size_t stage) {
    return setKeys(project, stage, parameter, track, held->at, here ? "Remove key of " + label : "Key of " + label);
  });
}

void DialsPages::removeKeys(std::size_t parameter) {
  const auto held = inHand(session_);
  if (!held || !held->stage->keys.contains(parameter)) return;
  const std::string name = "Remove all keys of " + held->stage->kind->description().parameters[parameter].label;
  edit(*held, false, [&](const Project& project, std::size_t stage) { return setKeys(project, stage, parameter, {}, held->at, name); });
}

void DialsPages::setDrivesOf(std::size_t parameter, const Drives& drives, const QString& name, bool gesture) {
  const auto held = inHand(session_);
  if (!held) return;
  edit(*held, gesture, [&](const Project& project, std::size_t stage) {
    return setDrives(project, stage, parameter, drives, name.toStdString(), "drives " + std::to_string(parameter));
  });
}

void DialsPages::showMoment() {
  if (const auto held = inHand(session_); held && session_.footage()) views_.stage.showMoment(*held->stage, held->at, followed_.of(*held).get());
}

void DialsPages::mend(Figure figure) {
  if (figure == Figure::Steps) session_.apply(setInBetween(session_.project(), InBetween::Flow));
  if (figure == Figure::Outside) trim();
  session_.document().endGesture();
}

void DialsPages::trim() {
  if (const auto edit = trimToFootage(session_.project(), session_.video()))
    session_.apply(*edit);
  else
    emit session_.said(tr("The reach is longer than the clip: no picture would be left. Shorten back or ahead."));
}

std::int32_t DialsPages::footageFrame(std::int32_t frame) const {
  const auto stage = session_.selectedStage();
  if (!session_.footage() || !stage) return frame;
  const ChainReading& reading = *session_.reading();
  return reading.clock().frameAt(reading.sourceOf(session_.placeOn(*stage), frame));
}

}  // namespace molten
