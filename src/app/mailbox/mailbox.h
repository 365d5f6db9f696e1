#pragma once
// What other threads have to say to the interface's.

#include <QObject>
#include <functional>
#include <mutex>
#include <vector>

namespace molten {

/// Belongs to the interface's thread, where everything posted is run, in order. Letters that are not yet run go with
/// the box.
class Mailbox : public QObject {
 public:
  /// From any thread.
  void post(std::function<void()> letter) {
    {
      const std::scoped_lock lock(mutex_);
      letters_.push_back(std::move(letter));
    }
    QMetaObject::invokeMethod(
        this, [this] { open(); }, Qt::QueuedConnection);
  }

 private:
  void open() {
    std::vector<std::function<void()>> letters;
    {
      const std::scoped_lock lock(mutex_);
      letters.swap(letters_);
    }
    for (const auto& letter : letters) letter();
  }

  std::mutex mutex_;
  std::vector<std::function<void()>> letters_;
};

}  // namespace molten
