#pragma once
// What the stages of the session follow, so that their values can be shown as they will be.

#include <QObject>

#include "app/mailbox/newest.h"
#include "app/session/session.h"
#include "core/engine/brightness_course.h"

namespace molten {

class Player;

/// The shot's speed is known at once. Its brightness is measured on a thread of its own when a stage follows it: the
/// newest question wins, and measured() tells when it is known.
class FollowedShots : public QObject {
  Q_OBJECT

 public:
  FollowedShots(Session& session, const Player& player, QObject* parent = nullptr);
  ~FollowedShots() override;

  /// What a stage of the chain follows, as far as it is known; asks for what is not.
  std::shared_ptr<const Followed> of(std::size_t stage);

 signals:
  void measured();

 private:
  struct Question {
    MeasuredFootage from;
    Chain upstream;
    friend bool operator==(const Question&, const Question&) = default;
  };
  struct Answer {
    Question question;
    std::optional<BrightnessCourse> course;
  };

  Session& session_;
  const Player& player_;
  std::optional<Question> asked_;
  std::optional<Answer> known_;
  Newest<Question, Answer> measures_;
};

}  // namespace molten
