#include "app/session/followed_shots.h"

#include "app/playback/player.h"

namespace molten {

FollowedShots::FollowedShots(Session& session, const Player& player, QObject* parent)
    : QObject(parent),
      session_(session),
      player_(player),
      measures_(
          [](const Question& question, std::stop_token stop) {
            return Answer{question, measureBrightness(question.from, question.upstream, stop)};
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

std::shared_ptr<const Followed> FollowedShots::of(std::size_t stage) {
  const VideoDescription in = session_.videoInto(stage);
  const Chain& chain = session_.project().chain;
  if (!session_.footage() || !chain[stage].follows(Follow::What::Brightness)) return followedAs(in, {});
  const Question question{{player_.sources(), session_.project().source.between},
                          {chain.begin(), chain.begin() + static_cast<std::ptrdiff_t>(stage)}};
  if (known_ && known_->question == question) return followedAs(in, known_->course);
  if (asked_ != question) measures_.ask(*(asked_ = question));
  return followedAs(in, {});
}

}  // namespace molten
