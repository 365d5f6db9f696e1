#pragma once
// Renders that go on while one works: one at a time, the others wait. They are kept on disk, where the command line adds and
// renders too; what was under way when a window went goes on when one opens.

#include <QObject>
#include <QTimer>
#include <list>
#include <map>
#include <memory>

#include "app/mailbox/mailbox.h"
#include "app/render/queue_hands.h"
#include "core/engine/render_store.h"

namespace molten {

class Session;

/// A render that was asked for, and what has become of it.
struct RenderEntry {
  enum class State { Waiting, Running, Paused, Cancelling, Written, Cancelled, Failed };

  std::uint64_t number = 0;  ///< tells them apart for good
  std::string id = {};       ///< in the list on disk; empty: not there yet
  RenderSettings job = {};   ///< as it was when it was asked for; of what was found on disk, the result's path alone
  QString summary = {};      ///< what will be written, in words
  QString keeps = {};        ///< the project whose result is kept; empty: a render
  State state = State::Waiting;
  RenderProgress progress = {};  ///< while it runs
  QString sentence = {};         ///< afterwards: what was met, or why nothing was written

  bool over() const { return state >= State::Written; }
  /// Its file, or the pattern of its stills; of what is kept, its project.
  QString path() const { return keeps.isEmpty() ? QString::fromStdString(job.project.output.path) : keeps; }
};

class RenderQueue : public QObject {
  Q_OBJECT

 public:
  /// `folder`: of the list; empty: the user's own.
  RenderQueue(Session& session, const QString& folder, QObject* parent = nullptr);
  ~RenderQueue() override;

  void add(RenderSettings job, const QString& summary);
  /// A project's result, to be read in its place: see keepResult().
  void keep(const QString& project);
  /// All answer at once; the work ends, or begins, a moment later.
  void cancel(std::uint64_t number);
  void pause(std::uint64_t number);
  /// A render that is paused, was cancelled or has failed waits again, and goes on where it was.
  void resume(std::uint64_t number);
  /// Earlier (−1) or later (+1) among those that are not over.
  void move(std::uint64_t number, int by);
  void remove(std::uint64_t number);
  void removeAllOver();
  /// Work stops, and goes on when a window opens again; returns when it has ended.
  void end();
  /// While it is so, what runs stands still between two pictures.
  void setHeld(bool held) { hands_->setHeld(held); }
  void setMemory(std::size_t bytes) { hands_->setMemory(bytes); }

  /// In the order in which they are rendered.
  const std::list<RenderEntry>& entries() const { return entries_; }
  /// Something runs, or waits for it.
  bool busy() const;
  std::ptrdiff_t waiting() const;
  /// The one that runs; none where nothing does.
  const RenderEntry* running() const;
  /// Whether one that runs or waits writes to this place.
  bool writes(const QString& path) const;

 signals:
  void changed();  ///< any of them, or their progress
  void busyChanged(bool busy);
  void over(const RenderEntry& entry);

 private:
  void put(RenderEntry entry);
  void set(std::uint64_t number, RenderEntry::State state, StoredRender::State stored);
  RenderEntry* withNumber(std::uint64_t number);
  RenderEntry* withId(const std::string& id);
  void told(const StoredRender& render);
  void found(const std::vector<StoredRender>& list, std::uint64_t asked);
  void look();
  void tellAll();

  std::list<RenderEntry> entries_;
  std::uint64_t newest_ = 0;
  std::uint64_t asked_ = 0;  ///< counts what was asked of the list: what was found before that is not looked at
  bool wasBusy_ = false;
  Session& session_;
  QTimer looking_;
  Mailbox inbox_;
  std::unique_ptr<QueueHands> hands_;  // last: its threads end before the rest goes
};

}  // namespace molten
