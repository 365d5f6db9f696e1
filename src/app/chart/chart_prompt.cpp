#include "app/chart/chart_prompt.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QLineEdit>
#include <QVBoxLayout>

#include "app/theme/theme.h"

namespace molten {

ChartPrompt::ChartPrompt(const QString& question, const QString& text, const QString& wanted, Effect effect,
                         QWidget* parent)
    : QFrame(parent), effect_(std::move(effect)), wanted_(wanted) {
  setAutoFillBackground(true);
  setFrameShape(QFrame::Box);
  setStyleSheet("ChartPrompt, molten--ChartPrompt { background: #26272b; border: 1px solid #f3efe6; }");
  field_ = new QLineEdit(text);
  field_->setFont(theme::words());
  field_->setFixedWidth(96);
  field_->setAccessibleName(question);
  words_ = new QLabel;
  words_->setProperty("dim", true);
  auto* row = new QHBoxLayout;
  row->setSpacing(8);
  row->addWidget(new QLabel(question));
  row->addWidget(field_);
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(10, 8, 10, 8);
  column->setSpacing(4);
  column->addLayout(row);
  column->addWidget(words_);
  connect(field_, &QLineEdit::textChanged, this, &ChartPrompt::typed);
  field_->installEventFilter(this);
  field_->selectAll();
  typed();
}

QString ChartPrompt::effectShown() const {
  return words_->text();
}

void ChartPrompt::typed() {
  const auto effect = effect_(field_->text());
  words_->setText(effect ? *effect : wanted_);
  adjustSize();
}

bool ChartPrompt::eventFilter(QObject* object, QEvent* event) {
  if (event->type() == QEvent::KeyPress) {
    const int key = static_cast<QKeyEvent*>(event)->key();
    if (key == Qt::Key_Return || key == Qt::Key_Enter) {
      // What cannot stand stays to be mended.
      if (!effect_(field_->text())) return true;
      done_ = true;
      emit answered(field_->text());
      return true;
    }
    if (key == Qt::Key_Escape) {
      done_ = true;
      emit dismissed();
      return true;
    }
  }
  if (event->type() == QEvent::FocusOut && !done_) {
    done_ = true;
    emit dismissed();
  }
  return QFrame::eventFilter(object, event);
}

}  // namespace molten
