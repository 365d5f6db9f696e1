#pragma once
// Key presses that need footage, while footage is still being opened.

#include <QObject>
#include <deque>
#include <functional>

namespace molten {

class Session;

/// Runs what a key asks for: at once; or, while the session opens footage, in the order of the presses as soon as that
/// footage is there. What waits is given up when the footage cannot be opened, when another project takes its place, and
/// when a hand moves the playhead. For the interface's thread.
class DeferredKeys : public QObject {
  Q_OBJECT

 public:
  explicit DeferredKeys(Session& session, QObject* parent = nullptr);
  void run(std::function<void()> action);

 private:
  void runWaiting();

  Session& session_;
  std::deque<std::function<void()>> waiting_;
};

}  // namespace molten
