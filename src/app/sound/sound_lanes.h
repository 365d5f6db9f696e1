#pragma once
// Sound lanes: below the Time Chart, on its time, a lane for the shot's own sound and one for each that is laid.

#include <QWidget>

#include "app/sound/sound_sight.h"
#include "app/theme/spoken.h"

class QMenu;

namespace molten {

/// Sounds are dragged along, trimmed at their ends, faded by their upper corners, made louder and softer by their line; dropped
/// in as files. With Shift more than one is taken: they are moved, made louder and switched together. Where all that stands is
/// SoundSight's.
class SoundLanes : public QWidget, public theme::SpokenState {
  Q_OBJECT

 public:
  static constexpr int laneHeight = 42;

  explicit SoundLanes(QWidget* parent = nullptr);
  QString spokenState() const override;
  void setState(const SoundLanesState& state);
  void setPlayhead(double seconds);
  /// The part of the time that is in sight.
  void setView(const ChartView& view);
  const SoundSight& sight() const { return sight_; }
  /// The sounds that are taken, the last one at the end.
  std::vector<SoundName> selected() const;

 signals:
  void picked(const SoundName& which);
  /// To another moment, and others that are taken by as much.
  void moved(std::size_t sound, double at, const QString& name);
  void removed();
  void relaid(std::size_t sound, const LaidSound& laid, const QString& name, const QString& mergeKey);
  void gained(const SoundName& which, double decibels);
  void muted(const SoundName& which, bool on);
  void madeAlone(const SoundName& which, bool on);
  void gestureEnded();
  void scrubbed(double seconds);
  void dropped(const QStringList& files, double seconds);
  /// About a lane: whoever listens fills the menu.
  void menuWanted(const SoundName& which, QMenu& menu);
  void said(const QString& sentence);
  void counted();  ///< there are more or fewer lanes

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void keyPressEvent(QKeyEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void dragEnterEvent(QDragEnterEvent* event) override;
  void dropEvent(QDropEvent* event) override;
  void resizeEvent(QResizeEvent*) override;

 private:
  void hover(const QPointF& at);
  void take(std::size_t lane, bool more);
  void drag(const QPointF& at, bool free);
  void drawLane(QPainter& painter, std::size_t lane);
  void drawOutline(QPainter& painter, std::size_t lane);

  /// The outline of a lane as it was looked at last.
  struct Outlined {
    ChartView view;
    std::shared_ptr<const SoundCurve> curve;
    const SoundFeed* feed = nullptr;
    double at = 0, skip = 0;
    std::int64_t samples = 0;
    std::vector<Peak> peaks;
  };

  SoundSight sight_;
  SoundHold hold_;
  QPointF pressed_;
  SoundLane atPress_;
  std::vector<Outlined> outlines_;
};

}  // namespace molten
