#include "app/dials/dial_card.h"

#include <QLabel>
#include <QPainter>
#include <QVBoxLayout>

#include "app/theme/parts.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr int headerHeight = 18;

}  // namespace

CardHeader::CardHeader(const QString& title, bool folds, QWidget* parent) : QAbstractButton(parent), folds_(folds) {
  setText(title);
  setCheckable(true);
  setChecked(!folds);
  setEnabled(folds);
  setFocusPolicy(folds ? Qt::TabFocus : Qt::NoFocus);
  setSizePolicy(QSizePolicy::Ignored, QSizePolicy::Fixed);
  if (folds) setCursor(Qt::PointingHandCursor);
}

QSize CardHeader::sizeHint() const {
  return {120, headerHeight};
}

void CardHeader::setWords(const QString& words) {
  if (words == words_) return;
  words_ = words;
  setToolTip(folds_ ? words : QString());
  setAccessibleName(folds_ ? text() + ": " + words : text());
  update();
}

void CardHeader::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setFont(theme::words());
  double x = 0;
  const bool lit = folds_ && (underMouse() || hasFocus());
  if (folds_) {
    const double y = height() / 2.0;
    painter.fillRect(QRectF(0, y - 0.5, 7, 1), lit ? theme::now : theme::dim);
    if (!isChecked()) painter.fillRect(QRectF(3, y - 3.5, 1, 7), lit ? theme::now : theme::dim);
    x = 14;
  }
  painter.setPen(folds_ ? (lit ? theme::now : theme::text) : theme::dim);
  painter.drawText(QRectF(x, 0, width() - x, height()), Qt::AlignLeft | Qt::AlignVCenter, text());
  if (!folds_ || isChecked()) return;
  x += painter.fontMetrics().horizontalAdvance(text()) + 12;
  painter.setPen(theme::dim);
  painter.drawText(QRectF(x, 0, width() - x, height()), Qt::AlignRight | Qt::AlignVCenter,
                   painter.fontMetrics().elidedText(words_, Qt::ElideRight, static_cast<int>(width() - x)));
}

DialCard::DialCard(const QString& title, bool folds, int lines, QWidget* parent) : QWidget(parent) {
  setObjectName("card " + title);
  header_ = new CardHeader(title, folds);
  body_ = new QWidget;
  // Rows first, then what is said: that is the order of Tab as well.
  auto* holder = new QWidget;
  rows_ = new QVBoxLayout(holder);
  rows_->setContentsMargins(0, 0, 0, 0);
  rows_->setSpacing(3);
  said_ = new QWidget;
  said_->setFont(theme::words(11));
  said_->setFixedHeight(lines * QFontMetrics(theme::words(11)).lineSpacing());
  sentences_ = new QVBoxLayout(said_);
  sentences_->setContentsMargins(0, 0, 0, 0);
  sentences_->setSpacing(0);
  sentences_->addStretch(1);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(0, 0, 0, 0);
  column->setSpacing(2);
  column->addWidget(theme::rule());
  column->addWidget(header_);
  column->addWidget(body_);
  auto* inner = new QVBoxLayout(body_);
  inner->setContentsMargins(0, 0, 0, 3);
  inner->setSpacing(3);
  inner->addWidget(holder);
  inner->addWidget(said_);
  if (lines == 0) said_->hide();
  if (folds) body_->hide();
  connect(header_, &CardHeader::toggled, this, [this](bool on) {
    body_->setVisible(on);
    emit opened(on);
  });
}

void DialCard::addRow(QWidget* row) {
  rows_->addWidget(row);
}

void DialCard::addSaid(QLabel* label) {
  label->setFont(theme::words(11));
  sentences_->insertWidget(sentences_->count() - 1, label);
}

bool DialCard::saysTooMuch() const {
  int height = 0;
  for (const QLabel* label : said_->findChildren<QLabel*>())
    if (!label->text().isEmpty() && label->isVisibleTo(said_)) height += label->heightForWidth(said_->width());
  return height > said_->height();
}

}  // namespace molten
