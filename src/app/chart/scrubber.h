#pragma once
// The deck's ruler, which is also the scrubber: the time that all of the deck tells, the playhead, in and out, and where
// moments outside the clip are read.

#include <QWidget>

#include "app/chart/chart_view.h"
#include "app/theme/spoken.h"
#include "core/project/piece.h"

namespace molten {

struct ScrubberState {
  std::int64_t length = 0;  ///< pictures; 0: nothing to scrub
  std::int64_t frame = 0;
  Span span;
  std::vector<OutsideRun> outside;  ///< pictures that read outside the clip
  Rational rate = 25;
  std::vector<std::int64_t> marked = {};  ///< pictures that were asked for, rising
};

class Scrubber : public QWidget, public theme::SpokenNumber {
  Q_OBJECT

 public:
  explicit Scrubber(QWidget* parent = nullptr);
  void setState(const ScrubberState& state);
  const ScrubberState& state() const { return state_; }
  /// What part of the time is in sight, and where.
  void setView(const ChartView& view);
  /// Where a picture begins, in pixels of the widget.
  double xOf(std::int64_t frame) const;
  double spoken() const override { return static_cast<double>(state_.frame); }
  double leastSpoken() const override { return 0; }
  double mostSpoken() const override { return static_cast<double>(std::max<std::int64_t>(0, state_.length - 1)); }
  void takeSpoken(double frame) override { emit scrubbed(static_cast<std::int64_t>(std::clamp(frame, 0.0, mostSpoken()))); }

 signals:
  void scrubbed(std::int64_t frame);
  void spanDragged(std::int64_t first, std::int64_t last);
  void spanReleased();

 protected:
  void paintEvent(QPaintEvent*) override;
  void mousePressEvent(QMouseEvent* event) override;
  void mouseMoveEvent(QMouseEvent* event) override;
  void mouseReleaseEvent(QMouseEvent*) override;

 private:
  enum class Grip { None, Playhead, In, Out };
  void drawRuns(QPainter& painter) const;
  void drawTimes(QPainter& painter) const;
  void drawEnds(QPainter& painter) const;
  /// The picture that begins nearest to a place along.
  std::int64_t frameAt(double x) const;
  Grip gripAt(const QPointF& point) const;

  ScrubberState state_;
  ChartView view_;
  Grip grip_ = Grip::None;
};

}  // namespace molten
