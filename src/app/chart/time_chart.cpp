#include "app/chart/time_chart.h"

#include <QButtonGroup>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/theme/theme.h"

namespace molten {

TimeChart::TimeChart(QWidget* parent) : QWidget(parent) {
  setAutoFillBackground(true);
  plot_ = new ChartPlot;
  lanes_ = new KeyLanes;
  title_ = new QLabel;
  said_ = new QLabel;
  said_->setProperty("dim", true);
  said_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  said_->setObjectName("chartSaid");
  said_->setMinimumWidth(60);
  mark_ = choice(tr("Mark"), tr("Drop a mark at the playhead (M)"), "chartMark");
  mark_->setCheckable(false);
  mark_->setProperty("segment", false);
  connect(mark_, &QPushButton::clicked, this, &TimeChart::markRequested);
  auto* fit = choice(tr("Fit"), tr("All of the output and the source in sight"), "chartFit");
  fit->setCheckable(false);
  fit->setProperty("segment", false);
  connect(fit, &QPushButton::clicked, plot_, &ChartPlot::fit);
  up_[0] = choice(tr("source time"), tr("A slope is a speed, flat is a freeze, down is backwards"), "chartUp=source");
  up_[1] = choice(tr("speed"), tr("The same with percent upward"), "chartUp=speed");
  keeping_[0] =
      choice(tr("footage"), tr("A changed speed keeps the span's footage: its length changes, what follows moves"),
             "speedKeeps=footage");
  keeping_[1] =
      choice(tr("length"), tr("A changed speed keeps the span's length: it shows other footage"), "speedKeeps=length");
  along_[0] = choice(tr("output"), tr("A mark slides to another moment; later marks stay on their moments"),
                     "marksSlide=output");
  along_[1] = choice(tr("footage"), tr("A mark slides to another frame; later marks stay on their footage"),
                     "marksSlide=footage");
  auto* row = new QHBoxLayout;
  row->setContentsMargins(10, 5, 12, 0);
  row->setSpacing(0);
  row->addWidget(title_);
  row->addSpacing(14);
  row->addWidget(mark_);
  row->addSpacing(8);
  row->addWidget(fit);
  row->addSpacing(14);
  const auto pair = [&](QHBoxLayout* into, const QString& words, QPushButton*(&buttons)[2]) {
    if (!words.isEmpty()) {
      auto* label = new QLabel(words);
      label->setProperty("dim", true);
      into->addWidget(label);
      into->addSpacing(6);
    }
    auto* group = new QButtonGroup(this);
    for (auto* button : buttons) {
      group->addButton(button);
      into->addWidget(button);
    }
    buttons[0]->setChecked(true);
    into->addSpacing(14);
  };
  pair(row, tr("Show"), up_);
  row->addStretch(1);
  // What counts for a Pace alone, and what is said.
  paceChoices_ = new QWidget;
  auto* choices = new QHBoxLayout(paceChoices_);
  choices->setContentsMargins(0, 0, 0, 0);
  choices->setSpacing(0);
  pair(choices, tr("Speed keeps"), keeping_);
  pair(choices, tr("Marks slide along"), along_);
  auto* second = new QHBoxLayout;
  second->setContentsMargins(10, 3, 12, 3);
  second->setSpacing(0);
  second->addWidget(paceChoices_);
  second->addWidget(said_, 1);
  auto* rule = new QWidget;
  rule->setFixedHeight(1);
  rule->setStyleSheet("background:#35373c");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  column->addWidget(rule);
  column->addLayout(row);
  column->addLayout(second);
  column->addWidget(plot_, 1);
  column->addWidget(lanes_);
  connect(plot_, &ChartPlot::viewChanged, this, [this] { lanes_->setView(plot_->sight().view); });
  connect(lanes_, &KeyLanes::said, this,
          [this](const QString& words) { said_->setText(words.isEmpty() ? remark_ : words); });
  connect(up_[0], &QPushButton::clicked, this, [this] { plot_->setUp(ChartUp::Source); });
  connect(up_[1], &QPushButton::clicked, this, [this] { plot_->setUp(ChartUp::Speed); });
  connect(keeping_[0], &QPushButton::clicked, this, [this] { plot_->setKeeping(Keeping::Footage); });
  connect(keeping_[1], &QPushButton::clicked, this, [this] { plot_->setKeeping(Keeping::Length); });
  connect(along_[0], &QPushButton::clicked, this, [this] { plot_->setAlong(Along::Output); });
  connect(along_[1], &QPushButton::clicked, this, [this] { plot_->setAlong(Along::Footage); });
  connect(plot_, &ChartPlot::said, this,
          [this](const QString& words) { said_->setText(words.isEmpty() ? remark_ : words); });
}

QPushButton* TimeChart::choice(const QString& words, const QString& help, const char* name) {
  auto* button = new QPushButton(words);
  button->setCheckable(true);
  button->setProperty("segment", true);
  button->setFocusPolicy(Qt::TabFocus);
  button->setObjectName(name);
  button->setToolTip(help);
  button->setMinimumWidth(button->fontMetrics().horizontalAdvance(words) + 20);
  return button;
}

void TimeChart::setState(const ChartState& state) {
  title_->setText(state.title);
  remark_ = state.remark;
  said_->setText(remark_);
  paceChoices_->setVisible(state.pace.has_value());
  for (auto* button : {up_[0], up_[1], mark_}) button->setEnabled(state.footage);
  plot_->setState(state);
}

}  // namespace molten
