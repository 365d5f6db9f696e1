#pragma once
// What the stages of the session follow, so that their values can be shown as they will be.

#include <QObject>

#include "app/mailbox/newest.h"
#include "app/session/in_hand.h"
#include "core/engine/measured_course.h"

namespace molten {

class Player;

/// The shot's speed is known at once. Its brightness, and how loud sounds are, is measured on a thread of its own when a stage
/// follows it: the newest question wins, and measured() tells when it is known.
class FollowedShots : public QObject {
  Q_OBJECT

 public:
  FollowedShots(Session& session, const Player& player, QObject* parent = nullptr);
  ~FollowedShots() override;

  /// What a stage follows, or a sound, as far as it is known; asks for what is not.
  std::shared_ptr<const Followed> of(const InHand& what);

 signals:
  void measured();

 private:
  struct Question {
    MeasuredFootage from;
    Chain upstream;
    std::vector<Follow> what;
    friend bool operator==(const Question&, const Question&) = default;
  };
  struct Answer {
    Question question;
    std::vector<MeasuredCourse> courses;
  };

  Session& session_;
  const Player& player_;
  std::optional<Question> asked_;
  std::optional<Answer> known_;
  Newest<Question, Answer> measures_;
};

}  // namespace molten
