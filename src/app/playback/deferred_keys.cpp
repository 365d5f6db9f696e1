#include "app/playback/deferred_keys.h"

#include <utility>

#include "app/session/session.h"

namespace molten {

DeferredKeys::DeferredKeys(Session& session, QObject* parent) : QObject(parent), session_(session) {
  const auto giveUp = [this] { waiting_.clear(); };
  connect(&session_, &Session::footageInSight, this, &DeferredKeys::runWaiting);
  connect(&session_, &Session::footageFailed, this, giveUp);
  connect(&session_, &Session::playheadTaken, this, giveUp);
  connect(&session_.document(), &Document::replaced, this, giveUp);
}

void DeferredKeys::run(std::function<void()> action) {
  if (session_.isOpening())
    waiting_.push_back(std::move(action));
  else
    action();
}

void DeferredKeys::runWaiting() {
  // An action that takes the playhead must not clear those behind it; one that leads to a shot whose footage is not open
  // yet makes them wait for that shot.
  std::deque<std::function<void()>> due = std::exchange(waiting_, {});
  while (!due.empty() && !session_.isOpening()) {
    const auto action = std::move(due.front());
    due.pop_front();
    action();
  }
  waiting_.insert(waiting_.end(), due.begin(), due.end());
}

}  // namespace molten
