#pragma once
// What is heard of the shot that is worked on, made anew as that changes.

#include <QObject>
#include <QTimer>
#include <map>
#include <memory>

#include "app/mailbox/newest.h"
#include "app/session/session.h"
#include "core/engine/heard.h"

namespace molten {

class Player;

/// Files are opened, and onsets found, on threads of their own.
class HeardShot : public QObject {
  Q_OBJECT

 public:
  HeardShot(Session& session, const Player& player, QObject* parent = nullptr);
  ~HeardShot() override;

  /// nullptr: not known yet, or nothing is open.
  const std::shared_ptr<const Heard>& heard() const { return heard_; }
  /// The footage has sound, or some is laid.
  bool hearsSomething() const { return heard_ && (!heard_->own.empty() || !heard_->laid.empty()); }
  /// Onsets of a sound that is laid, in samples from its file's beginning: while they are looked for, those of another
  /// sensitivity, if there are any.
  const std::vector<std::int64_t>& onsetsOf(const Stage& sound) const;

 signals:
  void changed();        ///< what is heard
  void onsetsChanged();
  void outlined();       ///< more of an outline is there
  void said(const QString& sentence);  ///< what cannot be read

 private:
  struct Question {
    Project project;  ///< the reel, or what is worked on
    std::shared_ptr<const ChainReading> reading;
    Piece piece;
    std::shared_ptr<SoundFiles> files;
    std::optional<Played> played;  ///< of a reel
    DescribeSource describe;
  };
  static Heard heardOf(const Question& question, const std::stop_token& stop);
  /// A file, and how soft its onsets may be.
  using OnsetName = std::pair<std::string, double>;
  using Onsets = std::map<OnsetName, std::vector<std::int64_t>>;
  using OnsetQuestion = std::map<OnsetName, std::shared_ptr<SoundFeed>>;
  static OnsetName nameOf(const Stage& sound);
  bool isLaid(const OnsetName& name) const;
  void ask();
  void look();
  void tell();
  void took(const std::shared_ptr<const Heard>& heard);

  Session& session_;
  const Player& player_;
  std::shared_ptr<SoundFiles> files_;
  std::shared_ptr<const Heard> heard_;
  Onsets onsets_;
  std::vector<OnsetName> lookedFor_;
  QStringList told_;
  QTimer reading_;  ///< while sounds are read through
  Newest<Question, std::shared_ptr<const Heard>> made_;
  Newest<OnsetQuestion, Onsets> found_;
};

}  // namespace molten
