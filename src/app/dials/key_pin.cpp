#include "app/dials/key_pin.h"

#include <QContextMenuEvent>
#include <QMenu>
#include <QPainter>

#include "app/theme/theme.h"

namespace molten {

KeyPin::KeyPin(const QString& what, QWidget* parent) : QAbstractButton(parent), what_(what) {
  setFixedSize(13, 20);
  setFocusPolicy(Qt::TabFocus);
  setCursor(Qt::PointingHandCursor);
  setState(State::None);
  connect(this, &QAbstractButton::clicked, this, &KeyPin::flipped);
}

void KeyPin::setState(State state) {
  if (state == state_) return;
  state_ = state;
  setAccessibleName(state == State::None        ? tr("%1: no keys").arg(what_)
                    : state == State::Elsewhere ? tr("%1: has keys, none here").arg(what_)
                                                : tr("%1: a key here").arg(what_));
  setToolTip(state == State::None        ? tr("Give %1 a key at the playhead: it can change over time").arg(what_)
             : state == State::Elsewhere ? tr("Set a key of %1 here; right click takes all away").arg(what_)
                                         : tr("Take the key of %1 away; right click takes all away").arg(what_));
  update();
}

void KeyPin::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  painter.setRenderHint(QPainter::Antialiasing);
  const QPointF middle(width() / 2.0, height() / 2.0);
  painter.setPen(QPen(state_ == State::None ? theme::dim : theme::now, 1.2));
  painter.setBrush(state_ == State::Here ? QBrush(theme::now) : Qt::NoBrush);
  painter.drawEllipse(middle, 4, 4);
  if (state_ == State::Elsewhere) {
    painter.setPen(Qt::NoPen);
    painter.setBrush(theme::now);
    painter.drawEllipse(middle, 1.6, 1.6);
  }
  if (hasFocus()) {
    painter.setPen(theme::now);
    painter.setBrush(Qt::NoBrush);
    painter.drawRect(QRectF(0.5, 0.5, width() - 1, height() - 1));
  }
}

void KeyPin::contextMenuEvent(QContextMenuEvent* event) {
  if (state_ == State::None) return;
  QMenu menu;
  menu.addAction(state_ == State::Here ? tr("Remove this key") : tr("Set a key here"), this, &KeyPin::flipped);
  menu.addAction(tr("Remove all keys of %1").arg(what_), this, &KeyPin::cleared);
  menu.exec(event->globalPos());
}

}  // namespace molten
