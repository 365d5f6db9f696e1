#pragma once
// The Time Chart with its line of choices.

#include <QWidget>

#include "app/chart/chart_plot.h"
#include "app/chart/key_lanes.h"

class QLabel;
class QPushButton;

namespace molten {

class TimeChart : public QWidget {
  Q_OBJECT

 public:
  explicit TimeChart(QWidget* parent = nullptr);
  void setState(const ChartState& state);
  void setFrame(std::int64_t frame) { plot_->setFrame(frame); }
  ChartPlot* plot() { return plot_; }
  KeyLanes* lanes() { return lanes_; }

 signals:
  void markRequested();

 private:
  QPushButton* choice(const QString& words, const QString& help, const char* name);

  ChartPlot* plot_;
  KeyLanes* lanes_;
  QLabel *title_, *said_;
  QWidget* paceChoices_;
  QPushButton *mark_, *up_[2], *keeping_[2], *along_[2];
  QString remark_;
};

}  // namespace molten
