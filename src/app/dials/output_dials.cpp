#include "app/dials/output_dials.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/dials/dial_card.h"
#include "app/dials/dial_kinds.h"
#include "app/theme/parts.h"
#include "app/theme/theme.h"
#include "core/time/pace_text.h"

namespace molten {
using theme::note;
using theme::shown;
namespace {

QPushButton* choice(const QString& label, const char* name, const QString& help) {
  auto* button = new QPushButton(label);
  button->setCheckable(true);
  button->setProperty("segment", true);
  button->setFocusPolicy(Qt::TabFocus);
  button->setObjectName(name);
  button->setToolTip(help);
  return button;
}

/// A field with its name before it, on the right.
QWidget* named(const QString& name, ValueField* field, const char* id, const QString& help) {
  field->setObjectName(id);
  field->setAccessibleName(name);
  field->setToolTip(help);
  field->setAlignment(Qt::AlignRight);
  field->setFixedWidth(120);
  return rowOf({new QLabel(name), nullptr, field});
}

}  // namespace

OutputDials::OutputDials(QWidget* parent) : QWidget(parent) {
  auto* title = new QLabel(tr("Output"));
  title->setFont(theme::words(13, true));
  footageRate_ = choice(tr("The footage's"), "output-rate=footage", tr("As many fps as the footage has"));
  rate_ = new ValueField([this](const QString& typed) { return takeRate(typed); });
  follows_ = choice(tr("Follows the chain"), "output-length=follows", tr("As long as what the chain gives"));
  fixed_ = choice(tr("Fixed"), "output-length=fixed", tr("As long as is typed, whatever the chain gives"));
  length_ = new ValueField([this](const QString& typed) { return takeLength(typed); });
  rateNote_ = note();
  lengthNote_ = note();
  words_ = note();
  auto* rate = new DialCard(tr("Rate"), false, 1);
  rate->addRow(footageRate_);
  rate->addRow(named(tr("Output rate"), rate_, "output-rate", tr("In fps: 24, 29.97, 30000/1001")));
  rate->addSaid(rateNote_);
  auto* length = new DialCard(tr("Length"), false, 2);
  length->addRow(rowOf({follows_, fixed_}));
  length->addRow(named(tr("Output length"), length_, "output-length", tr("A time: 7s, 168f, 1/2s")));
  length->addSaid(lengthNote_);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 9, 12, 6);
  column->setSpacing(6);
  column->addWidget(title);
  column->addWidget(rate);
  column->addWidget(length);
  column->addWidget(theme::rule());
  column->addWidget(words_);
  column->addStretch(1);
  connect(footageRate_, &QPushButton::clicked, this, [this] { emit rateChosen(std::nullopt); });
  connect(follows_, &QPushButton::clicked, this, [this] { emit lengthChosen(std::nullopt); });
  connect(fixed_, &QPushButton::clicked, this, [this] { emit lengthChosen(piece_.seconds()); });
}

void OutputDials::showPiece(const Piece& piece, Rational footageRate, const QString& content) {
  piece_ = piece;
  const bool own = !(piece.rate == footageRate);
  footageRate_->setChecked(!own);
  footageRate_->setText(tr("The footage's, %1").arg(shown(rateText(footageRate))));
  rate_->setValueText(shown(rateText(piece.rate)) + " fps");
  follows_->setChecked(!piece.fixed);
  fixed_->setChecked(piece.fixed);
  length_->setValueText(shown(secondsText(piece.seconds().toDouble())));
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

Taken OutputDials::takeRate(const QString& typed) {
  const auto rate = typedRate(typed);
  if (!rate) return {false, tr("\"%1\" is no picture rate: write it like 24, 29.97 or 30000/1001.").arg(typed)};
  emit rateChosen(rate);
  return {};
}

Taken OutputDials::takeLength(const QString& typed) {
  const QString plain = typed.toLower().remove(' ').replace(',', '.');
  const auto seconds = parseSeconds(plain.toStdString(), piece_.rate);
  if (!seconds || *seconds <= Rational(0))
    return {false, tr("\"%1\" is no length: write it like 7s, 168f or 1/2s, 24 hours at most.").arg(typed)};
  const bool tooLong = *seconds > Rational(longestPace);
  emit lengthChosen(tooLong ? Rational(longestPace) : *seconds);
  return {true, tooLong ? tr("24 hours are the most: it is that now.") : QString()};
}

}  // namespace molten
