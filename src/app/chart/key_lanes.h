#pragma once
// Key lanes: below the Time Chart, on its time, a lane for each parameter of the selected stage that moves.

#include <QWidget>
#include <functional>

#include "app/chart/key_sight.h"
#include "app/theme/spoken.h"

class QMenu;

namespace molten {

/// What keys of a lane have become, and the moments at which they are then.
struct ChangedKeys {
  KeyTrack track;
  std::vector<Rational> moments;
};

/// Keys are selected by a click, with Shift more of them, or by a frame drawn round them; dragged along to other
/// pictures and up to other values; stretched by brackets at both ends; copied, pasted, nudged. Handles beside a
/// selected key shape the way to it. Where all that stands is KeySight's.
class KeyLanes : public QWidget, public theme::SpokenState {
  Q_OBJECT

 public:
  static constexpr int laneHeight = 42;

  explicit KeyLanes(QWidget* parent = nullptr);
  QString spokenState() const override;
  void setState(const KeyLanesState& state);
  /// Only the playhead has moved.
  void setPlayhead(Rational seconds);
  /// The part of the time that is in sight.
  void setView(const ChartView& view);
  const KeySight& sight() const { return sight_; }

 signals:
  void changed(std::size_t parameter, const KeyTrack& track, const QString& name, const QString& mergeKey);
  void gestureEnded();
  void scrubbed(Rational seconds);
  void said(const QString& sentence);
  void counted();  ///< there are more or fewer lanes

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  bool event(QEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;
  void resizeEvent(QResizeEvent*) override;

 private:
  using Change = std::function<ChangedKeys(const KeyTrack& track, const std::vector<std::size_t>& keys)>;
  /// Keys of each lane together; they are selected afterwards. `name`: of the step; %1 in it is the
  /// lane's label.
  void changeKeys(const std::vector<KeyTrack>& from, const std::set<KeyName>& keys, const Change& change,
                  const QString& name, const QString& mergeKey);
  void apply(std::size_t lane, const KeyTrack& track, const QString& name, const QString& mergeKey);
  void select(const KeyName& key, bool more);
  void selectMoments(std::size_t lane, const std::vector<Rational>& moments);
  /// Tracks and selection as they are, for what is done to them from here on.
  void remember();
  std::vector<KeyTrack> tracks() const;
  void hover(const QPointF& point);
  void dragKeys(const QPointF& point);
  void dragEase(const QPointF& point);
  void dragFrame(const QPointF& point);
  void setEase(const Ease& ease, const QString& name);
  void nudge(std::int64_t pictures);
  /// The key after the selected one, or before it, lane after lane.
  void selectBeside(int by);
  void stretch(Rational factor, Rational around);
  void stretchTo(double x);
  void remove();
  void copy();
  void paste();
  void fillMenu(QMenu& menu);
  void drawLane(QPainter& painter, std::size_t lane) const;
  void drawKeys(QPainter& painter, std::size_t lane) const;

  KeySight sight_;
  KeyTrack copied_;
  KeyHold hold_;
  QPointF pressed_, pointer_;
  std::vector<KeyTrack> tracksAtPress_;  ///< of all lanes, when something was taken hold of
  std::set<KeyName> selectedAtPress_;
};

}  // namespace molten
