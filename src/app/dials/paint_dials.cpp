#include "app/dials/paint_dials.h"

#include <QButtonGroup>
#include <QGridLayout>
#include <QLabel>
#include <QPushButton>
#include <algorithm>
#include <cmath>

#include "app/dials/dial_kinds.h"
#include "app/dials/number_dial.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr double least[] = {0.002, 0, 0}, largest[] = {0.5, 1, 1};

}  // namespace

PaintDials::PaintDials(QWidget* parent) : QWidget(parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(3);
  auto* row = new QHBoxLayout;
  row->setSpacing(0);
  tools_ = new QButtonGroup(this);
  tools_->setExclusive(false);
  const struct {
    const char *name, *label;
    QString help;
  } choices[] = {{"paint=brush", "Brush", tr("Paint on the Picture with the level below")},
                 {"paint=fill", "Lasso", tr("Draw round something on the Picture: it takes the level")},
                 {"paint=gradient", "Gradient",
                  tr("Drag from one end to the other: from the other end of the scale to the level")}};
  for (int i = 0; i < 3; ++i) {
    auto* button = new QPushButton(tr(choices[i].label));
    button->setObjectName(choices[i].name);
    button->setToolTip(choices[i].help);
    button->setCheckable(true);
    button->setProperty("segment", true);
    button->setFocusPolicy(Qt::TabFocus);
    tools_->addButton(button, i + 1);
    row->addWidget(button, 1);
  }
  connect(tools_, &QButtonGroup::idClicked, this,
          [this](int id) { setTool(static_cast<int>(tool_) == id ? Tool::None : static_cast<Tool>(id)); });
  column->addLayout(row);
  const QString names[] = {tr("Size"), tr("Softness"), tr("Level")};
  const QString helps[] = {tr("The brush's radius, in picture heights"), tr("How soft its edge is"),
                           tr("What is painted: 0 % the moment of the start, 100 % that of the end")};
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(6);
  grid->setVerticalSpacing(2);
  for (int i = 0; i < 3; ++i) {
    auto* label = new QLabel(names[i]);
    label->setToolTip(helps[i]);
    sliders_[i] = new DialSlider;
    sliders_[i]->setToolTip(helps[i]);
    sliders_[i]->setAccessibleName(names[i]);
    sliders_[i]->setObjectName(QString("paint %1").arg(names[i].toLower()));
    const ParameterDescription described{
        .id = {}, .label = names[i].toStdString(), .card = {}, .help = {}, .kind = NumberDescription{Unit::Percent, least[i], largest[i]}};
    fields_[i] = new ValueField(takerOf(
        described, 1, [this, i](const ParameterValue& value) { set(i, std::get<double>(value)); }));
    fields_[i]->setObjectName(QString("paint %1 value").arg(names[i].toLower()));
    fields_[i]->setAccessibleName(names[i]);
    fields_[i]->setToolTip(helps[i]);
    fields_[i]->setFixedWidth(96);
    fields_[i]->setAlignment(Qt::AlignRight);
    grid->addWidget(label, i, 0);
    grid->addWidget(sliders_[i], i, 1);
    grid->addWidget(fields_[i], i, 2);
    connect(sliders_[i], &DialSlider::moved, this, [this, i](double share) { set(i, share * largest[i]); });
    const auto step = [this, i](int steps) { set(i, values_[i] + steps * largest[i] / 50); };
    connect(sliders_[i], &DialSlider::stepped, this, step);
    connect(fields_[i], &ValueField::stepped, this, step);
    showValue(i);
  }
  column->addLayout(grid);
  row->addSpacing(6);
  auto* all = new QPushButton(tr("Fill all"));
  all->setObjectName("paint fill all");
  all->setToolTip(tr("The whole picture takes the level"));
  auto* clear = new QPushButton(tr("Erase all"));
  clear->setObjectName("paint clear");
  clear->setToolTip(tr("The whole picture reads the moment of the start"));
  for (auto* button : {all, clear}) {
    button->setFocusPolicy(Qt::TabFocus);
    button->setStyleSheet("padding: 3px 6px;");
    row->addWidget(button);
  }
  connect(all, &QPushButton::clicked, this, [this] { emit fillRequested(level()); });
  connect(clear, &QPushButton::clicked, this, [this] { emit fillRequested(0); });
}

void PaintDials::setTool(Tool tool) {
  tool_ = tool;
  for (QAbstractButton* button : tools_->buttons()) button->setChecked(tools_->id(button) == static_cast<int>(tool));
  emit toolChosen();
}

void PaintDials::set(int which, double value) {
  values_[which] = std::clamp(value, least[which], largest[which]);
  showValue(which);
}

void PaintDials::showValue(int which) {
  sliders_[which]->setShare(values_[which] / largest[which]);
  const QString words = tr("%1 %").arg(values_[which] * 100, 0, 'f', which == 0 ? 1 : 0);
  sliders_[which]->setAccessibleDescription(words);
  fields_[which]->setValueText(words);
  if (which == 0) emit toolChosen();
}

}  // namespace molten
