#pragma once
// The deck: a ruler that is also the scrubber, the Time Chart, the key lanes and the sound lanes, all on one axis of time.

#include <QWidget>

#include "app/chart/chart_plot.h"
#include "app/chart/key_lanes.h"
#include "app/chart/scrubber.h"
#include "app/sound/sound_lanes.h"

class QLabel;
class QPushButton;
class QScrollArea;

namespace molten {

class Deck : public QWidget {
  Q_OBJECT

 public:
  explicit Deck(QWidget* parent = nullptr);
  void setState(const ChartState& state);
  void setFrame(std::int64_t frame) { plot_->setFrame(frame); }
  Scrubber* scrubber() { return scrubber_; }
  ChartPlot* plot() { return plot_; }
  KeyLanes* lanes() { return lanes_; }
  SoundLanes* sounds() { return sounds_; }
  /// Upward in the chart: source time, or speed.
  void setUp(ChartUp up);
  ChartUp up() const { return plot_->sight().up; }

 protected:
  void resizeEvent(QResizeEvent*) override;
  bool eventFilter(QObject* object, QEvent* event) override;

 private:
  QPushButton* gutterButton(const QString& words, const char* name, const QString& help);
  void shareRoom();
  void showView();
  void say(const QString& words);
  void placeSaid();

  Scrubber* scrubber_;
  ChartPlot* plot_;
  KeyLanes* lanes_;
  SoundLanes* sounds_;
  QScrollArea* lanesFrame_;
  QPushButton *up_, *fit_;
  QLabel* said_;
  QString remark_;
};

}  // namespace molten
