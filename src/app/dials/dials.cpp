#include "app/dials/dials.h"

#include <QButtonGroup>
#include <QColorDialog>
#include <QFileDialog>
#include <QFileInfo>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QSettings>
#include <QVBoxLayout>

#include "app/dials/curve_editor.h"
#include "app/dials/movement_button.h"
#include "app/dials/number_dial.h"
#include "app/dials/order_editor.h"
#include "app/dials/paint_dials.h"
#include "app/theme/parts.h"
#include "app/theme/theme.h"

namespace molten {

using theme::shown;
namespace {

/// Numbers that reach into the past or ahead carry the colour of that time.
QColor toneOf(Tense tense) {
  return tense == Tense::Past ? theme::past : tense == Tense::Ahead ? theme::ahead : theme::text;
}

/// As many as find room beside each other in a column of the smallest window, in rows of about the same length.
std::size_t choicesInARow(const std::vector<QPushButton*>& buttons) {
  constexpr int room = 228;
  for (std::size_t rows = 1;; ++rows) {
    const std::size_t across = (buttons.size() + rows - 1) / rows;
    bool fits = true;
    for (std::size_t first = 0; first < buttons.size(); first += across) {
      int width = 0;
      for (std::size_t i = first; i < std::min(first + across, buttons.size()); ++i)
        width += buttons[i]->sizeHint().width();
      fits &= width <= room;
    }
    if (fits || across <= 1) return across;
  }
}

/// Side by side; nullptr: what room there is.
QWidget* rowOf(std::initializer_list<QWidget*> widgets) {
  auto* row = new QWidget;
  auto* layout = new QHBoxLayout(row);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(0);
  for (QWidget* const widget : widgets)
    if (widget)
      layout->addWidget(widget, widgets.size() == 1 ? 1 : 0);
    else
      layout->addStretch(1);
  return row;
}

}  // namespace

Dials::Dials(QWidget* parent) : QWidget(parent) {
  title_ = new QLabel;
  title_->setFont(theme::words(13, true));
  help_ = theme::note();
  cardsHolder_ = new QWidget;
  cards_ = new QGridLayout(cardsHolder_);
  cards_->setContentsMargins(0, 0, 0, 0);
  cards_->setHorizontalSpacing(16);
  cards_->setVerticalSpacing(14);
  cards_->setColumnStretch(0, 1);
  cards_->setColumnStretch(1, 1);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 12, 14, 12);
  column->setSpacing(6);
  column->addWidget(title_);
  column->addWidget(help_);
  column->addSpacing(8);
  column->addWidget(cardsHolder_);
  column->addStretch(1);
  paint_ = new PaintDials(this);
  paint_->hide();
}

void Dials::clear() {
  kind_ = nullptr;
  setters_.clear();
  rows_.clear();
  movements_.clear();
  // It is kept through all stages; the cards are not.
  paint_->setParent(this);
  paint_->hide();
  notes_.clear();
  findings_.clear();
  cardFrames_.clear();
  order_ = nullptr;
  while (QLayoutItem* item = cards_->takeAt(0)) {
    if (QWidget* widget = item->widget()) {
      widget->hide();
      widget->deleteLater();
    }
    delete item;
  }
}

void Dials::showWords(const QString& title, const QString& content) {
  clear();
  title_->setText(title);
  help_->setText(content);
}

void Dials::showMoment(const Stage& stage, Rational at) {
  if (kind_ != stage.kind || stage.keys.empty()) return;
  const StageValues values = stage.valuesAt(at.toDouble());
  for (const auto& [parameter, track] : stage.keys) {
    setters_[parameter](values[parameter]);
    movements_.at(parameter)->setState(keyAt(track, at) ? MovementButton::State::KeyHere
                                                        : MovementButton::State::Moves);
  }
}

void Dials::showStage(const Stage& stage, const std::optional<VideoDescription>& video, Rational outputRate,
                      Rational at) {
  const Rational rate = video ? video->rate : rate_;
  if (kind_ != stage.kind || !(rate_ == rate)) {
    rate_ = rate;
    build(stage);
  }
  // A name of the user's own says which one it is; the kind's what it is.
  title_->setText(stage.name.empty() ? shown(stage.kind->description().label)
                                     : shown(stage.name + " · " + stage.kind->description().label));
  frames_ = video ? video->length : 1;
  for (std::size_t i = 0; i < setters_.size(); ++i) setters_[i](stage.values[i]);
  for (auto& [parameter, movement] : movements_) movement->setState(MovementButton::State::Steady);
  showMoment(stage, at);
  bool painted = false;
  // A card of which nothing counts is no card.
  std::map<std::string, bool> counts;
  for (std::size_t i = 0; i < rows_.size(); ++i) {
    const bool used = isInUse(stage.kind->description(), stage.values, i);
    rows_[i]->setVisible(used);
    counts[stage.kind->description().parameters[i].card] |= used;
    painted = painted || (used && rows_[i] == paint_);
  }
  for (auto& [card, frame] : cardFrames_) frame->setVisible(counts[card]);
  if (!painted) paint_->setTool(PaintDials::Tool::None);
  for (auto& [card, label] : notes_) label->clear();
  for (const StageNote& note :
       video ? stage.kind->notes(stage.widestValues(), *video, outputRate) : std::vector<StageNote>{})
    if (const auto noted = notes_.find(note.card); noted != notes_.end()) {
      const QString before = noted->second->text();
      noted->second->setText(before.isEmpty() ? shown(note.text) : before + " " + shown(note.text));
    }
  for (auto& [card, label] : notes_) label->setVisible(!label->text().isEmpty());
}

void Dials::setFinding(Figure figure, const QString& sentence, const QString& remedy) {
  const auto at = findings_.find(figure);
  if (at == findings_.end()) return;
  QString content = sentence.toHtmlEscaped().replace('\n', "<br>");
  // On an amber ground what mends it is amber as well.
  const char* const colour = figure == Figure::Outside ? "#ffd24a" : "#f3efe6";
  if (!remedy.isEmpty())
    content += QString(" <a href=\"remedy\" style=\"color:%1\">%2</a>").arg(colour, remedy.toHtmlEscaped());
  at->second->setText(content);
  at->second->setVisible(!sentence.isEmpty());
}

void Dials::setPictures(std::function<QImage(std::int32_t)> pictures) {
  pictures_ = std::move(pictures);
}

void Dials::picturesChanged() {
  if (order_) order_->update();
}

/// About how high a card is, in rows.
int Dials::cardHeight(const Stage& stage, const std::string& card) {
  const StageDescription& described = stage.kind->description();
  int rows = 3;  // its title, and what is said on it
  for (std::size_t i = 0; i < described.parameters.size(); ++i) {
    const ParameterDescription& parameter = described.parameters[i];
    if (parameter.card != card || !isInUse(described, stage.values, i)) continue;
    const auto* const choices = std::get_if<ChoicesDescription>(&parameter.kind);
    rows += choices && choices->choices.size() > 4                     ? 2
            : std::holds_alternative<CurveDescription>(parameter.kind) ? 4
                                                                       : 1;
  }
  return rows;
}

void Dials::build(const Stage& stage) {
  clear();
  kind_ = stage.kind;
  const StageDescription& described = kind_->description();
  title_->setText(shown(described.label));
  help_->setText(shown(described.help));
  std::map<std::string, QVBoxLayout*> cards;
  // Cards stand in two columns, each as high as it needs; what needs the whole width begins two new ones.
  QVBoxLayout* columns[2] = {};
  int heights[2] = {}, row = 0;
  for (std::size_t i = 0; i < described.parameters.size(); ++i) {
    const ParameterDescription& parameter = described.parameters[i];
    QVBoxLayout*& card = cards[parameter.card];
    if (!card) {
      auto* frame = new QWidget;
      cardFrames_[parameter.card] = frame;
      card = new QVBoxLayout(frame);
      card->setContentsMargins(0, 0, 0, 0);
      card->setSpacing(6);
      card->addWidget(theme::rule());
      auto* title = theme::note(shown(parameter.card));
      card->addWidget(title);
      // Lists need the whole width.
      const bool wide = std::holds_alternative<SpansDescription>(parameter.kind) ||
                        std::holds_alternative<OrderDescription>(parameter.kind);
      if (wide) {
        cards_->addWidget(frame, row++, 0, 1, 2, Qt::AlignTop);
        columns[0] = columns[1] = nullptr;
      } else {
        if (!columns[0]) {
          for (int side = 0; side < 2; ++side) {
            auto* column = new QWidget;
            columns[side] = new QVBoxLayout(column);
            columns[side]->setContentsMargins(0, 0, 0, 0);
            columns[side]->setSpacing(14);
            cards_->addWidget(column, row, side, Qt::AlignTop);
          }
          ++row;
          heights[0] = heights[1] = 0;
        }
        // Into the shorter one, so that all of them are in sight.
        const int next = heights[1] < heights[0] ? 1 : 0;
        columns[next]->addWidget(frame);
        heights[next] += cardHeight(stage, parameter.card);
      }
    }
    QWidget* dial = dialFor(i, parameter);
    rows_.push_back(dial);
    card->addWidget(dial);
    if (std::holds_alternative<OrderDescription>(parameter.kind)) card->addWidget(orderEditor(i));
  }
  for (const StageAction& action : described.actions) {
    auto* button = new QPushButton(shown(action.label));
    button->setObjectName(shown(action.id));
    button->setToolTip(shown(action.help));
    button->setFocusPolicy(Qt::TabFocus);
    connect(button, &QPushButton::clicked, this, [this, id = shown(action.id)] { emit actionChosen(id); });
    cards.at(action.card)->addWidget(button);
  }
  for (auto& [name, card] : cards) {
    notes_[name] = theme::note();
    card->addWidget(notes_[name]);
    buildFindings(described, name, *card);
    card->addStretch(1);
  }
}

/// Places for what is measured about a card's parameters.
void Dials::buildFindings(const StageDescription& described, const std::string& card, QBoxLayout& layout) {
  for (const ParameterDescription& parameter : described.parameters) {
    if (parameter.card != card || !parameter.figure || findings_.contains(*parameter.figure)) continue;
    const Figure figure = *parameter.figure;
    auto* label = findings_[figure] = theme::note();
    label->setTextFormat(Qt::RichText);
    label->setFocusPolicy(Qt::TabFocus);
    label->setTextInteractionFlags(Qt::LinksAccessibleByKeyboard | Qt::LinksAccessibleByMouse);
    label->setObjectName(figure == Figure::Outside ? "outside" : shown("finding " + card));
    if (figure == Figure::Outside) {
      label->setProperty("dim", false);
      label->setProperty("notice", true);
    }
    label->hide();
    connect(label, &QLabel::linkActivated, this, [this, figure] { emit remedyChosen(figure); });
    layout.addWidget(label);
  }
}

/// Beside the order's text, which has its own setter: the two show one value.
QWidget* Dials::orderEditor(std::size_t index) {
  order_ = new OrderEditor;
  order_->setPictures([this](std::int32_t frame) { return pictures_ ? pictures_(frame) : QImage(); });
  const auto show = setters_.back();
  setters_.back() = [this, show](const ParameterValue& value) {
    show(value);
    order_->setOrder(std::get<FrameOrder>(value), frames_);
  };
  connect(order_, &OrderEditor::changed, this,
          [this, index](const FrameOrder& order) { emit valueChanged(index, order, false); });
  connect(order_, &OrderEditor::picturesWanted, this, &Dials::picturesWanted);
  return order_;
}

/// A dial with what lets its value move right of it; where it cannot, as much room, so that values stand in one line.
QWidget* Dials::withMovement(std::size_t index, const ParameterDescription& parameter, QWidget* dial) {
  auto* row = new QWidget;
  auto* layout = new QHBoxLayout(row);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(5);
  layout->addWidget(dial, 1);
  if (!parameter.animatable) {
    layout->addSpacing(MovementButton::side);
    return row;
  }
  auto* movement = new MovementButton(shown(parameter.label));
  movement->setObjectName(shown("movement " + parameter.id));
  movements_[index] = movement;
  layout->addWidget(movement);
  connect(movement, &MovementButton::flipped, this, [this, index] { emit keyToggled(index); });
  connect(movement, &MovementButton::cleared, this, [this, index] { emit keysRemoved(index); });
  return row;
}

QWidget* Dials::fileDial(std::size_t index, const ParameterDescription& parameter) {
  auto* row = new QWidget;
  auto* layout = new QHBoxLayout(row);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(4);
  auto* field = new QLineEdit;
  field->setObjectName(shown(parameter.id));
  field->setAccessibleName(shown(parameter.label));
  field->setPlaceholderText(shown(std::get<FileDescription>(parameter.kind).none));
  field->setToolTip(shown(parameter.help));
  auto* choose = new QPushButton(tr("Choose…"));
  choose->setObjectName(shown("choose " + parameter.id));
  choose->setFocusPolicy(Qt::TabFocus);
  auto* label = new QLabel(shown(parameter.label));
  label->setMinimumWidth(30);
  layout->addWidget(label);
  layout->addWidget(field, 1);
  layout->addWidget(choose);
  setters_.push_back([field, help = shown(parameter.help)](const ParameterValue& value) {
    if (field->isModified()) return;
    field->setText(shown(std::get<std::string>(value)));
    // Names are often longer than the field.
    field->setToolTip(field->text().isEmpty() ? help : help + "\n" + field->text());
    field->setCursorPosition(static_cast<int>(field->text().size()));
  });
  connect(field, &QLineEdit::returnPressed, field, &QWidget::clearFocus);
  connect(field, &QLineEdit::editingFinished, this, [this, field, index] {
    if (!field->isModified()) return;
    field->setModified(false);
    emit valueChanged(index, field->text().trimmed().toStdString(), false);
  });
  connect(choose, &QPushButton::clicked, this, [this, index, parameter] {
    QSettings settings;
    const QString path =
        QFileDialog::getOpenFileName(this, shown(parameter.label), settings.value("folder").toString());
    if (path.isEmpty()) return;
    settings.setValue("folder", QFileInfo(path).absolutePath());
    emit valueChanged(index, path.toStdString(), false);
  });
  return row;
}

/// A field of the colour that asks for another one.
QWidget* Dials::colourDial(std::size_t index, const ParameterDescription& parameter) {
  auto* row = new QWidget;
  auto* layout = new QHBoxLayout(row);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->addWidget(new QLabel(shown(parameter.label)));
  layout->addStretch(1);
  auto* button = new QPushButton;
  button->setObjectName(shown(parameter.id));
  button->setToolTip(shown(parameter.help));
  button->setAccessibleName(shown(parameter.label));
  button->setFont(theme::numbers());
  layout->addWidget(button);
  setters_.push_back([button, parameter](const ParameterValue& value) {
    const Colour colour = std::get<Colour>(value);
    QPixmap swatch(24, 12);
    swatch.fill(QColor(colour.red, colour.green, colour.blue));
    button->setIcon(swatch);
    button->setIconSize(swatch.size());
    button->setText(shown(valueLabel(parameter, value)));
  });
  connect(button, &QPushButton::clicked, this, [this, index, parameter, button] {
    const QColor chosen = QColorDialog::getColor(QColor(button->text()), this, shown(parameter.label));
    if (!chosen.isValid()) return;
    const auto part = [](int value) { return static_cast<std::uint8_t>(value); };
    emit valueChanged(index, Colour{part(chosen.red()), part(chosen.green()), part(chosen.blue())}, false);
  });
  return row;
}

QWidget* Dials::choicesDial(std::size_t index, const ParameterDescription& parameter) {
  const auto& choices = std::get<ChoicesDescription>(parameter.kind).choices;
  auto* holder = new QWidget;
  auto* layout = new QVBoxLayout(holder);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(0);
  auto* group = new QButtonGroup(holder);
  std::vector<QPushButton*> buttons;
  for (const ChoiceDescription& choice : choices) {
    auto* button = new QPushButton(shown(choice.label), holder);
    button->setCheckable(true);
    button->setFocusPolicy(Qt::TabFocus);  // Space stays the picture's after a click
    button->setProperty("segment", true);
    button->setObjectName(shown(parameter.id + "=" + choice.id));
    button->setToolTip(shown(choice.help));
    button->setMinimumWidth(0);
    button->ensurePolished();
    group->addButton(button, static_cast<int>(buttons.size()));
    buttons.push_back(button);
  }
  const std::size_t across = choicesInARow(buttons);
  for (std::size_t first = 0; first < buttons.size(); first += across) {
    auto* row = new QHBoxLayout;
    for (std::size_t i = first; i < std::min(first + across, buttons.size()); ++i) row->addWidget(buttons[i], 1);
    layout->addLayout(row);
  }
  connect(group, &QButtonGroup::idClicked, this,
          [this, index](int choice) { emit valueChanged(index, static_cast<std::size_t>(choice), false); });
  setters_.push_back([group](const ParameterValue& value) {
    group->button(static_cast<int>(std::get<std::size_t>(value)))->setChecked(true);
  });
  return holder;
}

QWidget* Dials::dialFor(std::size_t index, const ParameterDescription& parameter) {
  if (std::holds_alternative<ChoicesDescription>(parameter.kind)) return choicesDial(index, parameter);
  if (std::holds_alternative<FileDescription>(parameter.kind)) return fileDial(index, parameter);
  if (std::holds_alternative<PaintingDescription>(parameter.kind)) {
    setters_.push_back([](const ParameterValue&) {});
    // One set of tools: for the first painting that a stage has.
    if (paint_->parentWidget() != this) return new QWidget;
    return paint_;
  }
  if (std::holds_alternative<ColourDescription>(parameter.kind)) return colourDial(index, parameter);
  if (std::holds_alternative<CurveDescription>(parameter.kind)) return curveDial(index, parameter);
  if (std::holds_alternative<NumberDescription>(parameter.kind)) return numberDial(index, parameter);
  if (std::holds_alternative<ToggleDescription>(parameter.kind)) return toggleDial(index, parameter);
  return textDial(index, parameter);
}

QWidget* Dials::curveDial(std::size_t index, const ParameterDescription& parameter) {
  auto* curve = new CurveEditor;
  curve->setObjectName(shown(parameter.id));
  setters_.push_back([curve](const ParameterValue& value) { curve->setPoints(std::get<CurvePoints>(value)); });
  connect(curve, &CurveEditor::changed, this,
          [this, index](const CurvePoints& points, bool gesture) { emit valueChanged(index, points, gesture); });
  connect(curve, &CurveEditor::released, this, &Dials::gestureEnded);
  return curve;
}

QWidget* Dials::numberDial(std::size_t index, const ParameterDescription& parameter) {
  auto* dial = new NumberDial(parameter, toneOf(std::get<NumberDescription>(parameter.kind).tense));
  dial->setRate(rate_);
  connect(dial, &NumberDial::changed, this,
          [this, index](double value, bool gesture) { emit valueChanged(index, value, gesture); });
  connect(dial, &NumberDial::released, this, &Dials::gestureEnded);
  connect(dial, &NumberDial::refused, this, &Dials::refused);
  setters_.push_back([dial](const ParameterValue& value) { dial->setValue(std::get<double>(value)); });
  return withMovement(index, parameter, dial);
}

QWidget* Dials::toggleDial(std::size_t index, const ParameterDescription& parameter) {
  auto* toggle = new QPushButton(shown(parameter.label));
  toggle->setCheckable(true);
  toggle->setFocusPolicy(Qt::TabFocus);
  toggle->setObjectName(shown(parameter.id));
  toggle->setToolTip(shown(parameter.help));
  connect(toggle, &QPushButton::clicked, this, [this, index](bool on) { emit valueChanged(index, on, false); });
  setters_.push_back([toggle](const ParameterValue& value) { toggle->setChecked(std::get<bool>(value)); });
  return rowOf({toggle});
}

/// Of a place, with its label and what moves it; of spans and the like, over the whole width.
QWidget* Dials::textDial(std::size_t index, const ParameterDescription& parameter) {
  auto* field = new QLineEdit;
  field->setObjectName(shown(parameter.id));
  field->setFont(theme::numbers());
  field->setToolTip(shown(parameter.help));
  field->setAccessibleName(shown(parameter.label));
  setters_.push_back([field, parameter](const ParameterValue& value) {
    if (field->isModified()) return;
    field->setText(shown(valueLabel(parameter, value)));
    field->setCursorPosition(0);
  });
  connect(field, &QLineEdit::returnPressed, field, &QWidget::clearFocus);
  connect(field, &QLineEdit::editingFinished, this, [this, field, index, parameter] {
    if (!field->isModified()) return;
    field->setModified(false);
    const auto value = parseValue(parameter, field->text().toStdString(), rate_);
    if (value)
      emit valueChanged(index, *value, false);
    else
      emit refused(shown(value.error().message));
  });
  if (!std::holds_alternative<PlaceDescription>(parameter.kind)) return rowOf({field});
  field->setToolTip(tr("%1\nAcross × down, as fractions of the picture; or drag its handle on the Picture.")
                        .arg(shown(parameter.help)));
  field->setAlignment(Qt::AlignRight);
  field->setMaximumWidth(150);
  auto* label = new QLabel(shown(parameter.label));
  label->setMinimumWidth(46);
  label->setToolTip(field->toolTip());
  return withMovement(index, parameter, rowOf({label, nullptr, field}));
}

}  // namespace molten
