#pragma once
// The sound of playing and of pulling the playhead past.

#include <QObject>
#include <QTimer>
#include <memory>

#include "app/mailbox/mailbox.h"
#include "app/session/session.h"
#include "app/sound/heard_shot.h"
#include "app/sound/sounding.h"

namespace molten {

class Player;

/// While it plays the device leads the pictures. Without a device pictures go by the clock, which is said once.
class Hearing : public QObject {
  Q_OBJECT

 public:
  /// `device`: nullptr: none is wanted.
  Hearing(Session& session, Player& player, HeardShot& heard, std::unique_ptr<SoundDevice> device, QObject* parent = nullptr);

  /// Whether grains are heard while the playhead is pulled.
  bool scrubSounds() const { return scrubSounds_; }
  void setScrubSounds(bool on);
  /// None while nothing is heard.
  std::optional<SoundLevels> levels() const;
  /// Seconds of the piece that are heard now, and how often the device found nothing mixed; none while nothing is heard.
  struct Now {
    double seconds = 0;
    int gaps = 0;
  };
  std::optional<Now> now() const;

 signals:
  void said(const QString& sentence);

 private:
  void begin(const Span& span, double speed);
  void failed(const QString& sentence);
  void follow();
  void end();
  void grain();
  SoundRun runOf(const Span& span, double speed, double begin) const;

  Session& session_;
  Player& player_;
  HeardShot& heard_;
  Mailbox inbox_;  ///< of the thread that mixes: it goes after that
  std::shared_ptr<Sounding> sounding_;  ///< nullptr: there is no device. A run of pictures goes by it as well
  SoundRun run_;
  QTimer silence_;  ///< the device rests when nothing has been pulled past for a while
  bool scrubSounds_ = true, toldOfNone_ = false, pulled_ = false;
};

}  // namespace molten
