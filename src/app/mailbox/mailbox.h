#pragma once
// What other threads have to say to the interface's.

#include <QObject>
#include <deque>
#include <exception>
#include <functional>
#include <mutex>
#include <stop_token>
#include <thread>

namespace molten {

/// Belongs to the interface's thread, where everything posted is run, in order. Letters that are not yet run go with
/// the box.
class Mailbox : public QObject {
 public:
  /// From any thread.
  /// What a letter throws goes on to the event loop; those after it are run all the same.
  void post(std::function<void()> letter) {
    {
      const std::scoped_lock lock(mutex_);
      letters_.push_back(std::move(letter));
    }
    QMetaObject::invokeMethod(
        this, [this] { open(); }, Qt::QueuedConnection);
  }
  /// Within a catch block of another thread: what was thrown is thrown again on the interface's, where it is said and the work is
  /// saved.
  void postThrown() noexcept {
    try {
      post([thrown = std::current_exception()] { std::rethrow_exception(thrown); });
    } catch (...) {
      // There is not even memory to say so.
    }
  }

 private:
  void open() {
    // Letters that are posted while these are run wait for the next turn of the event loop.
    for (std::size_t left = waiting(); left > 0; --left) {
      std::function<void()> letter;
      {
        const std::scoped_lock lock(mutex_);
        if (letters_.empty()) return;
        letter = std::move(letters_.front());
        letters_.pop_front();
      }
      letter();
    }
  }
  std::size_t waiting() {
    const std::scoped_lock lock(mutex_);
    return letters_.size();
  }

  std::mutex mutex_;
  std::deque<std::function<void()>> letters_;
};

/// Work of another thread: what it throws goes to the interface's.
template <class Work>
void guarded(Mailbox& inbox, Work&& work) noexcept {
  try {
    work();
  } catch (...) {
    inbox.postThrown();
  }
}

/// A thread whose work may throw. The box outlives it.
template <class Work>
std::jthread guardedThread(Mailbox& inbox, Work work) {
  return std::jthread([&inbox, work = std::move(work)](std::stop_token stop) mutable { guarded(inbox, [&] { work(stop); }); });
}

/// A thread whose work goes on until it is stopped: work that throws is begun anew.
template <class Work>
std::jthread lastingThread(Mailbox& inbox, Work work) {
  return std::jthread([&inbox, work = std::move(work)](std::stop_token stop) mutable {
    while (!stop.stop_requested()) guarded(inbox, [&] { work(stop); });
  });
}

}  // namespace molten
