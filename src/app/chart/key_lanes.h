#pragma once
// Key lanes: below the Time Chart, on its time, a lane for each keyed parameter of the selected stage.

#include <QWidget>
#include <optional>
#include <set>

#include "app/chart/chart_view.h"
#include "core/stages/stage.h"

namespace molten {

struct KeyLane {
  std::size_t parameter = 0;
  QString label;
  bool place = false;  ///< two curves, x and y
  KeyTrack track;
  friend bool operator==(const KeyLane&, const KeyLane&) = default;
};

struct KeyLanesState {
  std::vector<KeyLane> lanes;
  const StageKind* kind = nullptr;
  Rational rate = 25;     ///< of the stage's pictures: keys stand on them
  Rational playhead = 0;  ///< on the stage's own output, in seconds
};

/// Keys are selected by a click, with Shift more of them, or by a frame drawn round them; dragged along to other
/// pictures and up to other values; stretched by brackets at both ends; copied, pasted, nudged. Handles beside a
/// selected key shape the way to it.
class KeyLanes : public QWidget {
  Q_OBJECT

 public:
  static constexpr int laneHeight = 42;

  explicit KeyLanes(QWidget* parent = nullptr);
  void setState(const KeyLanesState& state);
  const KeyLanesState& state() const { return state_; }
  /// Only the playhead has moved.
  void setPlayhead(Rational seconds);
  /// The part of the time that is in sight.
  void setView(const ChartView& view);

  using KeyName = std::pair<std::size_t, std::size_t>;  ///< lane and key
  const std::set<KeyName>& selected() const { return selected_; }
  QPointF keyPoint(std::size_t lane, std::size_t key) const;
  /// The handles of the way to a key: at the key before, and at the key itself.
  QPointF easePoint(std::size_t lane, std::size_t key, bool arriving) const;
  /// Where the selection begins and ends, with the brackets that stretch it; none where a single moment is selected.
  struct Brackets {
    Rational first, last;  ///< seconds
    QRectF left, right;
  };
  std::optional<Brackets> brackets() const;

 signals:
  void changed(std::size_t parameter, const KeyTrack& track, const QString& name, const QString& mergeKey);
  void gestureEnded();
  void scrubbed(Rational seconds);
  void said(const QString& sentence);

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;
  void mouseDoubleClickEvent(QMouseEvent* event) override;
  void keyPressEvent(QKeyEvent* event) override;
  bool event(QEvent* event) override;
  void contextMenuEvent(QContextMenuEvent* event) override;

 private:
  enum class Grip { None, Key, Leave, Arrive, Frame, First, Last };
  struct Hold {
    Grip grip = Grip::None;
    KeyName key;
  };
  struct Range {
    double low = 0, high = 1;
  };
  QRectF laneRect(std::size_t lane) const;
  Range rangeOf(const KeyLane& lane) const;
  double yOf(std::size_t lane, const Range& range, double value) const;
  Hold holdAt(const QPointF& at) const;
  Rational pictureAt(double x) const;
  std::vector<std::size_t> selectedOf(std::size_t lane) const;
  void selectMoments(std::size_t lane, const KeyTrack& track, const std::vector<Rational>& moments);
  void apply(std::size_t lane, const KeyTrack& track, const QString& name, const QString& mergeKey);
  void setEase(const Ease& ease, const QString& name);
  void nudge(std::int64_t pictures);
  void remember();
  void stretch(Rational factor, Rational around);
  void stretchTo(double x);
  void remove();
  void copy();
  void paste();
  void drawLane(QPainter& painter, std::size_t lane) const;
  QString valueText(const KeyLane& lane, const Key& key) const;

  KeyLanesState state_;
  ChartView view_;
  std::set<KeyName> selected_;
  KeyTrack copied_;
  Hold hold_;
  QPointF pressed_, pointer_;
  std::vector<KeyTrack> before_;  ///< of all lanes, when something was taken hold of
  std::set<KeyName> selectedBefore_;
  Range rangeBefore_;
};

}  // namespace molten
