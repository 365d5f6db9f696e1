#include "app/dials/footage_dials.h"

#include <QHBoxLayout>
#include <QLabel>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/dials/dial_card.h"
#include "app/dials/dial_kinds.h"
#include "app/theme/parts.h"
#include "app/theme/theme.h"

namespace molten {
using theme::note;
using theme::shown;

FootageDials::FootageDials(QWidget* parent) : QWidget(parent) {
  name_ = new QLabel;
  name_->setFont(theme::words(13, true));
  words_ = note();
  betweenNote_ = note();
  rateNote_ = note();
  auto* between = new DialCard(tr("In-between"), false, 2);
  auto* row = rowOf({});
  for (std::size_t i = 0; i < inBetweenChoices().size(); ++i) {
    const ChoiceDescription& choice = inBetweenChoices()[i];
    auto* button = new QPushButton(shown(choice.label));
    button->setCheckable(true);
    button->setProperty("segment", true);
    button->setFocusPolicy(Qt::TabFocus);
    button->setObjectName("in-between=" + shown(choice.id));
    button->setToolTip(shown(choice.help));
    connect(button, &QPushButton::clicked, this, [this, i] { emit betweenChosen(static_cast<InBetween>(i)); });
    row->layout()->addWidget(button);
    between_.push_back(button);
  }
  between->addRow(row);
  between->addSaid(betweenNote_);
  rate_ = new ValueField([this](const QString& typed) { return takeRate(typed); });
  rate_->setObjectName("footage-rate");
  rate_->setAccessibleName(tr("Footage rate"));
  rate_->setAlignment(Qt::AlignRight);
  rate_->setFixedWidth(120);
  rate_->setToolTip(tr("In fps: 24, 29.97, 30000/1001"));
  auto* rate = new DialCard(tr("Rate"), false, 2);
  rate->addRow(rowOf({new QLabel(tr("Footage rate")), nullptr, rate_}));
  rate->addSaid(rateNote_);
  rateCard_ = rate;
  betweenCard_ = between;
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(12, 9, 12, 6);
  column->setSpacing(6);
  column->addWidget(name_);
  column->addWidget(words_);
  column->addWidget(between);
  column->addWidget(rateCard_);
  column->addStretch(1);
}

void FootageDials::showReel(const QStringList& lines) {
  name_->setText(tr("Reel"));
  words_->setText(lines.join('\n'));
  betweenCard_->hide();
  rateCard_->hide();
}

void FootageDials::showFootage(const Footage& footage, const Source& source, const QStringList& lines) {
  name_->setText(shown(footage.name()));
  words_->setText(lines.join('\n'));
  const auto chosen = static_cast<std::size_t>(source.between);
  for (std::size_t i = 0; i < between_.size(); ++i) between_[i]->setChecked(i == chosen);
  betweenNote_->setText(shown(inBetweenChoices()[chosen].help));
  betweenCard_->show();
  rateCard_->setVisible(footage.hasFreeRate());
  rate_->setValueText(shown(rateText(footage.clock().rate())) + " fps");
  rateNote_->setText(footage.isStills() ? tr("Numbered stills have no rate of their own.")
                     : source.rate      ? tr("Its rate varies; this is the one that its time is counted in.")
                                        : tr("Its rate varies; this is the one that its time stamps mean."));
}

Taken FootageDials::takeRate(const QString& typed) {
  const auto rate = typedRate(typed);
  if (!rate) return {false, tr("\"%1\" is no picture rate: write it like 24, 29.97 or 30000/1001.").arg(typed)};
  emit rateTyped(*rate);
  return {};
}

}  // namespace molten
