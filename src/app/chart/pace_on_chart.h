#pragma once
// The Pace on the Time Chart.

#include <QObject>

#include "app/chart/chart_state.h"
#include "app/session/session.h"

namespace molten {

class Deck;

/// Which Pace the chart edits, and on what time; shows it there and makes edits of what is done to it.
class PaceOnChart : public QObject {
  Q_OBJECT

 public:
  PaceOnChart(Session& session, Deck& chart, QObject* parent = nullptr);

  /// The stage that the chart edits: the selected Pace, or the first one.
  std::optional<std::size_t> stage() const;
  /// What the Pace is, or would be if one were added at the footage.
  PaceSetting setting() const;
  /// In one step of undo; the first edit adds the Pace.
  void set(const PaceSetting& setting, const QString& name, const QString& mergeKey);
  /// There is a Pace, and the chart shows it to be edited.
  void bringUp();
  /// The playhead on the Pace's own output: another one than the piece's where later stages move pictures.
  Rational playhead() const;

 signals:
  void begun();  ///< the project's first Pace has been made

 private:
  void noticeFirst();
  /// True if chart and chain tell the same time: nothing after the Pace moves pictures, and nothing before it.
  bool tellsOutputTime(std::size_t stage) const;
  ChartState state() const;
  ChartState alone(ChartState state, std::size_t stage) const;
  void add();
  void showPlayhead();

  Session& session_;
  Deck& chart_;
  bool had_ = false;  ///< a Pace, at some time
  /// A change that comes in many steps: how everything stood before the first one, and as the last one left it.
  struct Gesture {
    QString key;
    Project began, left;
    PaceSetting setting;  ///< as it was before the first one
  };
  std::optional<Gesture> gesture_;
};

}  // namespace molten
