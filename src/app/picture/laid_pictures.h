#pragma once
// How large the pictures are that stages lay over others.

#include <QObject>
#include <list>
#include <optional>
#include <vector>

#include "app/mailbox/newest.h"
#include "app/playback/player.h"

namespace molten {

/// Titles are laid out, and sources opened, on another thread: what is not known yet is found out, and then told.
class LaidPictures : public QObject {
  Q_OBJECT

 public:
  explicit LaidPictures(const Player& player, QObject* parent = nullptr);

  /// Of a stage with these values. None: it lays nothing, nothing can be read, or it is not known yet. `filesSeen`: see
  /// Session::filesSeen().
  std::optional<OwnPicture> of(const Stage& stage, const StageValues& values, const VideoDescription& incoming,
                               std::uint64_t filesSeen);
  void forget();

 signals:
  void known();

 private:
  struct Laid {
    std::optional<TitleLook> title;
    std::optional<OwnSource> source;
    Chain branch = {};
    std::uint64_t filesSeen = 0;
    friend bool operator==(const Laid&, const Laid&) = default;
  };
  struct Question {
    std::shared_ptr<Sources> sources;
    std::vector<Laid> laid;
  };
  using Answer = std::vector<std::pair<Laid, std::optional<OwnPicture>>>;
  static Answer measure(const Question& question, const std::stop_token& stop);

  const Player& player_;
  std::list<std::pair<Laid, std::optional<OwnPicture>>> known_;  ///< of late, the newest first
  std::vector<Laid> asked_;                                       ///< what is being found out
  Newest<Question, Answer> newest_;
};

}  // namespace molten
