#include "app/dials/number_dial.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QLabel>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>
#include <utility>

#include "app/theme/theme.h"

namespace molten {

DialSlider::DialSlider(QWidget* parent) : QWidget(parent) {
  setMinimumSize(28, 22);
  setFocusPolicy(Qt::TabFocus);
  setCursor(Qt::PointingHandCursor);
}

void DialSlider::setShare(double share) {
  share_ = std::clamp(share, 0.0, 1.0);
  update();
}

void DialSlider::paintEvent(QPaintEvent*) {
  QPainter painter(this);
  const double middle = height() / 2.0, left = 3, right = width() - 3;
  const double at = left + (right - left) * share_;
  painter.fillRect(QRectF(left, middle - 0.5, right - left, 1), theme::line);
  painter.fillRect(QRectF(left, middle - 1, at - left, 2), theme::dim);
  painter.fillRect(QRectF(at - 2, middle - 6, 4, 12), theme::now);
  if (hasFocus()) {
    painter.setPen(theme::now);
    painter.drawRect(QRectF(0.5, 0.5, width() - 1, height() - 1));
  }
}

void DialSlider::mousePressEvent(QMouseEvent* event) {
  if (event->button() == Qt::LeftButton) mouseMoveEvent(event);
}

void DialSlider::mouseMoveEvent(QMouseEvent* event) {
  if (event->buttons() & Qt::LeftButton) emit moved(std::clamp((event->position().x() - 3) / (width() - 6), 0.0, 1.0));
}

void DialSlider::mouseReleaseEvent(QMouseEvent*) {
  emit released();
}

void DialSlider::wheelEvent(QWheelEvent* event) {
  emit stepped(event->angleDelta().y() > 0 ? 1 : -1);
  event->accept();
}

void DialSlider::keyPressEvent(QKeyEvent* event) {
  switch (event->key()) {
    case Qt::Key_Up:
    case Qt::Key_Right:
      return emit stepped(event->modifiers() & Qt::ShiftModifier ? 10 : 1);
    case Qt::Key_Down:
    case Qt::Key_Left:
      return emit stepped(event->modifiers() & Qt::ShiftModifier ? -10 : -1);
    default:
      QWidget::keyPressEvent(event);
  }
}

NumberDial::NumberDial(const ParameterDescription& parameter, const QColor& tone, QWidget* parent)
    : QWidget(parent), parameter_(parameter), number_(std::get<NumberDescription>(parameter.kind)) {
  label_ = new QLabel(QString::fromStdString(parameter.label));
  label_->setMinimumWidth(46);
  label_->installEventFilter(this);
  slider_ = new DialSlider;
  field_ = new QLineEdit;
  field_->setObjectName(QString::fromStdString(parameter.id));
  field_->setFont(theme::numbers());
  field_->setAlignment(Qt::AlignRight);
  field_->setFixedWidth(82);
  field_->setStyleSheet(QString("color: %1").arg(tone.name()));
  field_->installEventFilter(this);
  const QString help = tr("%1\nType a value%2, drag, or use wheel and arrows. Double-click the name for the default.")
                           .arg(QString::fromStdString(parameter.help),
                                number_.unit == Unit::Seconds   ? tr(" with its unit: 1.5s, 36f, 1/12s")
                                : number_.unit == Unit::Percent ? tr(" in percent")
                                                                : QString());
  for (QWidget* widget : {static_cast<QWidget*>(label_), static_cast<QWidget*>(slider_), static_cast<QWidget*>(field_)})
    widget->setToolTip(help);
  slider_->setAccessibleName(QString::fromStdString(parameter.label));
  field_->setAccessibleName(QString::fromStdString(parameter.label));
  auto* row = new QHBoxLayout(this);
  row->setContentsMargins(0, 0, 0, 0);
  row->setSpacing(6);
  row->addWidget(label_);
  row->addWidget(slider_, 1);
  row->addWidget(field_);
  connect(slider_, &DialSlider::moved, this, [this](double share) {
    // Whole steps while dragging; finer ones are typed.
    const double from = std::max(number_.least, -number_.usual);
    const double value = from + share * (number_.usual - from);
    const double grain = number_.whole ? 1 : number_.step / 5;
    // The slider's end is the end, whatever the grain.
    emit changed(std::clamp(std::round(value / grain) * grain, number_.least, number_.most), true);
  });
  connect(slider_, &DialSlider::released, this, &NumberDial::released);
  connect(slider_, &DialSlider::stepped, this, &NumberDial::step);
  connect(field_, &QLineEdit::editingFinished, this, &NumberDial::typed);
  setValue(number_.initial);
}

void NumberDial::setValue(double value) {
  value_ = value;
  const double from = std::max(number_.least, -number_.usual);
  slider_->setShare((value - from) / (number_.usual - from));
  if (!field_->isModified()) field_->setText(QString::fromStdString(valueLabel(parameter_, value)));
}

void NumberDial::step(int steps) {
  emit changed(std::clamp(value_ + steps * number_.step, number_.least, number_.most), true);
}

void NumberDial::typed() {
  if (!field_->isModified()) return;
  field_->setModified(false);
  const auto value = parseValue(parameter_, field_->text().toStdString(), rate_);
  if (value)
    emit changed(std::get<double>(*value), false);
  else
    emit refused(QString::fromStdString(value.error().message));
  setValue(value ? std::get<double>(*value) : value_);
}

bool NumberDial::eventFilter(QObject* object, QEvent* event) {
  if (object == label_ && event->type() == QEvent::MouseButtonDblClick) {
    emit changed(number_.initial, false);
    return true;
  }
  if (object != field_) return false;
  if (event->type() == QEvent::Wheel) {
    step(static_cast<QWheelEvent*>(event)->angleDelta().y() > 0 ? 1 : -1);
    return true;
  }
  // A first click takes the whole value, so that what is typed stands in its place.
  if (event->type() == QEvent::FocusIn) entered_ = static_cast<QFocusEvent*>(event)->reason() == Qt::MouseFocusReason;
  if (event->type() == QEvent::MouseButtonRelease && std::exchange(entered_, false) && !field_->hasSelectedText())
    field_->selectAll();
  return event->type() == QEvent::KeyPress && takeKey(*static_cast<QKeyEvent*>(event));
}

bool NumberDial::takeKey(const QKeyEvent& key) {
  const int times = key.modifiers() & Qt::ShiftModifier ? 10 : 1;
  switch (key.key()) {
    case Qt::Key_Up:
    case Qt::Key_Down:
      typed();
      step(key.key() == Qt::Key_Up ? times : -times);
      return true;
    case Qt::Key_Return:
    case Qt::Key_Enter:
      // Done: Space and the arrows belong to the picture again.
      typed();
      field_->clearFocus();
      return true;
    case Qt::Key_Escape:
      field_->setModified(false);
      setValue(value_);
      field_->clearFocus();
      return true;
    default:
      return false;
  }
}

}  // namespace molten
