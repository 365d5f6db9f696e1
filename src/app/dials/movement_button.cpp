#include "app/dials/movement_button.h"

#include <QMouseEvent>
#include <QPainter>
#include <QPainterPath>
#include <cmath>

#include "app/theme/theme.h"

namespace molten {

MovementButton::MovementButton(const QString& what, QWidget* parent) : QAbstractButton(parent), what_(what) {
  setFixedSize(side, side);
  setFocusPolicy(Qt::TabFocus);
  setCursor(Qt::PointingHandCursor);
  setState(State::Steady);
  connect(this, &QAbstractButton::clicked, this, [this] { shift_ ? emit flipped() : emit opened(); });
}

void MovementButton::setState(State state) {
  if (state == state_) return;
  state_ = state;
  setAccessibleName((state == State::Steady    ? tr("%1: steady")
                     : state == State::KeyHere ? tr("%1: a key here")
                     : state == State::Wavy    ? tr("%1: goes in waves")
                     : state == State::Jagged  ? tr("%1: trembles")
                                               : tr("%1: moves, no key here"))
                        .arg(what_));
  setToolTip((state == State::KeyHere ? tr("What moves %1; Shift-click takes the key here away")
                                      : tr("Let %1 move: keys, jitter, waves, following; Shift-click sets a key here"))
                 .arg(what_));
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
  if (state_ == State::Wavy || state_ == State::Jagged) {
    // Two waves, or draws that are all of another height.
    static constexpr double heights[] = {0, 0.7, -1, 0.2, -0.4, 1, -0.1};
    QPolygonF path;
    const int points = state_ == State::Wavy ? 28 : 6;
    for (int i = 0; i <= points; ++i) {
      const double u = static_cast<double>(i) / points;
      const double up = state_ == State::Wavy ? std::sin(4 * std::acos(-1.0) * u) : heights[i];
      path << QPointF(left + u * (right - left), middle - up * (low - high) / 2);
    }
    painter.drawPolyline(path);
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

void MovementButton::mouseReleaseEvent(QMouseEvent* event) {
  shift_ = event->modifiers() & Qt::ShiftModifier;
  QAbstractButton::mouseReleaseEvent(event);
  shift_ = false;
}

}  // namespace molten
