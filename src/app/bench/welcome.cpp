#include "app/bench/welcome.h"

#include <QLabel>
#include <QPainter>
#include <QPushButton>
#include <QVBoxLayout>

#include "app/theme/spoken.h"
#include "app/theme/theme.h"

namespace molten {

Welcome::Welcome(QWidget* parent) : QWidget(parent) {
  setFocusPolicy(Qt::StrongFocus);
  theme::setSpoken(*this, QAccessible::Grouping, tr("Footage is dropped here"));
  trouble_ = new QLabel;
  trouble_->setWordWrap(true);
  trouble_->setAlignment(Qt::AlignCenter);
  trouble_->setFixedWidth(560);
  trouble_->setObjectName("trouble");
  trouble_->hide();
  headline_ = new QLabel;
  headline_->setFont(theme::words(22, true));
  headline_->setAlignment(Qt::AlignCenter);
  auto* kinds = new QLabel(tr("A clip, numbered stills or their folder, or a .molten project"));
  kinds->setProperty("dim", true);
  kinds->setAlignment(Qt::AlignCenter);
  auto* open = new QPushButton(tr("Open footage…"));
  open->setProperty("primary", true);
  auto* demo = new QPushButton(tr("Open the demo"));
  for (auto* button : {open, demo}) button->setMinimumSize(130, 32);
  auto* steps =
      new QLabel(tr("Then add a Time Field to the Chain, drag its two ends on the Picture, and press Space."));
  steps->setProperty("dim", true);
  steps->setAlignment(Qt::AlignCenter);
  steps->setWordWrap(true);
  auto* buttons = new QHBoxLayout;
  buttons->addStretch(1);
  buttons->addWidget(open);
  buttons->addSpacing(8);
  buttons->addWidget(demo);
  buttons->addStretch(1);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(48, 48, 48, 48);
  column->addStretch(3);
  auto* troubleRow = new QHBoxLayout;
  troubleRow->addStretch(1);
  troubleRow->addWidget(trouble_);
  troubleRow->addStretch(1);
  column->addLayout(troubleRow);
  column->addSpacing(16);
  column->addWidget(headline_);
  column->addSpacing(4);
  column->addWidget(kinds);
  column->addSpacing(18);
  column->addLayout(buttons);
  column->addSpacing(18);
  column->addWidget(steps);
  column->addStretch(4);
  setReplacing(false);
  connect(open, &QPushButton::clicked, this, &Welcome::openRequested);
  connect(demo, &QPushButton::clicked, this, &Welcome::demoRequested);
}

void Welcome::setTrouble(const QString& sentence) {
  trouble_->setText(sentence);
  trouble_->setVisible(!sentence.isEmpty());
}

void Welcome::setReplacing(bool replacing) {
  headline_->setText(replacing ? tr("Drop the footage here") : tr("Drop footage here"));
}

void Welcome::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.fillRect(rect(), theme::ink);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.setPen(QPen(theme::line, 1.5, Qt::DashLine));
  painter.drawRoundedRect(QRectF(rect()).adjusted(24, 24, -24, -24), 6, 6);
}

}  // namespace molten
