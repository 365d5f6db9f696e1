#include "app/dials/dial_kinds.h"

#include <QButtonGroup>
#include <QColorDialog>
#include <QFileDialog>
#include <QFileInfo>
#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QSettings>
#include <QVBoxLayout>

#include "app/dials/curve_editor.h"
#include "app/dials/number_dial.h"
#include "app/dials/words_dials.h"
#include "app/theme/parts.h"
#include "app/theme/theme.h"

namespace molten {

using theme::shown;
namespace {

/// Numbers that reach into the past or ahead carry the colour of that time.
QColor toneOf(Tense tense) {
  return tense == Tense::Past ? theme::past : tense == Tense::Ahead ? theme::ahead : theme::text;
}

QLabel* nameOf(const ParameterDescription& parameter, int width) {
  auto* name = new theme::OneLine(shown(parameter.label));
  name->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
  name->setFixedWidth(width);
  name->setToolTip(shown(parameter.help));
  return name;
}

/// As many as find room beside each other in the narrowest window, in rows of about the same length.
std::size_t choicesInARow(const std::vector<QPushButton*>& buttons) {
  constexpr int room = 308;
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

Dial fileDial(const ParameterDescription& parameter, const DialHand& hand) {
  auto* field = new ValueField([change = hand.change](const QString& typed) {
    change(typed.trimmed().toStdString(), false);
    return Taken{};
  });
  field->setObjectName(shown(parameter.id));
  field->setAccessibleName(shown(parameter.label));
  field->setPlaceholderText(shown(std::get<FileDescription>(parameter.kind).none));
  field->setToolTip(shown(parameter.help));
  auto* choose = new QPushButton(QObject::tr("Choose…"));
  choose->setObjectName(shown("choose " + parameter.id));
  choose->setFocusPolicy(Qt::TabFocus);
  auto* row = rowOf({nameOf(parameter, hand.names / 2), field, choose}, 6);
  QObject::connect(choose, &QPushButton::clicked, row, [row, change = hand.change, label = shown(parameter.label)] {
    QSettings settings;
    const QString path = QFileDialog::getOpenFileName(row, label, settings.value("folder").toString());
    if (path.isEmpty()) return;
    settings.setValue("folder", QFileInfo(path).absolutePath());
    change(path.toStdString(), false);
  });
  return {row, [field, help = shown(parameter.help)](const ParameterValue& value) {
            const QString path = shown(std::get<std::string>(value));
            field->setValueText(path);
            // Names are often longer than the field.
            field->setToolTip(path.isEmpty() ? help : help + "\n" + path);
            if (!field->hasFocus()) field->setCursorPosition(static_cast<int>(field->text().size()));
          }};
}

/// A field of the colour that asks for another one.
Dial colourDial(const ParameterDescription& parameter, const DialHand& hand) {
  auto* button = new QPushButton;
  button->setObjectName(shown(parameter.id));
  button->setToolTip(shown(parameter.help));
  button->setAccessibleName(shown(parameter.label));
  auto* row = rowOf({nameOf(parameter, hand.names), nullptr, button});
  QObject::connect(button, &QPushButton::clicked, row, [row, button, parameter, change = hand.change] {
    const QColor chosen = QColorDialog::getColor(QColor(button->text()), row, shown(parameter.label));
    if (!chosen.isValid()) return;
    const auto part = [](int value) { return static_cast<std::uint8_t>(value); };
    change(Colour{part(chosen.red()), part(chosen.green()), part(chosen.blue())}, false);
  });
  return {row, [button, parameter](const ParameterValue& value) {
            const Colour colour = std::get<Colour>(value);
            QPixmap swatch(24, 12);
            swatch.fill(QColor(colour.red, colour.green, colour.blue));
            button->setIcon(swatch);
            button->setIconSize(swatch.size());
            button->setText(shown(valueLabel(parameter, value)));
          }};
}

Dial choicesDial(const ParameterDescription& parameter, const DialHand& hand) {
  const auto& choices = std::get<ChoicesDescription>(parameter.kind).choices;
  auto* holder = new QWidget;
  auto* rows = new QVBoxLayout(holder);
  rows->setContentsMargins(0, 0, 0, 0);
  rows->setSpacing(0);
  auto* group = new QButtonGroup(holder);
  std::vector<QPushButton*> buttons;
  for (const ChoiceDescription& choice : choices) {
    auto* button = new QPushButton(shown(choice.label), holder);
    button->setCheckable(true);
    button->setFocusPolicy(Qt::TabFocus);  // Space stays the picture's after a click
    button->setProperty("segment", true);
    button->setObjectName(shown(parameter.id + "=" + choice.id));
    button->setToolTip(shown(choice.help));
    button->setAccessibleName(shown(parameter.label + ": " + choice.label));
    button->setMinimumWidth(0);
    button->ensurePolished();
    group->addButton(button, static_cast<int>(buttons.size()));
    buttons.push_back(button);
  }
  const std::size_t across = choicesInARow(buttons);
  for (std::size_t first = 0; first < buttons.size(); first += across) {
    auto* row = new QHBoxLayout;
    for (std::size_t i = first; i < std::min(first + across, buttons.size()); ++i)
      row->addWidget(buttons[i], buttons[i]->sizeHint().width());
    rows->addLayout(row);
  }
  QObject::connect(group, &QButtonGroup::idClicked, holder, [change = hand.change](int choice) {
    change(static_cast<std::size_t>(choice), false);
  });
  return {holder, [group](const ParameterValue& value) {
            group->button(static_cast<int>(std::get<std::size_t>(value)))->setChecked(true);
          }};
}

Dial curveDial(const ParameterDescription& parameter, const DialHand& hand) {
  auto* curve = new CurveEditor;
  curve->setObjectName(shown(parameter.id));
  QObject::connect(curve, &CurveEditor::changed, curve, hand.change);
  QObject::connect(curve, &CurveEditor::released, curve, hand.letGo);
  return {curve, [curve](const ParameterValue& value) { curve->setPoints(std::get<CurvePoints>(value)); }};
}

Dial numberDial(const ParameterDescription& parameter, const DialHand& hand) {
  auto* dial = new NumberDial(parameter, toneOf(std::get<NumberDescription>(parameter.kind).tense), hand.names);
  dial->setRate(hand.rate);
  QObject::connect(dial, &NumberDial::changed, dial, hand.change);
  QObject::connect(dial, &NumberDial::released, dial, hand.letGo);
  return {dial, [dial](const ParameterValue& value) { dial->setValue(std::get<double>(value)); }};
}

Dial toggleDial(const ParameterDescription& parameter, const DialHand& hand) {
  auto* toggle = new QPushButton(shown(parameter.label));
  toggle->setCheckable(true);
  toggle->setFocusPolicy(Qt::TabFocus);
  toggle->setObjectName(shown(parameter.id));
  toggle->setToolTip(shown(parameter.help));
  QObject::connect(toggle, &QPushButton::clicked, toggle, [change = hand.change](bool on) { change(on, false); });
  return {toggle, [toggle](const ParameterValue& value) { toggle->setChecked(std::get<bool>(value)); }};
}

/// Of a place, with its name; of spans and the like, over the whole width.
Dial textDial(const ParameterDescription& parameter, const DialHand& hand) {
  auto* field = new ValueField(takerOf(parameter, hand.rate, [change = hand.change](const ParameterValue& value) {
    change(value, false);
  }));
  field->setObjectName(shown(parameter.id));
  field->setToolTip(shown(parameter.help));
  field->setAccessibleName(shown(parameter.label));
  const auto show = [field, parameter](const ParameterValue& value) {
    field->setValueText(shown(valueLabel(parameter, value)));
  };
  if (!std::holds_alternative<PlaceDescription>(parameter.kind)) {
    // How it is written stands beside it.
    auto* syntax = theme::note(shown(parameter.help));
    syntax->setFont(theme::words(11));
    auto* holder = new QWidget;
    auto* column = new QVBoxLayout(holder);
    column->setContentsMargins(0, 0, 0, 0);
    column->setSpacing(2);
    column->addWidget(field);
    column->addWidget(syntax);
    return {holder, show};
  }
  if (parameter.card.empty())
    field->setToolTip(QObject::tr("%1\nAcross × down, as fractions of the picture.").arg(shown(parameter.help)));
  else
    field->setToolTip(QObject::tr("%1\nAcross × down, as fractions of the picture; or drag its handle on the Picture.")
                          .arg(shown(parameter.help)));
  field->setAlignment(Qt::AlignRight);
  field->setFixedWidth(120);
  return {rowOf({nameOf(parameter, hand.names), nullptr, field}), show};
}

}  // namespace

std::function<Taken(const QString&)> takerOf(const ParameterDescription& parameter, Rational rate,
                                             std::function<void(const ParameterValue&)> change) {
  return [parameter, rate, change = std::move(change)](const QString& words) -> Taken {
    const auto typed = typedValue(parameter, words.toStdString(), rate);
    if (!typed) return {false, shown(typed.error().message)};
    change(typed->value);
    return {true, shown(typed->said)};
  };
}

std::optional<Rational> typedRate(const QString& words) {
  QString plain = words.toLower().remove(' ').replace(',', '.');
  if (plain.endsWith("fps")) plain.chop(3);
  return parseRate(plain.toStdString());
}

QWidget* rowOf(std::initializer_list<QWidget*> widgets, int spacing) {
  auto* row = new QWidget;
  auto* layout = new QHBoxLayout(row);
  layout->setContentsMargins(0, 0, 0, 0);
  layout->setSpacing(spacing);
  for (QWidget* const widget : widgets)
    if (widget)
      layout->addWidget(widget);
    else
      layout->addStretch(1);
  return row;
}

Dial dialFor(const ParameterDescription& parameter, const DialHand& hand) {
  if (std::holds_alternative<ChoicesDescription>(parameter.kind)) return choicesDial(parameter, hand);
  if (std::holds_alternative<FileDescription>(parameter.kind)) return fileDial(parameter, hand);
  if (std::holds_alternative<TextDescription>(parameter.kind)) return wordsDial(parameter, hand);
  if (std::holds_alternative<ColourDescription>(parameter.kind)) return colourDial(parameter, hand);
  if (std::holds_alternative<CurveDescription>(parameter.kind)) return curveDial(parameter, hand);
  if (std::holds_alternative<NumberDescription>(parameter.kind)) return numberDial(parameter, hand);
  if (std::holds_alternative<ToggleDescription>(parameter.kind)) return toggleDial(parameter, hand);
  return textDial(parameter, hand);
}

}  // namespace molten
