#include "app/dials/output_dials.h"

#include <QGridLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/theme/parts.h"
#include "app/theme/theme.h"
#include "core/time/pace_text.h"

namespace molten {
using theme::note;
using theme::shown;

OutputDials::OutputDials(QWidget* parent) : QWidget(parent) {
  auto* title = new QLabel(tr("Output"));
  title->setFont(theme::words(13, true));
  const auto choice = [](const QString& label, const char* name, const QString& help) {
    auto* button = new QPushButton(label);
    button->setCheckable(true);
    button->setProperty("segment", true);
    button->setFocusPolicy(Qt::TabFocus);
    button->setObjectName(name);
    button->setToolTip(help);
    return button;
  };
  const auto number = [](const char* name, const QString& help) {
    auto* field = new QLineEdit;
    field->setObjectName(name);
    field->setFont(theme::numbers());
    field->setAlignment(Qt::AlignRight);
    field->setFixedWidth(96);
    field->setToolTip(help);
    connect(field, &QLineEdit::returnPressed, field, &QWidget::clearFocus);
    return field;
  };
  footageRate_ = choice(tr("The footage's"), "output-rate=footage", tr("As many fps as the footage has"));
  rate_ = number("output-rate", tr("In fps: 24, 29.97, 30000/1001"));
  rate_->setAccessibleName(tr("Output rate"));
  follows_ = choice(tr("Follows the chain"), "output-length=follows", tr("As long as what the chain gives"));
  fixed_ = choice(tr("Fixed"), "output-length=fixed", tr("As long as is typed, whatever the chain gives"));
  length_ = number("output-length", tr("A time: 7s, 168f, 1/2s"));
  length_->setAccessibleName(tr("Output length"));
  rateNote_ = note();
  lengthNote_ = note();
  words_ = note();
  auto* grid = new QGridLayout;
  grid->setHorizontalSpacing(16);
  grid->setVerticalSpacing(6);
  grid->setColumnStretch(0, 1);
  grid->setColumnStretch(1, 1);
  const auto card = [&](int column, const QString& name, std::initializer_list<QWidget*> choices, QLineEdit* field,
                        QLabel* words) {
    auto* row = new QHBoxLayout;
    row->setSpacing(0);
    for (QWidget* widget : choices) row->addWidget(widget, 1);
    auto* second = new QHBoxLayout;
    second->addStretch(1);
    second->addWidget(field);
    grid->addWidget(theme::rule(), 0, column);
    grid->addWidget(note(name), 1, column);
    grid->addLayout(row, 2, column);
    grid->addLayout(second, 3, column);
    grid->addWidget(words, 4, column, Qt::AlignTop);
  };
  card(0, tr("Rate"), {footageRate_}, rate_, rateNote_);
  card(1, tr("Length"), {follows_, fixed_}, length_, lengthNote_);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 12, 14, 12);
  column->setSpacing(8);
  column->addWidget(title);
  column->addWidget(words_);
  column->addLayout(grid);
  column->addStretch(1);
  connect(footageRate_, &QPushButton::clicked, this, [this] { emit rateChosen(std::nullopt); });
  connect(follows_, &QPushButton::clicked, this, [this] { emit lengthChosen(std::nullopt); });
  connect(fixed_, &QPushButton::clicked, this, [this] { emit lengthChosen(piece_.seconds()); });
  connect(rate_, &QLineEdit::editingFinished, this, &OutputDials::rateTyped);
  connect(length_, &QLineEdit::editingFinished, this, &OutputDials::lengthTyped);
}

void OutputDials::showPiece(const Piece& piece, Rational footageRate, const QString& content) {
  piece_ = piece;
  const bool own = !(piece.rate == footageRate);
  footageRate_->setChecked(!own);
  footageRate_->setText(tr("The footage's, %1").arg(shown(rateText(footageRate))));
  if (!rate_->isModified()) rate_->setText(shown(rateText(piece.rate)) + " fps");
  follows_->setChecked(!piece.fixed);
  fixed_->setChecked(piece.fixed);
  if (!length_->isModified()) length_->setText(shown(secondsText(piece.seconds().toDouble())));
  rateNote_->setText(own ? tr("Its own rate: the footage has %1.").arg(shown(rateText(footageRate))) : QString());
  const Rational chain = Rational(piece.chainLength) / piece.chainRate;
  lengthNote_->setText(!piece.fixed ? tr("%1 pictures, as long as the chain.").arg(piece.length)
                       : piece.seconds() > chain && !piece.chainEndless
                           ? tr("Fixed. The chain gives %1; after that its last picture stands still.")
                                 .arg(shown(secondsText(chain.toDouble(), 2)))
                           : tr("Fixed. The chain gives %1%2.")
                                 .arg(shown(secondsText(chain.toDouble(), 2)),
                                      piece.chainEndless ? tr(", round and round") : QString()));
  words_->setText(content);
}

void OutputDials::rateTyped() {
  if (!rate_->isModified()) return;
  rate_->setModified(false);
  QString typed = rate_->text().toLower().remove(' ');
  if (typed.endsWith("fps")) typed.chop(3);
  if (const auto rate = parseRate(typed.toStdString()))
    emit rateChosen(rate);
  else
    emit refused(tr("\"%1\" is no picture rate: write it like 24, 29.97 or 30000/1001.").arg(rate_->text()));
}

void OutputDials::lengthTyped() {
  if (!length_->isModified()) return;
  length_->setModified(false);
  QString typed = length_->text().toLower().remove(' ');
  const auto seconds = parseSeconds(typed.toStdString(), piece_.rate);
  if (seconds && *seconds > Rational(0) && *seconds <= Rational(longestPace))
    emit lengthChosen(seconds);
  else
    emit refused(tr("\"%1\" is no length: write it like 7s, 168f or 1/2s, 24 hours at most.").arg(length_->text()));
}

}  // namespace molten
