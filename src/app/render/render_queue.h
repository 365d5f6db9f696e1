#pragma once
// Renders that go on while one works: one at a time, the others wait.

#include <QObject>
#include <list>
#include <thread>

#include "app/mailbox/mailbox.h"
#include "core/engine/render_job.h"

namespace molten {

class Session;

/// A render that was asked for, and what has become of it.
struct RenderEntry {
  enum class State { Waiting, Running, Cancelling, Written, Cancelled, Failed };

  std::uint64_t number = 0;  ///< tells them apart for good
  RenderSettings job;        ///< as it was when it was asked for; without footage: it is opened then
  QString summary;           ///< what will be written, in words
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
  explicit RenderQueue(Session& session, QObject* parent = nullptr);
  ~RenderQueue() override;

  void add(RenderSettings job, const QString& summary);
  /// A project's result, to be read in its place: see keepResult().
  void keep(const QString& project, std::size_t memoryBytes);
  /// Answers at once; the work ends by itself a moment later.
  void cancel(std::uint64_t number);
  void remove(std::uint64_t number);
  void removeAllOver();
  /// All are called off; returns when the work has ended.
  void end();

  /// In the order in which they were asked for.
  const std::list<RenderEntry>& entries() const { return entries_; }
  bool busy() const { return running_ != nullptr; }
  std::ptrdiff_t waiting() const;
  /// The one that runs; none where nothing does.
  const RenderEntry* running() const { return running_; }
  /// Whether one that runs or waits writes to this place.
  bool writes(const QString& path) const;

 signals:
  void changed();  ///< any of them, or their progress
  void busyChanged(bool busy);
  void over(const RenderEntry& entry);

 private:
  void beginNext();
  void ended(const Result<RenderOutline>& result);
  void progressed(const RenderProgress& progress);

  Session& session_;
  std::list<RenderEntry> entries_;
  RenderEntry* running_ = nullptr;  ///< one of them
  std::uint64_t newest_ = 0;
  Mailbox inbox_;
  std::jthread thread_;  // last: it ends before the rest goes
};

}  // namespace molten
