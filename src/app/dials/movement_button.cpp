#include "app/dials/movement_button.h"

#include <QContextMenuEvent>
#include <QMenu>
#include <QPainter>
#include <QPainterPath>

#include "app/theme/theme.h"

namespace molten {

MovementButton::MovementButton(const QString& what, QWidget* parent) : QAbstractButton(parent), what_(what) {
  setFixedSize(side, side);
  setFocusPolicy(Qt::TabFocus);
  setCursor(Qt::PointingHandCursor);
  setState(State::Steady);
  connect(this, &QAbstractButton::clicked, this, &MovementButton::flipped);
}

void MovementButton::setState(State state) {
  if (state == state_) return;
  state_ = state;
  setAccessibleName(state == State::Steady  ? tr("%1: steady").arg(what_)
                    : state == State::Moves ? tr("%1: moves, no key here").arg(what_)
                                            : tr("%1: a key here").arg(what_));
  setToolTip(state == State::Steady  ? tr("Let %1 move: gives it a key at the playhead").arg(what_)
             : state == State::Moves ? tr("Set a key of %1 here; right click takes all away").arg(what_)
                                     : tr("Take the key of %1 away; right click takes all away").arg(what_));
  update();
}

void MovementButton::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setPen(hasFocus() ? theme::now : theme::line);
  painter.setBrush(underMouse() ? theme::line : theme::raised);
  painter.setRenderHint(QPainter::Antialiasing);
  painter.drawRoundedRect(QRectF(0.5, 0.5, width() - 1, height() - 1), 3, 3);
  const double left = 4.5, right = width() - 4.5, low = height() - 6.5, high = 6.5, middle = height() / 2.0;
  painter.setBrush(Qt::NoBrush);
  painter.setPen(QPen(state_ == State::Steady ? theme::dim : theme::now, 1.3));
  if (state_ == State::Steady) {
    painter.setRenderHint(QPainter::Antialiasing, false);
    painter.drawLine(QPointF(left, middle), QPointF(right, middle));
    return;
  }
  QPainterPath bent({left, low});
  bent.cubicTo(left + 6, low, right - 6, high, right, high);
  painter.drawPath(bent);
  if (state_ == State::Moves) return;
  painter.setPen(Qt::NoPen);
  painter.setBrush(theme::now);
  painter.drawEllipse(QPointF(width() / 2.0, middle), 3, 3);
}

void MovementButton::contextMenuEvent(QContextMenuEvent* event) {
  if (state_ == State::Steady) return;
  QMenu menu;
  menu.addAction(state_ == State::KeyHere ? tr("Remove this key") : tr("Set a key here"), this,
                 &MovementButton::flipped);
  menu.addAction(tr("Remove all keys of %1").arg(what_), this, &MovementButton::cleared);
  menu.exec(event->globalPos());
}

}  // namespace molten
