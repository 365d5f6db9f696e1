#pragma once
// The sounds of the shot under the hand.

#include <QObject>

#include "app/session/session.h"
#include "app/sound/heard_shot.h"
#include "core/project/sound_edits.h"

class QMenu;

namespace molten {

class Commands;
class Deck;
class Hearing;
class PaceOnChart;

/// Fills the sound lanes, makes edits of what is done on them, and commands of what sounds give to a Pace.
class SoundHands : public QObject {
  Q_OBJECT

 public:
  SoundHands(Session& session, HeardShot& heard, Hearing& hearing, PaceOnChart& pace, Deck& deck, QObject* parent = nullptr);

  void fill(Commands& commands, QMenu* menu);
  /// Sounds from files, at a moment of the piece in seconds.
  void layIn(const QStringList& files, double at);
  /// The same where the playhead stands.
  void layInHere(const QStringList& files);

 signals:
  void filesWanted();  ///< sounds are to be chosen
  void said(const QString& sentence);

 private:
  void refresh();
  void connectLanes();
  void fillLaneMenu(const SoundName& which, QMenu& menu);
  /// A choice of one of a sound's values.
  void fillChoice(const SoundName& which, std::size_t parameter, QMenu& menu);
  void set(const SoundName& which, std::size_t parameter, const ParameterValue& value);
  /// All that are taken, if that one is among them; otherwise that one alone.
  std::vector<SoundName> taken(const SoundName& which) const;
  void setEach(const SoundName& which, std::size_t SoundParameters::*parameter, const ParameterValue& value, const QString& name);
  void setGain(const SoundName& which, double decibels);
  void move(std::size_t which, double at, const QString& name);
  void remove();
  /// Onsets of a sound, or of all where none is named, in seconds of the piece.
  std::vector<Rational> onsets(const std::optional<SoundName>& which) const;
  std::vector<double> onsetsOnPiece(const SoundName& which) const;
  void markOnsets();
  void turnAtOnsets();
  void fitSpan();
  void goToOnset(int direction);
  /// What the commands are about: the selected lane's sound, the only one there is, or none.
  std::optional<SoundName> inHand() const;

  Session& session_;
  HeardShot& heard_;
  Hearing& hearing_;
  PaceOnChart& pace_;
  Deck& deck_;
};

}  // namespace molten
