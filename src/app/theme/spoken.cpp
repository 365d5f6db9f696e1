#include "app/theme/spoken.h"

#include <QAccessibleWidget>
#include <QVariant>

namespace molten::theme {
namespace {

constexpr const char* roleProperty = "spoken role";

class Spoken : public QAccessibleWidget, public QAccessibleValueInterface {
 public:
  Spoken(QWidget* widget, QAccessible::Role role) : QAccessibleWidget(widget, role), number_(dynamic_cast<SpokenNumber*>(widget)), state_(dynamic_cast<SpokenState*>(widget)) {}

  QString text(QAccessible::Text which) const override {
    return which == QAccessible::Description && state_ ? state_->spokenState() : QAccessibleWidget::text(which);
  }

  void* interface_cast(QAccessible::InterfaceType type) override {
    if (type == QAccessible::ValueInterface && number_) return static_cast<QAccessibleValueInterface*>(this);
    return QAccessibleWidget::interface_cast(type);
  }
  QVariant currentValue() const override { return number_->spoken(); }
  void setCurrentValue(const QVariant& value) override { number_->takeSpoken(value.toDouble()); }
  QVariant maximumValue() const override { return number_->mostSpoken(); }
  QVariant minimumValue() const override { return number_->leastSpoken(); }
  QVariant minimumStepSize() const override { return {}; }

 private:
  SpokenNumber* number_;
  SpokenState* state_;
};

QAccessibleInterface* spokenFor(const QString&, QObject* object) {
  auto* const widget = qobject_cast<QWidget*>(object);
  const QVariant role = widget ? widget->property(roleProperty) : QVariant();
  return role.isValid() ? new Spoken(widget, static_cast<QAccessible::Role>(role.toInt())) : nullptr;
}

}  // namespace

void setSpoken(QWidget& widget, QAccessible::Role role, const QString& name) {
  // Qt takes it once, however often it is given.
  QAccessible::installFactory(spokenFor);
  widget.setProperty(roleProperty, static_cast<int>(role));
  widget.setAccessibleName(name);
}

void tellState(QWidget& widget) {
  if (!QAccessible::isActive()) return;
  QAccessibleEvent changed(&widget, QAccessible::DescriptionChanged);
  QAccessible::updateAccessibility(&changed);
}

void tellNumber(QWidget& widget, double number) {
  if (!QAccessible::isActive()) return;
  QAccessibleValueChangeEvent changed(&widget, number);
  QAccessible::updateAccessibility(&changed);
}

}  // namespace molten::theme
