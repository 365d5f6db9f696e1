#pragma once
// What stays of a live run: recordings, its last seconds, stills.

#include <QObject>
#include <QString>
#include <condition_variable>
#include <deque>
#include <functional>
#include <memory>
#include <mutex>
#include <thread>

#include "app/mailbox/mailbox.h"
#include "app/session/session.h"
#include "core/engine/live_recording.h"
#include "core/engine/live_run.h"

namespace molten {

/// Files beside the project, or among the user's films where it has no place yet; each of a new name.
class LiveKeeping : public QObject {
  Q_OBJECT

 public:
  enum class What { Shown, Incoming };

  LiveKeeping(Session& session, QObject* parent = nullptr);
  ~LiveKeeping() override;

  /// The run whose pictures they are; nullptr: none.
  void setRun(LiveRun* run) { run_ = run; }
  /// Ends recordings, and waits for what is still written.
  void stopAll();

  /// From the run's threads.
  void made(const LivePicture& picture);
  void came(const CameraFrame& frame, std::int32_t number, Rational rate);

  /// `path`: of a new .mp4 or .mov; empty: a name is found.
  void record(What what, bool on, const QString& path = {});
  bool records(What what) const;
  /// The seconds that the ring holds become a clip, which is then opened.
  void keepLast();
  bool keeping() const { return keepingAt_ >= 0; }
  void still();
  /// What is recorded and kept, in one line; empty: nothing.
  QString line() const;

 signals:
  void changed();
  void said(const QString& sentence);
  void kept(const QString& clip);

 private:
  QString freePath(const QString& what, const QString& ending) const;
  std::shared_ptr<LiveRecording> recorder(What what) const;
  /// What takes a while and cannot be called off, one after the other.
  void errand(std::function<void()> work);

  Session& session_;
  LiveRun* run_ = nullptr;
  mutable std::mutex mutex_;  ///< of the recorders and the last picture
  std::shared_ptr<LiveRecording> recorders_[2];
  Picture last_;
  double keepingAt_ = -1;  ///< 0…1; below: nothing is kept just now
  Mailbox inbox_;
  std::mutex errandsMutex_;
  std::condition_variable_any errandsChanged_;
  std::deque<std::function<void()>> errands_;
  std::jthread keeper_, runner_;  // last: they end before the rest goes
};

}  // namespace molten
