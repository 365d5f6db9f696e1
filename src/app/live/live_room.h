#pragma once
// The Bench on a camera: the chain runs on what comes in, now.

#include <QImage>
#include <QObject>
#include <QTimer>
#include <memory>
#include <mutex>

#include "app/ask/ask.h"
#include "app/mailbox/mailbox.h"
#include "app/session/session.h"
#include "core/engine/live_run.h"

class QAction;
class QMenu;

namespace molten {

class CleanWindow;
class Commands;
class LiveKeeping;
class LivePanel;
class PictureView;
class Player;
class Viewing;

/// Runs the shot's chain (and what comes after the last cut) on a camera while it is on, shows its pictures in place of the
/// clip's, and in a clean window; edits act on it.
class LiveRoom : public QObject {
  Q_OBJECT

 public:
  struct Views {
    PictureView& picture;
    LivePanel& panel;
  };
  LiveRoom(Session& session, Player& player, Viewing& viewing, const Views& views, std::size_t memoryBytes, QWidget& window);
  ~LiveRoom() override;

  void fill(Commands& commands, QMenu* menu);
  bool on() const { return run_ != nullptr; }
  /// The chain runs on this camera; where nothing is open, over a blank of its size.
  void begin(const CameraChoice& camera);
  void end();
  /// Of the window's budget, of which the ring has a third.
  void setMemory(std::size_t bytes);
  /// nullptr while it is off.
  LiveRun* run() const { return run_.get(); }
  LiveKeeping& keeping() { return *keeping_; }
  CleanWindow& cleanWindow() { return *clean_; }
  void fillScreen();
  /// In one line: shown, late, lost, and how long a picture takes.
  QString stateLine() const;
  /// The same with what is amiss and what is recorded.
  QString logLine() const;
  /// How Live goes, as a JSON object in one line; docs/live.md says what its members mean.
  QByteArray statusJson() const;
  /// None while it is off.
  std::optional<LiveState> state() const;

 signals:
  void switched(bool on);
  void pictureShown();

 private:
  /// A picture on its way to the screen.
  struct Arrived {
    LivePicture live;
    QImage image, clean;
  };
  void arrived(const LivePicture& picture);
  void showNewest();
  void want();
  void setChain();
  void tell();
  QString troubles(const LiveState& state) const;
  LiveChain chain() const;

  Session& session_;
  Player& player_;
  Viewing& viewing_;
  Views views_;
  std::size_t memoryBytes_;
  QWidget& window_;
  CleanWindow* clean_;
  LiveKeeping* keeping_;
  QAction* onAction_ = nullptr;
  CameraChoice camera_;
  RingSettings ring_;
  QTimer telling_;
  Mailbox inbox_;
  std::mutex mutex_;  ///< of the next four
  std::optional<Arrived> newest_;
  Size wanted_, cleanWanted_;  ///< in the screen's own pixels; 0: not wanted
  bool posted_ = false;
  Converter converter_;  ///< of the thread that makes pictures
  std::unique_ptr<LiveRun> run_;  // last: it ends before the rest goes
};

}  // namespace molten
