#pragma once
// Playing, stepping, in and out.

#include <QObject>
#include <QTimer>
#include <functional>
#include <vector>

#include "app/playback/deferred_keys.h"
#include "app/session/session.h"

class QKeyEvent;
class QMenu;

namespace molten {

class Commands;
class Player;
class Scrubber;
class Transport;

/// Moves the playhead by hand and by time: Transport, scrub line, keys; and what playing may take of the memory.
class Playback : public QObject {
  Q_OBJECT

 public:
  struct Views {
    Scrubber& scrubber;
    Transport& transport;
  };
  Playback(Session& session, Player& player, DeferredKeys& deferred, const Views& views, std::size_t memoryBytes, QObject* parent = nullptr);

  void fill(Commands& commands, QMenu* menu);
  /// True if the key was one of these. While footage is being opened it acts when that is there.
  bool takePress(const QKeyEvent& event);
  bool takeRelease(const QKeyEvent& event);

  /// Pictures of the piece that were asked for, marked on the scrub line until the project changes.
  void mark(std::vector<std::int64_t> pictures);

  std::size_t memory() const { return memoryBytes_; }
  void setMemory(std::size_t bytes);
  /// While something is rendered, or a camera runs, they share the memory.
  enum class Sharer { Render, Camera };
  void shareMemory(Sharer with, bool shared);

 signals:
  void bypassed(bool on);  ///< the footage is to be seen without the chain
  void memoryChanged();    ///< pictures may be made larger or smaller

 private:
  /// What a key does; nothing to call if it is none of these.
  std::function<void()> actionOf(const QKeyEvent& event);
  void toggle();
  void shuttle(int direction);
  void step(std::int64_t pictures) { session_.goToShown(session_.shownFrame() + pictures); }
  void setEnds(std::optional<std::int64_t> first, std::optional<std::int64_t> last, const std::string& name, const std::string& mergeKey = {});
  void shareFootage();
  void setLoop(bool on);
  void refresh();
  std::size_t budget() const { return shared_[0] || shared_[1] ? memoryBytes_ / 2 : memoryBytes_; }

  Session& session_;
  Player& player_;
  DeferredKeys& deferred_;
  Views views_;
  std::size_t memoryBytes_;
  bool shared_[2] = {};  ///< with whom
  std::vector<std::int64_t> marked_;
  QTimer measureTimer_;
};

}  // namespace molten
