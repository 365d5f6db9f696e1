#pragma once
// What is heard of the shot that is worked on, made anew as that changes.

#include <QObject>
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
  bool hearsSomething() const { return heard_ && (heard_->own || !heard_->laid.empty()); }
  /// Onsets of a file that is laid, in samples from its beginning; empty while they are looked for.
  const std::vector<std::int64_t>& onsetsOf(const std::string& path) const;
  /// 0 only the clearest … 1 all that could be one.
  double sensitivity() const { return sensitivity_; }
  void setSensitivity(double sensitivity);

 signals:
  void changed();        ///< what is heard
  void onsetsChanged();
  void said(const QString& sentence);  ///< what cannot be read

 private:
  struct Question {
    Project project;
    std::shared_ptr<const ChainReading> reading;
    Piece piece;
    std::shared_ptr<SoundFiles> files;
  };
  struct OnsetQuestion {
    std::vector<std::shared_ptr<SoundFeed>> feeds;
    double sensitivity = 0.5;
  };
  using Onsets = std::map<std::string, std::vector<std::int64_t>>;
  void ask();
  void took(const std::shared_ptr<const Heard>& heard);

  Session& session_;
  const Player& player_;
  std::shared_ptr<SoundFiles> files_;
  std::shared_ptr<const Heard> heard_;
  Onsets onsets_;
  double sensitivity_ = 0.5;
  QStringList told_;
  Newest<Question, std::shared_ptr<const Heard>> made_;
  Newest<OnsetQuestion, Onsets> found_;
};

}  // namespace molten
