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
  auto* rule = new QWidget;
  rule->setFixedHeight(1);
  rule->setStyleSheet("background:#35373c");
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(0);
  column->addWidget(rule);
  column->addLayout(firstRow());
  column->addLayout(secondRow());
  column->addWidget(plot_, 1);
  column->addWidget(lanes_);
  connect(plot_, &ChartPlot::viewChanged, this, [this] { lanes_->setView(plot_->sight().view); });
  const auto say = [this](const QString& words) { said_->setText(words.isEmpty() ? remark_ : words); };
  connect(plot_, &ChartPlot::said, this, say);
  connect(lanes_, &KeyLanes::said, this, say);
}

/// The title, and what counts for every chart.
QHBoxLayout* TimeChart::firstRow() {
  title_ = new QLabel;
  mark_ = button(tr("Mark"), tr("Drop a mark at the playhead (M)"), "chartMark");
  connect(mark_, &QPushButton::clicked, this, &TimeChart::markRequested);
  fit_ = button(tr("Fit"), tr("All of the output and the source in sight"), "chartFit");
  connect(fit_, &QPushButton::clicked, plot_, &ChartPlot::fit);
  auto* row = new QHBoxLayout;
  row->setContentsMargins(10, 5, 12, 0);
  row->setSpacing(0);
  row->addWidget(title_);
  row->addSpacing(14);
  row->addWidget(mark_);
  row->addSpacing(8);
  row->addWidget(fit_);
  row->addSpacing(14);
  up_ = addChoices(
      row, tr("Show"),
      {{tr("source time"), tr("A slope is a speed, flat is a freeze, down is backwards"), "chartUp=source",
        [this] { plot_->setUp(ChartUp::Source); }},
       {tr("speed"), tr("The same with percent upward"), "chartUp=speed", [this] { plot_->setUp(ChartUp::Speed); }}});
  row->addStretch(1);
  return row;
}

/// What counts for a Pace alone, and what is said.
QHBoxLayout* TimeChart::secondRow() {
  paceChoices_ = new QWidget;
  auto* choices = new QHBoxLayout(paceChoices_);
  choices->setContentsMargins(0, 0, 0, 0);
  choices->setSpacing(0);
  addChoices(choices, tr("Speed keeps"),
             {{tr("footage"), tr("A changed speed keeps the span's footage: its length changes, what follows moves"),
               "speedKeeps=footage", [this] { plot_->setKeeping(Keeping::Footage); }},
              {tr("length"), tr("A changed speed keeps the span's length: it shows other footage"), "speedKeeps=length",
               [this] { plot_->setKeeping(Keeping::Length); }}});
  addChoices(choices, tr("Marks slide along"),
             {{tr("output"), tr("A mark slides to another moment; later marks stay on their moments"),
               "marksSlide=output", [this] { plot_->setAlong(Along::Output); }},
              {tr("footage"), tr("A mark slides to another frame; later marks stay on their footage"),
               "marksSlide=footage", [this] { plot_->setAlong(Along::Footage); }}});
  said_ = new QLabel;
  said_->setProperty("dim", true);
  said_->setAlignment(Qt::AlignRight | Qt::AlignVCenter);
  said_->setObjectName("chartSaid");
  said_->setMinimumWidth(60);
  auto* row = new QHBoxLayout;
  row->setContentsMargins(10, 3, 12, 3);
  row->setSpacing(0);
  row->addWidget(paceChoices_);
  row->addWidget(said_, 1);
  return row;
}

/// The first one is chosen.
std::vector<QPushButton*> TimeChart::addChoices(QHBoxLayout* row, const QString& words,
                                                const std::vector<Choice>& choices) {
  auto* label = new QLabel(words);
  label->setProperty("dim", true);
  row->addWidget(label);
  row->addSpacing(6);
  auto* group = new QButtonGroup(this);
  std::vector<QPushButton*> buttons;
  for (const Choice& choice : choices) {
    auto* const one = button(choice.words, choice.help, choice.name);
    one->setCheckable(true);
    one->setProperty("segment", true);
    one->setChecked(buttons.empty());
    connect(one, &QPushButton::clicked, this, choice.act);
    group->addButton(one);
    row->addWidget(one);
    buttons.push_back(one);
  }
  row->addSpacing(14);
  return buttons;
}

QPushButton* TimeChart::button(const QString& words, const QString& help, const char* name) {
  auto* made = new QPushButton(words);
  made->setFocusPolicy(Qt::TabFocus);
  made->setObjectName(name);
  made->setToolTip(help);
  made->setMinimumWidth(made->fontMetrics().horizontalAdvance(words) + 20);
  return made;
}

void TimeChart::setState(const ChartState& state) {
  title_->setText(state.title);
  remark_ = state.remark;
  said_->setText(remark_);
  paceChoices_->setVisible(state.pace.has_value());
  for (auto* const button : {mark_, fit_}) button->setEnabled(state.footage);
  for (auto* const button : up_) button->setEnabled(state.footage);
  plot_->setState(state);
}

}  // namespace molten
