#include "app/session/followed_shots.h"

#include "app/playback/player.h"

namespace molten {

FollowedShots::FollowedShots(Session& session, const Player& player, QObject* parent)
    : QObject(parent),
      session_(session),
      player_(player),
      measures_(
          [](const Question& question, std::stop_token stop) {
            Answer answer{question, {}};
            for (const Follow& one : question.what)
              if (auto course = measureCourse(question.from, question.upstream, one, stop)) answer.courses.push_back(std::move(*course));
            return answer;
          },
          [this](const Answer& answer) {
            known_ = answer;
            emit measured();
          }) {
  connect(&session_, &Session::footageLeaves, this, [this] {
    measures_.forget();
    asked_.reset(), known_.reset();
  });
}

FollowedShots::~FollowedShots() = default;

std::shared_ptr<const Followed> FollowedShots::of(const InHand& held) {
  const VideoDescription in = session_.videoInto(held.place);
  const Chain& chain = session_.project().chain;
  std::vector<Follow> what = toMeasure(*held.stage);
  if (!session_.footage() || what.empty()) return followedAs(in, {});
  const Question question{{player_.sources(), session_.project().source.between, held.sound ? FollowedSounds(session_.project().sounds) : session_.followed()},
                          {chain.begin(), chain.begin() + static_cast<std::ptrdiff_t>(held.place)},
                          std::move(what)};
  if (known_ && known_->question == question) return followedAs(in, known_->courses);
  if (asked_ != question) measures_.ask(*(asked_ = question));
  return followedAs(in, {});
}

}  // namespace molten
