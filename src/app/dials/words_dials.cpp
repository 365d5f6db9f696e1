#include "app/dials/words_dials.h"

#include <QComboBox>
#include <QFontDatabase>
#include <QFontMetrics>
#include <QLabel>
#include <QPlainTextEdit>
#include <QSignalBlocker>

#include "app/theme/parts.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

using theme::shown;

constexpr int linesShown = 2;

/// What is typed is taken as it is typed; Enter begins a new line, Tab goes on to the next dial.
Dial linesDial(const ParameterDescription& parameter, const DialHand& hand) {
  auto* field = new QPlainTextEdit;
  field->setObjectName(shown(parameter.id));
  field->setAccessibleName(shown(parameter.label));
  field->setToolTip(shown(parameter.help));
  field->setTabChangesFocus(true);
  field->setFont(theme::words(13));
  field->setFixedHeight(QFontMetrics(field->font()).lineSpacing() * linesShown + 14);
  QObject::connect(field, &QPlainTextEdit::textChanged, field, [field, change = hand.change] {
    change(field->toPlainText().toStdString(), true);
  });
  return {field, [field](const ParameterValue& value) {
            const QString words = shown(std::get<std::string>(value));
            if (field->toPlainText() == words) return;
            const QSignalBlocker quiet(field);
            field->setPlainText(words);
          }};
}

Dial typefaceDial(const ParameterDescription& parameter, const DialHand& hand) {
  auto* field = new QComboBox;
  field->setObjectName(shown(parameter.id));
  field->setAccessibleName(shown(parameter.label));
  field->setToolTip(shown(parameter.help));
  field->setFocusPolicy(Qt::StrongFocus);
  field->setSizeAdjustPolicy(QComboBox::AdjustToMinimumContentsLengthWithIcon);
  field->setMinimumContentsLength(14);
  field->addItems(QFontDatabase::families());
  QObject::connect(field, &QComboBox::textActivated, field, [change = hand.change](const QString& name) {
    change(name.toStdString(), false);
  });
  auto* name = new QLabel(shown(parameter.label));
  name->setFixedWidth(hand.names);
  return {rowOf({name, nullptr, field}), [field](const ParameterValue& value) {
            const QString chosen = shown(std::get<std::string>(value));
            const QSignalBlocker quiet(field);
            // One that is not there stays named.
            if (field->findText(chosen) < 0) field->addItem(chosen);
            field->setCurrentText(chosen);
          }};
}

}  // namespace

Dial wordsDial(const ParameterDescription& parameter, const DialHand& hand) {
  return std::get<TextDescription>(parameter.kind).typeface ? typefaceDial(parameter, hand) : linesDial(parameter, hand);
}

}  // namespace molten
