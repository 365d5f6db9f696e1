#include "app/dials/number_dial.h"

#include <QHBoxLayout>
#include <QKeyEvent>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>
#include <cmath>

#include "app/dials/dial_kinds.h"
#include "app/theme/parts.h"
#include "app/theme/theme.h"

namespace molten {
namespace {

constexpr int fieldWidth = 96;

}  // namespace

DialSlider::DialSlider(QWidget* parent) : QWidget(parent) {
  setMinimumSize(28, 22);
  setFocusPolicy(Qt::TabFocus);
  setCursor(Qt::PointingHandCursor);
  theme::setSpoken(*this, QAccessible::Slider, {});
}

void DialSlider::setShare(double share) {
  share = std::clamp(share, 0.0, 1.0);
  if (share == share_) return;
  share_ = share;
  theme::tellNumber(*this, share);
  update();
}

void DialSlider::takeSpoken(double share) {
  emit moved(std::clamp(share, 0.0, 1.0));
  emit released();
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
  // Without the focus it is the page that is scrolled.
  if (!hasFocus() || event->angleDelta().y() == 0) return event->ignore();
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

NumberDial::NumberDial(const ParameterDescription& parameter, const QColor& tone, int names, QWidget* parent)
    : QWidget(parent), parameter_(parameter), number_(std::get<NumberDescription>(parameter.kind)) {
  label_ = new theme::OneLine(QString::fromStdString(parameter.label));
  label_->setSizePolicy(QSizePolicy::Fixed, QSizePolicy::Fixed);
  label_->setFixedWidth(names);
  label_->installEventFilter(this);
  slider_ = new DialSlider;
  field_ = new ValueField([this](const QString& words) {
    return takerOf(parameter_, rate_,
                   [this](const ParameterValue& value) { emit changed(std::get<double>(value), false); })(words);
  });
  field_->setObjectName(QString::fromStdString(parameter.id));
  field_->setAlignment(Qt::AlignRight);
  field_->setFixedWidth(fieldWidth);
  field_->setStyleSheet(QString("color: %1").arg(tone.name()));
  const QString help =
      tr("%1\nType a value%2, or drag; arrows step it, and the wheel while it has the focus. Double-click the name for "
         "the default.")
          .arg(QString::fromStdString(parameter.help), number_.unit == Unit::Seconds
                                                           ? tr(" with its unit: 1.5s, 36f, 1/12s")
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
  connect(field_, &ValueField::stepped, this, &NumberDial::step);
  setValue(number_.initial);
}

void NumberDial::setValue(double value) {
  value_ = value;
  const double from = std::max(number_.least, -number_.usual);
  slider_->setShare((value - from) / (number_.usual - from));
  const QString words = QString::fromStdString(valueLabel(parameter_, value));
  slider_->setAccessibleDescription(words);
  field_->setValueText(words);
}

void NumberDial::step(int steps) {
  emit changed(std::clamp(value_ + steps * number_.step, number_.least, number_.most), true);
}

bool NumberDial::eventFilter(QObject* object, QEvent* event) {
  if (object != label_ || event->type() != QEvent::MouseButtonDblClick) return false;
  emit changed(number_.initial, false);
  return true;
}

}  // namespace molten
