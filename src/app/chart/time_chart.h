#pragma once
// The Time Chart with its line of choices.

#include <QWidget>
#include <functional>
#include <vector>

#include "app/chart/chart_plot.h"
#include "app/chart/key_lanes.h"

class QHBoxLayout;
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
  struct Choice {
    QString words, help;
    const char* name;
    std::function<void()> act;
  };
  QHBoxLayout* firstRow();
  QHBoxLayout* secondRow();
  QPushButton* button(const QString& words, const QString& help, const char* name);
  std::vector<QPushButton*> addChoices(QHBoxLayout* row, const QString& words, const std::vector<Choice>& choices);

  ChartPlot* plot_;
  KeyLanes* lanes_;
  QLabel *title_, *said_;
  QWidget* paceChoices_;
  QPushButton *mark_, *fit_;
  std::vector<QPushButton*> up_;
  QString remark_;
};

}  // namespace molten
