#include "app/theme/value_field.h"

#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QStyle>
#include <QWheelEvent>
#include <algorithm>
#include <utility>

namespace molten {
namespace {

constexpr int sentenceWidth = 270;

/// What scrolls with the field, or its window: sentences stand on it, so that nothing gives way to them.
QWidget* groundOf(QWidget* field) {
  QWidget* ground = field;
  while (ground->parentWidget() && !ground->isWindow() &&
         ground->parentWidget()->objectName() != "qt_scrollarea_viewport")
    ground = ground->parentWidget();
  return ground;
}

}  // namespace

ValueField::ValueField(std::function<Taken(const QString&)> take, QWidget* parent)
    : QLineEdit(parent), take_(std::move(take)) {
  connect(this, &QLineEdit::textEdited, this, [this] { say({}); });
}

ValueField::~ValueField() {
  delete sentence_;
}

void ValueField::setValueText(const QString& words) {
  value_ = words;
  if (isModified() || text() == words) return;
  setText(words);
  if (!hasFocus()) setCursorPosition(0);
}

bool ValueField::commit() {
  if (!isModified()) return true;
  const Taken taken = take_(text());
  mark(!taken.stands);
  if (taken.stands) {
    setModified(false);
    setText(value_);
  }
  say(taken.said);
  return taken.stands;
}

void ValueField::restore() {
  setText(value_);
  setModified(false);
  mark(false);
  say({});
}

void ValueField::mark(bool refused) {
  if (refused == refused_) return;
  refused_ = refused;
  setProperty("refused", refused);
  style()->unpolish(this);
  style()->polish(this);
}

void ValueField::say(const QString& sentence) {
  if (sentence_) {
    // It goes later: this may be in the middle of hiding all that lies beside it.
    sentence_->hide();
    sentence_->setObjectName({});
    sentence_->deleteLater();
    sentence_ = nullptr;
  }
  if (sentence.isEmpty()) return;
  QWidget* const ground = groundOf(this);
  sentence_ = new QLabel(sentence, ground);
  sentence_->setObjectName("sentence");
  sentence_->setProperty("over", true);
  sentence_->setWordWrap(true);
  sentence_->setFixedWidth(std::min(sentenceWidth, ground->width()));
  sentence_->adjustSize();
  const QPoint below = mapTo(ground, rect().bottomRight() + QPoint(1, 3));
  const int x = std::max(0, below.x() - sentence_->width());
  const int above = below.y() - height() - 6 - sentence_->height();
  sentence_->move(x, below.y() + sentence_->height() > ground->height() && above > 0 ? above : below.y());
  sentence_->show();
  sentence_->raise();
}

void ValueField::focusInEvent(QFocusEvent* event) {
  QLineEdit::focusInEvent(event);
  entered_ = event->reason() == Qt::MouseFocusReason;
}

void ValueField::focusOutEvent(QFocusEvent* event) {
  QLineEdit::focusOutEvent(event);
  // Beside a menu or another window it is still being typed.
  if (event->reason() == Qt::PopupFocusReason || event->reason() == Qt::ActiveWindowFocusReason) return;
  deselect();
  // What was made of it has been read; why it was refused stays to be.
  if (!isModified()) say({});
  if (!refused_ || !sentence_) commit();
  if (!isModified()) emit left();
}

void ValueField::mouseReleaseEvent(QMouseEvent* event) {
  QLineEdit::mouseReleaseEvent(event);
  if (std::exchange(entered_, false) && !hasSelectedText()) selectAll();
}

void ValueField::keyPressEvent(QKeyEvent* event) {
  const int times = event->modifiers() & Qt::ShiftModifier ? 10 : 1;
  switch (event->key()) {
    case Qt::Key_Up:
    case Qt::Key_Down:
      if (commit()) emit stepped(event->key() == Qt::Key_Up ? times : -times);
      return;
    case Qt::Key_Return:
    case Qt::Key_Enter:
      // Done: Space and the arrows belong to the picture again. What was made of it stays to be read.
      if (const bool edited = isModified(); commit()) {
        const QString said = sentence_ ? sentence_->text() : QString();
        clearFocus();
        if (edited) say(said);
      }
      return;
    case Qt::Key_Escape:
      restore();
      clearFocus();
      return;
    default:
      QLineEdit::keyPressEvent(event);
  }
}

void ValueField::wheelEvent(QWheelEvent* event) {
  // Without the focus it is the page that is scrolled.
  if (!hasFocus() || event->angleDelta().y() == 0) return event->ignore();
  if (commit()) emit stepped(event->angleDelta().y() > 0 ? 1 : -1);
  event->accept();
}

void ValueField::hideEvent(QHideEvent* event) {
  QLineEdit::hideEvent(event);
  if (isModified()) restore();
  say({});
}

}  // namespace molten
