#include "app/dials/footage_dials.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/theme/parts.h"
#include "app/theme/theme.h"

namespace molten {
using theme::note;
using theme::rule;
using theme::shown;

FootageDials::FootageDials(QWidget* parent) : QWidget(parent) {
  name_ = new QLabel;
  name_->setFont(theme::words(13, true));
  words_ = note();
  betweenNote_ = note();
  rateNote_ = note();
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(14, 12, 14, 12);
  column->setSpacing(8);
  column->addWidget(name_);
  column->addWidget(words_);
  column->addWidget(rule());
  column->addWidget(note(tr("In-between")));
  auto* row = new QHBoxLayout;
  row->setSpacing(0);
  for (std::size_t i = 0; i < inBetweenChoices().size(); ++i) {
    const ChoiceDescription& choice = inBetweenChoices()[i];
    auto* button = new QPushButton(shown(choice.label));
    button->setCheckable(true);
    button->setProperty("segment", true);
    button->setFocusPolicy(Qt::TabFocus);
    button->setObjectName("in-between=" + shown(choice.id));
    button->setToolTip(shown(choice.help));
    connect(button, &QPushButton::clicked, this, [this, i] { emit betweenChosen(static_cast<InBetween>(i)); });
    row->addWidget(button, 1);
    between_.push_back(button);
  }
  column->addLayout(row);
  column->addWidget(betweenNote_);
  rateCard_ = new QWidget;
  auto* card = new QVBoxLayout(rateCard_);
  card->setContentsMargins(0, 0, 0, 0);
  card->addWidget(rule());
  auto* line = new QHBoxLayout;
  line->addWidget(note(tr("Rate")), 1);
  rate_ = new QLineEdit;
  rate_->setObjectName("footage-rate");
  rate_->setAccessibleName(tr("Footage rate"));
  rate_->setFont(theme::numbers());
  rate_->setAlignment(Qt::AlignRight);
  rate_->setFixedWidth(96);
  rate_->setToolTip(tr("In fps: 24, 29.97, 30000/1001"));
  line->addWidget(rate_);
  card->addLayout(line);
  card->addWidget(rateNote_);
  column->addWidget(rateCard_);
  column->addStretch(1);
  connect(rate_, &QLineEdit::returnPressed, rate_, &QWidget::clearFocus);
  connect(rate_, &QLineEdit::editingFinished, this, &FootageDials::takeRate);
}

void FootageDials::showFootage(const Footage& footage, const Source& source, const QStringList& lines) {
  name_->setText(shown(footage.name()));
  words_->setText(lines.join('\n'));
  const auto chosen = static_cast<std::size_t>(source.between);
  for (std::size_t i = 0; i < between_.size(); ++i) between_[i]->setChecked(i == chosen);
  betweenNote_->setText(shown(inBetweenChoices()[chosen].help));
  rateCard_->setVisible(footage.hasFreeRate());
  if (!rate_->isModified()) rate_->setText(shown(rateText(footage.clock().rate())) + " fps");
  rateNote_->setText(footage.isStills() ? tr("Numbered stills have no rate of their own.")
                     : source.rate      ? tr("Its rate varies; this is the one that its time is counted in.")
                                        : tr("Its rate varies; this is the one that its time stamps mean."));
}

void FootageDials::takeRate() {
  if (!rate_->isModified()) return;
  rate_->setModified(false);
  QString typed = rate_->text().toLower().remove(' ');
  if (typed.endsWith("fps")) typed.chop(3);
  if (const auto rate = parseRate(typed.toStdString()))
    emit rateTyped(*rate);
  else
    emit refused(tr("\"%1\" is no picture rate: write it like 24, 29.97 or 30000/1001.").arg(rate_->text()));
}

}  // namespace molten
