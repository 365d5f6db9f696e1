#pragma once
// What the selected stage reads at a place of its picture.

#include <functional>

#include "app/mailbox/newest.h"
#include "app/session/session.h"
#include "core/engine/source_material.h"

namespace molten {

class Player;

/// Found out on a thread of its own: a field that is made of pictures has to read some. The newest question wins.
class MomentFinder {
 public:
  MomentFinder(const Session& session, const Player& player);

  /// `found` is told the seconds beside the moment of the picture at the playhead. Forgets what was asked before.
  void find(std::size_t stage, Place place, std::function<void(double seconds)> found);
  void forget() { newest_.forget(); }

 private:
  struct Question {
    std::shared_ptr<Sources> sources;
    Chain chain;  ///< up to the stage
    VideoDescription in;
    Rational at;
    Place place;
    FollowedSounds sounds;
  };
  static double answer(const Question& question, std::stop_token stop);

  const Session& session_;
  const Player& player_;
  std::function<void(double)> found_;
  Newest<Question, double> newest_;
};

}  // namespace molten
